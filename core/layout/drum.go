package layout

import (
	"regexp"
	"strings"
	"unicode"

	"hexachord/core/kind"
	"hexachord/core/music"
)

// How alike two strokes of one drum sound at least when their names do not tell: between strokes of the demo's drums it is
// 0.67 or more, between different drums of one kind 0.63 or less.
const sameDrum = 0.65

// dynamics are words of a name that say how hard, or as which of several, a drum was struck; common practice, no source.
var dynamics = map[string]bool{"soft": true, "softer": true, "softest": true, "quiet": true, "ghost": true, "med": true, "medium": true,
	"hard": true, "harder": true, "hardest": true, "loud": true, "accent": true, "ppp": true, "pp": true, "p": true, "mp": true, "mf": true, "f": true, "ff": true,
	"fff": true, "v": true, "vel": true, "velocity": true, "layer": true, "lay": true, "l": true, "rr": true, "take": true, "hit": true, "alt": true}

// stem is what is left of a file's name without numbers and words of dynamics; said tells whether there were such words.
func stem(name string) (rest string, said bool) {
	var words []string
	for _, w := range strings.FieldsFunc(strings.ToLower(strings.TrimSuffix(name, extension(name))), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if dynamics[w] {
			said = true
		} else {
			words = append(words, w)
		}
	}
	return strings.Join(words, " "), said
}

// drumName is what a lane for a sample is called: the file's name, without what says how hard the drum was struck.
func drumName(name string) string {
	name = strings.TrimSpace(strings.TrimSuffix(name, extension(name)))
	isWord := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
	for {
		at := strings.LastIndexFunc(name, func(r rune) bool { return !isWord(r) })
		if at <= 0 {
			return name
		}
		word := strings.TrimRight(strings.ToLower(name[at+1:]), "0123456789")
		if !dynamics[word] {
			return name
		}
		name = strings.TrimRightFunc(name[:at], func(r rune) bool { return !isWord(r) })
	}
}

var (
	pitchName   = regexp.MustCompile(`(?:^|[^A-Za-z])([A-Ga-g](?:#|b|♯|♭)?-?[0-9])(?:$|[^0-9])`)
	pitchNumber = regexp.MustCompile(`(?:^|[^0-9])([0-9]{2,3})(?:$|[^0-9])`)
)

// pitchOf is the note that a sample's name gives: C3 or F#2, middle C being C4, or a number of two or three digits. The last one
// in the name counts.
func pitchOf(name string) (int, bool) {
	name = strings.TrimSuffix(name, extension(name))
	last := func(r *regexp.Regexp) (found string) {
		for at := 0; at <= len(name); {
			m := r.FindStringSubmatchIndex(name[at:])
			if m == nil {
				return found
			}
			found = name[at+m[2] : at+m[3]]
			at += m[3]
		}
		return found
	}
	text := last(pitchName)
	if text == "" {
		text = last(pitchNumber)
	}
	note, err := music.ParseNote(strings.NewReplacer("♯", "#", "♭", "b").Replace(text), 4)
	return note, err == nil
}

// part reports whether only a part of the audio sounds.
func (s Sample) part() bool { return s.Take.Shape.StartFrame > 0 || s.Take.Shape.EndFrame > 0 }

// oneDrum reports whether two samples of one kind are strokes of the same drum: by their names when these say how hard it was
// struck, or name two things; else by their sound.
func oneDrum(a, b Sample) bool {
	if a.Take.Sample == b.Take.Sample && a.part() && b.part() {
		return true // pieces of one recording
	}
	sa, da := stem(a.Name)
	sb, db := stem(b.Name)
	switch {
	case sa != sb && sa != "" && sb != "":
		return false
	case sa == sb && sa != "" && (da || db):
		return true
	}
	return kind.Alike(a.Likeness, b.Likeness) >= sameDrum
}
