package drummap

// FirstGMNote and LastGMNote bound the General MIDI Level 1 percussion key map.
const (
	FirstGMNote = 35
	LastGMNote  = 81
)

type gmEntry struct {
	name string
	role Role
}

// The General MIDI Level 1 percussion key map (MIDI Association, "General MIDI System Level 1",
// table 3), notes 35 to 81; quoted from memory and checked against the key names that npm and
// Debian packages carry. The role beside each name is ours.
var gm = [...]gmEntry{
	{"Acoustic Bass Drum", Kick}, {"Bass Drum 1", Kick}, {"Side Stick", Rim}, {"Acoustic Snare", Snare},
	{"Hand Clap", Clap}, {"Electric Snare", Snare}, {"Low Floor Tom", LowTom}, {"Closed Hi Hat", ClosedHat},
	{"High Floor Tom", LowTom}, {"Pedal Hi-Hat", PedalHat}, {"Low Tom", LowTom}, {"Open Hi-Hat", OpenHat},
	{"Low-Mid Tom", MidTom}, {"Hi-Mid Tom", HighTom}, {"Crash Cymbal 1", Crash}, {"High Tom", HighTom},
	{"Ride Cymbal 1", Ride}, {"Chinese Cymbal", Cymbal}, {"Ride Bell", Ride}, {"Tambourine", Tambourine},
	{"Splash Cymbal", Cymbal}, {"Cowbell", Cowbell}, {"Crash Cymbal 2", Crash}, {"Vibraslap", Percussion},
	{"Ride Cymbal 2", Ride}, {"Hi Bongo", Percussion}, {"Low Bongo", Percussion}, {"Mute Hi Conga", Percussion},
	{"Open Hi Conga", Percussion}, {"Low Conga", Percussion}, {"High Timbale", Percussion}, {"Low Timbale", Percussion},
	{"High Agogo", Percussion}, {"Low Agogo", Percussion}, {"Cabasa", Shaker}, {"Maracas", Shaker},
	{"Short Whistle", Percussion}, {"Long Whistle", Percussion}, {"Short Guiro", Percussion}, {"Long Guiro", Percussion},
	{"Claves", Percussion}, {"Hi Wood Block", Percussion}, {"Low Wood Block", Percussion}, {"Mute Cuica", Percussion},
	{"Open Cuica", Percussion}, {"Mute Triangle", Percussion}, {"Open Triangle", Percussion},
}

// GMName is the General MIDI percussion name of a note, "" outside 35..81.
func GMName(note int) string {
	if note < FirstGMNote || note > LastGMNote {
		return ""
	}
	return gm[note-FirstGMNote].name
}

// GMRole is the role a General MIDI percussion note plays, Other outside 35..81.
func GMRole(note int) Role {
	if note < FirstGMNote || note > LastGMNote {
		return Other
	}
	return gm[note-FirstGMNote].role
}

// GeneralMIDI is the General MIDI Level 1 percussion key map as a drum map, highest note first.
func GeneralMIDI() Map {
	m := Map{Name: "General MIDI"}
	for note := LastGMNote; note >= FirstGMNote; note-- {
		e := gm[note-FirstGMNote]
		m.Lanes = append(m.Lanes, Lane{Note: note, Name: e.name, Code: m.ProposeCode(e.name), Role: e.role, Color: e.role.Family(), Shown: true})
	}
	return m
}

// LaneFor finds the lane of m that a General MIDI note belongs to: the lane whose role is the
// note's role, then a lane whose role stands in for it (an open hat for a missing pedal hat), then
// the lane on the note itself. ok is false when the note has no home in the map.
func (m Map) LaneFor(gmNote int) (Lane, bool) {
	role := GMRole(gmNote)
	if l, ok := m.ByNote(gmNote); ok && l.Role == role {
		return l, true
	}
	if l, ok := m.ByRole(append([]Role{role}, standIns[role]...)...); ok {
		return l, true
	}
	return m.ByNote(gmNote)
}

var standIns = map[Role][]Role{
	PedalHat: {ClosedHat}, ClosedHat: {PedalHat}, OpenHat: {ClosedHat},
	LowTom: {MidTom, HighTom}, MidTom: {LowTom, HighTom}, HighTom: {MidTom, LowTom},
	Crash: {Cymbal, Ride}, Cymbal: {Crash, Ride}, Ride: {Cymbal, Crash},
}
