package drummap

// FirstGMNote and LastGMNote bound the General MIDI Level 1 percussion key map.
const (
	FirstGMNote = 35
	LastGMNote  = 81
)

type gmEntry struct {
	name string
	code string
	role Role
}

// The General MIDI Level 1 percussion key map (MIDI Association, "General MIDI System Level 1",
// table 3), notes 35 to 81; quoted from memory and checked against the key names that npm and
// Debian packages carry. Role and code beside each name are ours: no code says another role's drum.
var gm = [...]gmEntry{
	{"Acoustic Bass Drum", "KA", Kick}, {"Bass Drum 1", "KI", Kick}, {"Side Stick", "RM", Rim},
	{"Acoustic Snare", "SN", Snare}, {"Hand Clap", "CL", Clap}, {"Electric Snare", "SE", Snare},
	{"Low Floor Tom", "T1", LowTom}, {"Closed Hi Hat", "HC", ClosedHat}, {"High Floor Tom", "T2", LowTom},
	{"Pedal Hi-Hat", "HP", PedalHat}, {"Low Tom", "T3", LowTom}, {"Open Hi-Hat", "HO", OpenHat},
	{"Low-Mid Tom", "T4", MidTom}, {"Hi-Mid Tom", "T5", HighTom}, {"Crash Cymbal 1", "CR", Crash},
	{"High Tom", "T6", HighTom}, {"Ride Cymbal 1", "RD", Ride}, {"Chinese Cymbal", "CH", Cymbal}, {"Ride Bell", "RB", Ride},
	{"Tambourine", "TB", Tambourine}, {"Splash Cymbal", "SP", Cymbal}, {"Cowbell", "CB", Cowbell},
	{"Crash Cymbal 2", "C2", Crash}, {"Vibraslap", "VS", Percussion}, {"Ride Cymbal 2", "R2", Ride},
	{"Hi Bongo", "BH", Percussion}, {"Low Bongo", "BL", Percussion}, {"Mute Hi Conga", "CM", Percussion},
	{"Open Hi Conga", "CO", Percussion}, {"Low Conga", "CW", Percussion}, {"High Timbale", "IH", Percussion},
	{"Low Timbale", "IL", Percussion}, {"High Agogo", "AH", Percussion}, {"Low Agogo", "AL", Percussion},
	{"Cabasa", "CA", Shaker}, {"Maracas", "MA", Shaker}, {"Short Whistle", "W1", Percussion},
	{"Long Whistle", "W2", Percussion}, {"Short Guiro", "GS", Percussion}, {"Long Guiro", "GL", Percussion},
	{"Claves", "CV", Percussion}, {"Hi Wood Block", "WH", Percussion}, {"Low Wood Block", "WL", Percussion},
	{"Mute Cuica", "UM", Percussion}, {"Open Cuica", "UO", Percussion}, {"Mute Triangle", "TU", Percussion},
	{"Open Triangle", "TR", Percussion},
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
		m.Lanes = append(m.Lanes, Lane{Note: note, Name: e.name, Code: e.code, Role: e.role, Color: e.role.Family(), Shown: true})
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
