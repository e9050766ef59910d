// Package kind tells what a sample is, from its name and from its sound, and measures what a shelf sorts by.
package kind

import (
	"cmp"
	"slices"
	"strings"

	"hexachord/core/drummap"
)

// Kind is what a sample is: a drum's role, or a loop.
type Kind string

// Kinds that are no role of their own.
const (
	Loop  Kind = "loop"
	Other Kind = Kind(drummap.Other)
)

// heard are the kinds a sound alone is told by, in the order of the net's outputs. Toms are told apart by pitch.
var heard = []Kind{"kick", "snare", "rim", "clap", "closed hat", "open hat", "mid tom", "crash", "ride", "shaker",
	"tambourine", "cowbell", "percussion"}

// Heard lists the kinds a net's outputs stand for, in their order.
func Heard() []Kind { return slices.Clone(heard) }

// Valid reports whether k is one of the kinds.
func (k Kind) Valid() bool { return k == Loop || drummap.Role(k).Valid() }

// Role is the role a sample of this kind takes in a kit; a loop has none.
func (k Kind) Role() (drummap.Role, bool) { return drummap.Role(k), k != Loop }

// Guess is a kind with how likely it is, 0..1.
type Guess struct {
	Kind       Kind    `json:"kind"`
	Confidence float64 `json:"confidence"`
}

// words name kinds in file names: common practice, no source. A word ending in * stands for all that begin so.
var words = []struct {
	kind Kind
	any  string
}{
	{"closed hat", "closedhat* closehat* hhc* chh* hhclosed* hhcl* ch"}, {"open hat", "openhat* hho* ohh* hhopen* hhop* oh"},
	{"pedal hat", "pedalhat* hhp* phh* foothat*"}, {"kick", "kick* kik* bd bassdrum* kd* bdrum*"},
	{"snare", "snare* snr* sd sn"}, {"rim", "rim* sidestick* crossstick* xstick* rs"}, {"clap", "clap* handclap* cp clp*"},
	{"high tom", "hitom* hightom* tomhi* htom* ht"}, {"mid tom", "midtom* tommid* mtom* mt"},
	{"low tom", "lowtom* lotom* tomlo* ltom* floortom* lt ft"}, {"mid tom", "tom tom1* tom2* tom3* toms*"}, {"crash", "crash* crsh*"},
	{"ride", "ride* rd"}, {"cymbal", "cymbal* cym* splash* china* chinese*"}, {"shaker", "shaker* shake* maraca* cabasa* shk*"},
	{"tambourine", "tambourine* tamb*"}, {"cowbell", "cowbell* cowb* bell cb"},
	{"percussion", "perc* conga* bongo* timbale* agogo* clave* woodblock* guiro* triangle* cuica* whistle* vibraslap* block*"},
	{"loop", "loop* break* beat* groove*"}, {"closed hat", "hat* hh hihat*"},
}

// pairs are two words that name a kind only together.
var pairs = map[[2]string]Kind{
	{"bass", "drum"}: "kick", {"side", "stick"}: "rim", {"hi", "hat"}: "closed hat",
	{"cross", "stick"}: "rim", {"hand", "clap"}: "clap", {"low", "tom"}: "low tom", {"floor", "tom"}: "low tom", {"mid", "tom"}: "mid tom",
	{"high", "tom"}: "high tom", {"hi", "tom"}: "high tom", {"tom", "low"}: "low tom", {"tom", "mid"}: "mid tom", {"tom", "high"}: "high tom",
	{"wood", "block"}: "percussion", {"cow", "bell"}: "cowbell",
}

// ByName reads a kind from a file's name, or failing that from the name of the folder it is in; "" when neither
// names one.
func ByName(name, folder string) Kind {
	name = strings.TrimSuffix(name, extension(name))
	if k := byWords(tokens(name)); k != "" {
		return k
	}
	parts := strings.FieldsFunc(folder, func(r rune) bool { return r == '/' || r == '\\' })
	for i := len(parts) - 1; i >= 0; i-- { // the nearest folder says most
		if k := byWords(tokens(parts[i])); k != "" {
			return k
		}
	}
	return ""
}

