package view

import (
	"hexachord/core/drummap"
	"hexachord/core/music"
	"hexachord/core/project"
)

// Picture is a project in small: the bench with its lanes at the left and patterns on their rows.
type Picture struct {
	Title      string           `json:"title"`
	Kit        string           `json:"kit"` // its name
	BPM        float64          `json:"bpm"`
	Meter      string           `json:"meter"` // of the first pattern
	Lanes      []PictureLane    `json:"lanes"`
	Patterns   []PicturePattern `json:"patterns"`
	Recordings int              `json:"recordings"`
	Sounds     []string         `json:"-"`      // hashes of the samples it sounds
	Holds      int              `json:"sounds"` // number of these
	Swatches   []drummap.Swatch `json:"swatches"`
	Kick       string           `json:"kick"`  // hash of its kick's loudest layer, "" for none
	Snare      string           `json:"snare"` // and of its snare's
}

// PictureLane is a lane of a picture.
type PictureLane struct {
	Note  int    `json:"note"`
	Color string `json:"color"`
	Name  string `json:"name"`
}

// PicturePattern is a pattern of a picture. Only the first few have their hits.
type PicturePattern struct {
	ID   string       `json:"id"`
	Name string       `json:"name"`
	Bars int          `json:"bars"`
	Hits int          `json:"hits"`
	Dots []PictureHit `json:"dots"`
}

// PictureHit is a hit of a picture: the row of its lane in Lanes, and where it lies, 0 to 1 of the pattern's length.
type PictureHit struct {
	Row int     `json:"row"`
	At  float64 `json:"at"`
}

// How much of a project its picture shows.
const (
	pictureLanes    = 12
	picturePatterns = 60
	pictureHits     = 400
)

// PictureOf draws a project in small: lanes that patterns strike go before those that none does.
func PictureOf(p project.Project) Picture {
	out := Picture{Title: p.Title(), Kit: p.Kit.Name, BPM: p.Settings.BPM, Meter: music.CommonTime.String(), Recordings: len(p.Recordings),
		Lanes: []PictureLane{}, Patterns: []PicturePattern{}, Sounds: p.Kit.Samples(), Swatches: swatches(p.Map), Kick: loudest(p, drummap.Kick), Snare: loudest(p, drummap.Snare)}
	out.Holds = len(out.Sounds)
	used := map[int]bool{}
	for _, pt := range p.Patterns {
		for _, h := range pt.Value.Hits {
			used[h.Note] = true
		}
	}
	leave := len(p.Map.Lanes) - pictureLanes
	row := map[int]int{}
	for _, l := range p.Map.Lanes {
		if leave > 0 && !used[l.Note] || len(out.Lanes) == 2*pictureLanes {
			leave--
			continue
		}
		row[l.Note] = len(out.Lanes)
		out.Lanes = append(out.Lanes, PictureLane{l.Note, string(l.Color), l.Name})
	}
	for i, pt := range p.Patterns {
		v := pt.Value
		if i == 0 {
			out.Meter = v.Meter.String()
		}
		if i == picturePatterns {
			break
		}
		small := PicturePattern{ID: pt.ID, Name: v.Name, Bars: v.Bars, Hits: len(v.Hits), Dots: []PictureHit{}}
		for _, h := range v.Hits {
			if r, ok := row[h.Note]; ok && len(small.Dots) < pictureHits {
				small.Dots = append(small.Dots, PictureHit{r, float64(h.Tick) / float64(v.LengthTicks())})
			}
		}
		out.Patterns = append(out.Patterns, small)
	}
	return out
}

// loudest is the sample of the hardest layer of the first lane of a role that sounds.
func loudest(p project.Project, role drummap.Role) string {
	for _, l := range p.Map.Lanes {
		if l.Role != role {
			continue
		}
		if pad, _ := p.Kit.Pad(l.Note); len(pad.Layers) > 0 {
			return pad.Layers[len(pad.Layers)-1].Sounds[0].Takes[0].Sample
		}
	}
	return ""
}
