package view

import (
	"hexachord/core/mix"
	"hexachord/core/project"
)

// Mix is a mix as a window shows it: with what its outputs are called, Main first, and the codes of the lanes that go to each.
type Mix struct {
	mix.Mix
	Names []string   `json:"names"`
	Lanes [][]string `json:"lanes"`
}

func mixOf(p project.Project) Mix {
	m := Mix{Mix: p.Mix}
	for i := range p.Mix.All() {
		codes := []string{}
		for _, l := range p.OutputLanes(i) {
			codes = append(codes, l.Code)
		}
		m.Names, m.Lanes = append(m.Names, p.OutputName(i)), append(m.Lanes, codes)
	}
	return m
}
