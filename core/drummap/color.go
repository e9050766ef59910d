package drummap

import (
	"fmt"
	"math"
	"strconv"
)

// Families lists the colour families, in score order.
func Families() []Family {
	return []Family{"cym", "hat", "perc", "other", "clap", "tom", "snare", "kick"}
}

// familyHex are the palette's fills: Okabe and Ito, "Color Universal Design" (2008), with the yellow of percussion
// darkened so that it shows on paper, and slate for what is none of them.
var familyHex = map[Family]string{"kick": "#d55e00", "snare": "#0072b2", "clap": "#56b4e9", "hat": "#009e73", "tom": "#cc79a7", "cym": "#e69f00",
	"perc": "#c9b60a", "other": "#6b7480"}

// The papers lane colours stand on.
const (
	paperLight = "#f3efe6"
	paperDark  = "#1b1a18"
)

// Swatch is a lane colour ready to be drawn: the fill, edges that reach 3:1 on each paper, and the ink for letters on
// the fill, which reaches 4.5:1 (contrast as in WCAG 2.2).
type Swatch struct {
	Color     Family `json:"color"` // as the lane names it
	Fill      string `json:"fill"`
	EdgeLight string `json:"edgeLight"`
	EdgeDark  string `json:"edgeDark"`
	On        string `json:"on"`
}

// Hex is the colour as #rrggbb; false when it is neither a family nor such a colour.
func (f Family) Hex() (string, bool) {
	if h, ok := familyHex[f]; ok {
		return h, true
	}
	if len(f) != 7 || f[0] != '#' {
		return "", false
	}
	_, err := strconv.ParseUint(string(f[1:]), 16, 32)
	return string(f), err == nil
}

func (f Family) valid() bool { _, ok := f.Hex(); return ok }

// Custom reports whether the colour is a person's own, not a family's.
func (f Family) Custom() bool { return len(f) > 0 && f[0] == '#' }

// SwatchOf makes a colour's swatch.
func SwatchOf(f Family) Swatch {
	fill, ok := f.Hex()
	if !ok {
		fill = familyHex["other"]
	}
	s := Swatch{Color: f, Fill: fill, EdgeLight: moved(fill, paperLight, 0, 3), EdgeDark: moved(fill, paperDark, 255, 3), On: "#120f0a"}
	if Contrast(fill, "#ffffff") > Contrast(fill, s.On) {
		s.On = "#ffffff"
	}
	return s
}

// moved takes a colour towards black or white until its contrast with the paper reaches least.
func moved(hex, paper string, towards float64, least float64) string {
	for share := 0.0; share < 1; share += 0.04 {
		r, g, b := parts(hex)
		mix := func(v float64) int { return int(math.Round(v + (towards-v)*share)) }
		out := fmt.Sprintf("#%02x%02x%02x", mix(r), mix(g), mix(b))
		if Contrast(out, paper) >= least {
			return out
		}
	}
	return fmt.Sprintf("#%02x%02x%02x", int(towards), int(towards), int(towards))
}

// Contrast is the contrast ratio of two colours #rrggbb, 1 to 21 (WCAG 2.2, "contrast ratio" and "relative luminance").
func Contrast(a, b string) float64 {
	la, lb := luminance(a), luminance(b)
	return (math.Max(la, lb) + 0.05) / (math.Min(la, lb) + 0.05)
}

func luminance(hex string) float64 {
	r, g, b := parts(hex)
	linear := func(v float64) float64 {
		if v /= 255; v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*linear(r) + 0.7152*linear(g) + 0.0722*linear(b)
}

func parts(hex string) (r, g, b float64) {
	v, err := strconv.ParseUint(hex[1:], 16, 32)
	if err != nil {
		return 0, 0, 0
	}
	return float64(v >> 16 & 255), float64(v >> 8 & 255), float64(v & 255)
}
