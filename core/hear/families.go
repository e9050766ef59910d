package hear

// The families the net judges independently of each other.
const (
	FamilyKick   = outKick
	FamilySnare  = outSnare
	FamilyHat    = outHat
	FamilyTom    = outTom
	FamilyCymbal = outCymbal
	FamilyShaker = outShaker
	Families     = families
)

// LevelOf is the net's output that holds a family's level.
func LevelOf(family int) int { return outLevel + family }

// Family is the family of a General MIDI percussion note, −1 for one that has none, and what is true of
// its kind: net output → 0 or 1.
func Family(note int) (family int, kind map[int]float32) {
	switch note {
	case 35, 36:
		return FamilyKick, nil
	case 38, 40:
		return FamilySnare, map[int]float32{outRim: 0, outClap: 0}
	case 37:
		return FamilySnare, map[int]float32{outRim: 1, outClap: 0}
	case 39:
		return FamilySnare, map[int]float32{outRim: 0, outClap: 1}
	case 42, 44:
		return FamilyHat, map[int]float32{outOpen: 0}
	case 46:
		return FamilyHat, map[int]float32{outOpen: 1}
	case 41, 43, 45, 47, 48, 50:
		return FamilyTom, nil
	case 49, 52, 55, 57:
		return FamilyCymbal, map[int]float32{outCrash: 1}
	case 51, 53, 59:
		return FamilyCymbal, map[int]float32{outCrash: 0}
	case 69, 70, 82:
		return FamilyShaker, map[int]float32{outTambourine: 0}
	case 54:
		return FamilyShaker, map[int]float32{outTambourine: 1}
	}
	return -1, nil
}
