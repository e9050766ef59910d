package project

import (
	"fmt"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// LayBars lays something long on a row of the song, bar by bar: bars that are alike become one pattern, which each of them plays, the others
// one of their own. Sections are proposed where they begin.
type LayBars struct {
	Name     string
	Hits     []pattern.Hit // their ticks count from the first bar's line
	Clock    song.Clock    // of what is laid
	Bars     int
	Bar      int // of the song, at which it is laid
	Limits   song.Limits
	Sections bool
}

// mostLaid is how many patterns something long may become.
const mostLaid = 999

// unlike counts the bars that are the first of their kind.
func unlike(groups []int) (n int) {
	for i, g := range groups {
		if g == i {
			n++
		}
	}
	return n
}

func (e *LayBars) Apply(d *Draft) (string, error) {
	if e.Bars < 1 || e.Bar < 0 || e.Bar+e.Bars > song.MaxBars {
		return "", fmt.Errorf("%w: it has %d bars from bar %d on; a song has %d", song.ErrSong, e.Bars, e.Bar+1, song.MaxBars)
	}
	bars := song.Bars(e.Hits, e.Clock, e.Bars)
	groups := e.Limits.Groups(bars)
	if n := unlike(groups); n > mostLaid {
		return "", fmt.Errorf("%w: its bars would become %d patterns; %d are the most", song.ErrSong, n, mostLaid)
	}
	made := map[int]string{}
	var put []BlockPut
	for i, g := range groups {
		id, ok := made[g]
		if !ok {
			pt := pattern.Pattern{Name: fmt.Sprintf("%s %d", e.Name, len(made)+1), Bars: 1, Meter: bars[g].Meter, Grid: music.Sixteenths, Hits: bars[g].Hits}
			var err error
			if id, err = d.AddPattern(pt); err != nil {
				return "", err
			}
			made[g] = id
		}
		if n := len(put); n > 0 && put[n-1].Block.Pattern == id {
			put[n-1].Block.Bars++
			continue
		}
		put = append(put, BlockPut{Block: song.Block{Part: d.Part, Pattern: id, Bar: e.Bar + i, Bars: 1}})
	}
	if err := d.layBlocks(put); err != nil {
		return "", err
	}
	if e.Sections {
		begins := append(song.Begins(bars), e.Bars)
		for i := range len(begins) - 1 {
			s := song.Section{Name: fmt.Sprintf("section %d", i+1), Bar: e.Bar + begins[i], Bars: begins[i+1] - begins[i]}
			if _, err := d.laySection("", s); err != nil {
				return "", err
			}
		}
	}
	d.Result.Patterns, d.Result.Hits = len(made), len(e.Hits)
	return fmt.Sprintf("Lay %s: %d bars, %d patterns", e.Name, e.Bars, len(made)), nil
}

func (e *LayBars) Scope(Project) Scope { return songScope }

// LayHeard lays what was heard in a recording on the song, bar by bar: bars that a player means alike become one pattern, and where sections
// begin is proposed. The recording itself may run along on its own row.
type LayHeard struct {
	Recording string `json:"recording" required:"true" maxLength:"64"`
	Bar       int    `json:"bar,omitempty" minimum:"0" maximum:"1999"`
	Along     bool   `json:"along,omitempty"`
}

func (e *LayHeard) Apply(d *Draft) (string, error) {
	r, err := d.Recording(e.Recording)
	if err != nil {
		return "", err
	}
	pt, _, _, err := r.Heard.Take(r.Name, music.Sixteenths, 0, d.laneOf) // by its own grid, also one that follows the player
	if err != nil {
		return "", err
	}
	lay := LayBars{Name: r.Name, Hits: pt.Hits, Clock: song.NewClock(song.Song{Meters: []song.Meter{{Meter: pt.Meter}}}, d.Settings.BPM), Bars: r.Heard.Bars,
		Bar: e.Bar, Limits: song.AsPlayed, Sections: true}
	label, err := lay.Apply(d)
	if err != nil || !e.Along {
		return label, err
	}
	return label, d.layBlocks([]BlockPut{{Block: song.Block{Recording: e.Recording, Bar: e.Bar, Bars: r.Heard.Bars}}})
}

func (e *LayHeard) Scope(Project) Scope {
	return songScope.And(Scope{Keys: []Key{{KindRecording, e.Recording}, {KindMap, only}}})
}

// Laid is what one instrument of a MIDI file plays.
type Laid struct {
	Name    string
	Channel int
	Hits    []pattern.Hit
}

// LaySong lays a whole song: the first instrument on the part the project is seen from, every other on a part of its own that plays to the
// MIDI output's channel it had. Its tempi and meters are taken when the song was empty.
type LaySong struct {
	Name        string
	Instruments []Laid
	Song        song.Song
	BPM         float64
	Bars        int
	Bar         int
}

func (e *LaySong) Apply(d *Draft) (string, error) {
	clock := song.NewClock(e.Song, e.BPM)
	if len(d.Blocks) == 0 && e.Bar == 0 {
		if err := d.put(KindSong, only, e.Song); err != nil {
			return "", err
		}
	}
	took := len(d.Blocks) == 0 && e.Bar == 0
	var all Result
	for i, in := range e.Instruments {
		lay := &LayBars{Name: in.Name, Hits: in.Hits, Clock: clock, Bars: e.Bars, Bar: e.Bar, Limits: song.Same, Sections: i == 0}
		var step Step = lay
		if i > 0 {
			output := NewSettings().Output
			output.To, output.Channel = "midi", in.Channel
			if _, err := (&AddPart{Name: in.Name, Output: &output}).Apply(d); err != nil {
				return "", err
			}
			step = InPart{d.Result.ID, lay}
		}
		if _, err := step.Apply(d); err != nil {
			return "", err
		}
		all.Patterns, all.Hits = all.Patterns+d.Result.Patterns, all.Hits+d.Result.Hits
	}
	all.TookTempo, all.BPM = took, e.BPM
	d.Result = all
	return "Import the song " + e.Name, nil
}

func (e *LaySong) Scope(Project) Scope {
	return songScope.And(Scope{Kinds: []Kind{KindPart, KindPattern, KindMap, KindKit}})
}
