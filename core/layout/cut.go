package layout

import (
	"context"
	"math"

	"hexachord/core/hear"
	"hexachord/core/kind"
	"hexachord/core/sound"
)

// Piece is a part of a longer recording, from one mark to the next.
type Piece struct {
	StartFrame int        `json:"startFrame"` // where its sound begins
	EndFrame   int        `json:"endFrame"`   // where it has died away
	NextFrame  int        `json:"nextFrame"`  // the next mark, or the end
	PeakDB     float64    `json:"peakDB"`     // dBFS
	Guess      kind.Guess `json:"guess"`
}

// CutOptions say where to cut.
type CutOptions struct {
	Strength float64 // 0..1: strokes weaker than this share of the typical one make no mark
	MinGapS  float64 // marks lie at least so far apart
	DeadDB   float64 // dBFS under which what follows a stroke is dead air
	Marks    []int   // frames; given, these are the marks and nothing is looked for
}

// maxPieces bounds what one recording is cut into.
const maxPieces = 2000

// Cut finds the pieces of a recording between its attacks, or between the marks given, and hears what each is.
func Cut(ctx context.Context, b sound.Buffer, o CutOptions) ([]Piece, error) {
	marks := o.Marks
	if marks == nil {
		attacks, err := hear.Attacks(ctx, b, o.Strength, math.Max(0.01, o.MinGapS))
		if err != nil {
			return nil, err
		}
		for _, a := range attacks {
			at := int(a.TimeS * float64(b.Rate))
			// what only changes its tone while it dies away is no new sound
			before, after := b.Region(at-b.Rate/30, max(1, at-b.Rate/500)).Peak(), b.Region(at, at+b.Rate/30).Peak()
			if at > b.Rate/30 && after < before*1.4 {
				continue
			}
			marks = append(marks, b.NearestZero(max(0, at-b.Rate/1000))) // the first millisecond of the attack belongs to it
		}
	}
	out := []Piece{}
	for i, start := range marks {
		next := b.Frames()
		if i+1 < len(marks) {
			next = min(next, marks[i+1])
		}
		if start < 0 || start >= next || len(out) == maxPieces {
			continue
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		region := b.Region(start, next)
		_, end := region.Audible(math.Pow(10, o.DeadDB/20))
		if end < b.Rate/200 {
			continue // nothing but dead air
		}
		part := b.Region(start, start+end)
		_, guesses := kind.BySound(part)
		out = append(out, Piece{start, start + end, next, sound.DB(part.Peak()), guesses[0]})
	}
	return out, nil
}
