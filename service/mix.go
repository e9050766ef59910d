package service

import (
	"hexachord/core/mix"
	"hexachord/core/play"
	"hexachord/core/project"
)

// recordingsStrip is the part under which the strip of the recordings in the song is kept, on note 0.
const recordingsStrip = "recordings"

// desk is a project's mix at work for what is bounced; partOf is the part whose notes lie in a range of 128. Lanes are those that are wanted
// alone as well.
func desk(p project.Project, rate int, partOf func(n int) string, lanes []int) play.Desk {
	d := mix.NewDesk(p.Mix, p.Settings.BPM, rate)
	return play.Desk{Desk: d, Lanes: lanes, Sends: func(note int) []mix.Send {
		part := partOf(note / play.NotesAPart)
		if part == recordingsStrip {
			return d.Sends(part, 0)
		}
		return d.Sends(part, note%play.NotesAPart)
	}}
}

// songParts says whose notes are whose in what a song sounds.
func songParts(p project.Project) func(n int) string {
	parts := p.PartIDs()
	return func(n int) string {
		if n < len(parts) {
			return parts[n]
		}
		return recordingsStrip
	}
}