func extension(name string) string {
	if i := strings.LastIndexByte(name, '.'); i > 0 && len(name)-i <= 6 {
		return name[i:]
	}
	return ""
}

// tokens are the words of a name: letters, in lower case, parted by anything else and where a capital follows a
// small letter; digits after letters stay with them.
func tokens(s string) []string {
	var b strings.Builder
	last := ' '
	for _, r := range s {
		switch {
		case r >= 'A' && r <= 'Z':
			if last >= 'a' && last <= 'z' {
				b.WriteByte(' ')
			}
			b.WriteRune(r + 'a' - 'A')
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' && last >= 'a' && last <= 'z':
			b.WriteRune(r)
		default:
			b.WriteByte(' ')
		}
		last = r
	}
	return strings.Fields(b.String())
}

func byWords(tokens []string) Kind {
	bare := make([]string, len(tokens))
	for i, t := range tokens {
		bare[i] = strings.TrimRight(t, "0123456789")
	}
	if k := hatByWords(bare); k != "" {
		return k
	}
	for i := 1; i < len(bare); i++ {
		if k, ok := pairs[[2]string{bare[i-1], strings.TrimSuffix(bare[i], "s")}]; ok {
			return k
		}
	}
	for _, w := range words {
		for _, want := range strings.Fields(w.any) {
			stem, open := strings.CutSuffix(want, "*")
			for i, t := range bare {
				if t == stem || open && strings.HasPrefix(tokens[i], stem) && len(t) <= len(stem)+4 {
					return w.kind
				}
			}
		}
	}
	return ""
}

// hatByWords tells open, closed and pedal hats: which of the three may stand before or after the hat, and apart from it.
func hatByWords(words []string) Kind {
	hat := false
	which := Kind("")
	for i, w := range words {
		switch strings.TrimSuffix(w, "s") {
		case "hat", "hihat", "hh":
			hat = true
		case "open", "opened":
			which = "open hat"
		case "closed", "close":
			which = "closed hat"
		case "pedal", "foot":
			which = "pedal hat"
		case "hi": // an open hi, said without its hat, or either half of a hi hat; an open hi conga is none
			hat = hat || i > 0 && (words[i-1] == "open" || words[i-1] == "closed" || words[i-1] == "pedal") && (i == len(words)-1 || byWords(words[i+1:i+2]) == "")
		}
	}
	if !hat {
		return ""
	}
	return which
}

const (
	// nameWeight is how much likelier than any other kind a name's kind is held to be before the sound is heard.
	nameWeight = 40
	// clearName is how sure a drum named by its file is at least.
	clearName = 0.75
)

// Judge weighs what a file and the folder it is in are called against what the sound says, likeliest first. A file named after
// a drum is that drum, unless it sounds like a loop: who names a kick knows that it is one.
func Judge(name, folder string, sound []Guess) []Guess {
	out := slices.Clone(sound)
	named := ByName(name, folder)
	if named == "" {
		return out
	}
	loop := len(out) > 0 && out[0].Kind == Loop
	clear := named != Loop && !loop && ByName(name, "") == named
	at := slices.IndexFunc(out, func(g Guess) bool { return g.Kind == named })
	if at < 0 {
		out = append(out, Guess{named, 0.02})
		at = len(out) - 1
	}
	// even a kind the sound speaks against keeps a chance when the name says so
	out[at].Confidence = max(0.02, out[at].Confidence) * nameWeight
	rest := -out[at].Confidence
	for _, g := range out {
		rest += g.Confidence
	}
	if clear {
		out[at].Confidence = max(out[at].Confidence, rest*clearName/(1-clearName))
	}
	total := rest + out[at].Confidence
	for i := range out {
		out[i].Confidence /= total
	}
	sortGuesses(out)
	return out
}

// sortGuesses puts the likeliest first.
func sortGuesses(g []Guess) {
	slices.SortStableFunc(g, func(a, b Guess) int { return cmp.Compare(b.Confidence, a.Confidence) })
}
