package hear

import (
	"context"

	"hexachord/core/sound"
	"hexachord/core/spectrum"
)

// AnalysisRate is the sample rate every recording is listened to at, in frames a second.
const AnalysisRate = spectrum.Rate

// Examined is what the recogniser sees of a recording: the moments something may have been struck, in
// seconds from the first frame, and a patch of PatchSize values for each.
type Examined struct {
	TimesS  []float64
	Patches [][]float32

	onsets []onset
	mono   []float32
}

// Examine finds candidate onsets and describes them. progress (0..1) may be nil.
func Examine(ctx context.Context, b sound.Buffer, progress func(float64)) (Examined, error) {
	return examine(ctx, b, false, progress)
}

// examine is Examine; inPlace lets it move the recording itself to around zero.
func examine(ctx context.Context, b sound.Buffer, inPlace bool, progress func(float64)) (Examined, error) {
	if progress == nil {
		progress = func(float64) {}
	}
	mono := sound.Buffer{Rate: b.Rate, Channels: [][]float32{b.Mono()}}
	switch {
	case b.Rate != AnalysisRate:
		mono = mono.Resample(AnalysisRate, 1)
	case len(b.Channels) == 1 && !inPlace:
		mono = mono.Clone()
	}
	e := Examined{mono: withoutDC(mono.Channels[0])}
	var err error
	if e.onsets, err = findOnsets(ctx, e.mono, part(progress, 0, onsetShare)); err != nil {
		return Examined{}, err
	}
	e.Patches = patches(e.mono, e.onsets, part(progress, onsetShare, 1))
	for _, o := range e.onsets {
		e.TimesS = append(e.TimesS, o.timeS)
	}
	return e, nil
}

// onsetShare is how much of the time an examination takes goes into finding onsets; measured on takes of minutes.
const onsetShare = 0.35

// part tells a part of a whole's progress.
func part(progress func(float64), from, to float64) func(float64) {
	return func(share float64) { progress(from + share*(to-from)) }
}

// withoutDC moves x to around zero, in place.
func withoutDC(x []float32) []float32 {
	sum := 0.0
	for _, v := range x {
		sum += float64(v)
	}
	mean := float32(sum / float64(max(1, len(x))))
	for i := range x {
		x[i] -= mean
	}
	return x
}

// WithoutAudio is e without the recording itself, to be kept by the thousand.
func (e Examined) WithoutAudio() Examined {
	e.mono = nil
	return e
}
