package main

import (
	"log"
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/blas/blas32"

	"hexachord/core/hear"
	"hexachord/core/net"
)

// How the network that hears is learnt.
const (
	near, width, blocks = 256, 128, 2
	recordings          = 16 // in a step
	setRate             = 1e-3
	dropSet             = 0.2
	longestStep         = 1.0 // of all slopes together
	levelWeight         = 2.0
	offsetWeight        = 0.05
)

// setParam is a net.Set that is learnt.
type setParam struct {
	net       net.Set
	near, far *layerParam
	blocks    []blockParam
	norm      *normParam
	head      *layerParam
}

type blockParam struct {
	before, then              *normParam
	ask, answer, wide, narrow *layerParam
}

func newSetParam(inputs, outputs int, rng *rand.Rand) *setParam {
	s := &setParam{near: newLayerParam(inputs, near, rng), far: newLayerParam(near, width, rng), norm: newNormParam(width), head: newLayerParam(width, outputs, rng)}
	for range blocks {
		s.blocks = append(s.blocks, blockParam{newNormParam(width), newNormParam(width), newLayerParam(width, 3*width, rng), newLayerParam(width, width, rng),
			newLayerParam(width, 2*width, rng), newLayerParam(2*width, width, rng)})
	}
	return s
}

// params are all that is learnt.
func (s *setParam) params() (all []*param) {
	for _, l := range s.layers() {
		all = append(all, l.w, l.b)
	}
	for _, n := range s.norms() {
		all = append(all, n.gain, n.bias)
	}
	return all
}

func (s *setParam) layers() (all []*layerParam) {
	all = append(all, s.near, s.far, s.head)
	for _, b := range s.blocks {
		all = append(all, b.ask, b.answer, b.wide, b.narrow)
	}
	return all
}

func (s *setParam) norms() (all []*normParam) {
	all = append(all, s.norm)
	for _, b := range s.blocks {
		all = append(all, b.before, b.then)
	}
	return all
}

// learnt is the network with its weights as they are now, which it shares.
func (s *setParam) learnt() *net.Set {
	n := s.net
	n.Near, n.Far, n.Norm, n.Head = s.near.Layer, s.far.Layer, s.norm.Norm, s.head.Layer
	n.Blocks = nil
	for _, b := range s.blocks {
		n.Blocks = append(n.Blocks, net.Block{Before: b.before.Norm, Ask: b.ask.Layer, Answer: b.answer.Layer, Then: b.then.Norm, Wide: b.wide.Layer, Narrow: b.narrow.Layer})
	}
	return &n
}

// forward is net.Set.Run for several sets at once, remembered and with parts left out.
func (s *setParam) forward(t *tape, x blas32.General, ends []int) value {
	in := t.made(x, func(value) {})
	h := t.layer(t.dropped(t.rectified(t.layer(in, s.near)), dropSet), s.far)
	for _, b := range s.blocks {
		told := t.attended(t.layer(t.norm(h, b.before), b.ask), ends)
		h = t.sum(h, t.dropped(t.layer(told, b.answer), dropSet))
		wide := t.rectified(t.layer(t.norm(h, b.then), b.wide))
		h = t.sum(h, t.dropped(t.layer(wide, b.narrow), dropSet))
	}
	return t.layer(t.norm(h, s.norm), s.head)
}

// fitSet learns to hear from recordings and reports on others after each epoch.
func fitSet(learn, check []examined, epochs int, seed uint64) *net.Set {
	rng := rand.New(rand.NewPCG(seed, 0x736574))
	s := newSetParam(hear.PatchSize, hear.NetOutput, rng)
	var patches [][]float32
	for _, x := range learn[:min(len(learn), 2000)] {
		patches = append(patches, x.seen.Patches...)
	}
	s.net.Mean, s.net.Scale = moments(patches)
	ps := s.params()
	order := rng.Perm(len(learn))
	steps, step := epochs*((len(learn)+recordings-1)/recordings), 0
	for epoch := range epochs {
		rng.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
		loss, onsets := 0.0, 0
		for from := 0; from < len(order); from += recordings {
			var members [][]float32
			var targets []target
			var ends []int
			for _, i := range order[from:min(len(order), from+recordings)] {
				if len(learn[i].targets) == 0 {
					continue
				}
				members = append(members, otherwise(learn[i].seen.Patches, rng)...)
				targets = append(targets, learn[i].targets...)
				ends = append(ends, len(members))
			}
			if len(members) == 0 {
				continue
			}
			x := s.net.Scaled(members)
			for i := range x.Data {
				x.Data[i] += float32(rng.NormFloat64() * inputNoise)
				if rng.Float64() < dropInput {
					x.Data[i] = 0
				}
			}
			t := &tape{rng: rng}
			y := s.forward(t, x, ends)
			loss += hearingLoss(y, targets, ends)
			onsets += len(members)
			t.backwards()
			step++
			rate := setRate * math.Min(1, float64(step)/200) * 0.5 * (1 + math.Cos(math.Pi*float64(step)/float64(steps)))
			stepAll(ps, rate, step)
		}
		log.Printf("epoch %2d  loss %.4f  %s", epoch+1, loss/float64(onsets), report(s.learnt(), check))
	}
	return s.learnt()
}

// stepAll goes one step down, never too far at once, and forgets the slopes.
func stepAll(ps []*param, rate float64, step int) {
	sum := 0.0
	for _, p := range ps {
		for _, g := range p.slope {
			sum += float64(g) * float64(g)
		}
	}
	if long := math.Sqrt(sum); long > longestStep {
		for _, p := range ps {
			for i := range p.slope {
				p.slope[i] *= float32(longestStep / long)
			}
		}
	}
	for _, p := range ps {
		decay := 0.0
		if p.decays {
			decay = weightLoss
		}
		adam(p.is, p.slope, p.mean, p.square, rate, decay, step)
		clear(p.slope)
	}
}

// hearingLoss is the sum over all onsets of the cross-entropy of families and kinds, and of the error of levels: how much
// louder one stroke of a drum is than another of the same recording counts, not how loud the drum is on the whole. It
// leaves the slopes of its mean in y. NaN is not learnt from.
func hearingLoss(y value, targets []target, ends []int) (loss float64) {
	n := float64(len(targets))
	for r, t := range targets {
		out, slope := net.Row(y.is, r), net.Row(y.slope, r)
		for k := range hear.LevelOf(0) {
			want := float64(t[k])
			if want != want {
				continue
			}
			p := 1 / (1 + math.Exp(-float64(out[k])))
			loss -= want*math.Log(p+1e-9) + (1-want)*math.Log(1-p+1e-9)
			slope[k] = float32((p - want) / n)
		}
	}
	from := 0
	for _, to := range ends {
		for f := range hear.Families {
			k := hear.LevelOf(f)
			mean, count := 0.0, 0.0
			for r := from; r < to; r++ {
				if e := float64(net.Row(y.is, r)[k]) - float64(targets[r][k]); e == e {
					mean, count = mean+e, count+1
				}
			}
			mean /= max(1, count)
			for r := from; r < to; r++ {
				e := float64(net.Row(y.is, r)[k]) - float64(targets[r][k])
				if e != e {
					continue
				}
				loss += levelWeight * ((e-mean)*(e-mean) + offsetWeight*e*e)
				net.Row(y.slope, r)[k] = float32(levelWeight * 2 * ((e - mean) + offsetWeight*e) / n)
			}
		}
		from = to
	}
	return loss
}

var spectra = hear.PatchSpectra()

// otherwise is a recording's patches as if it had been made otherwise: through other tones, a little faster or slower.
func otherwise(patches [][]float32, rng *rand.Rand) [][]float32 {
	const knots = 8 // of the tone, an octave and a half apart
	var tone [knots]float64
	for i := range tone {
		tone[i] = rng.NormFloat64() * 0.12 // of 20 dB
	}
	faster := 1.0
	if rng.Float64() < 0.6 {
		faster = math.Exp2((2*rng.Float64() - 1) * 0.13)
	}
	type change struct {
		from       int
		share, add float32
	}
	changes := make([][]change, len(spectra))
	for s, sp := range spectra {
		changes[s] = make([]change, len(sp.Hz))
		for i, hz := range sp.Hz {
			octave := max(0, min(knots-1.001, math.Log2(hz/25)/1.4))
			k := int(octave)
			c := change{add: float32(tone[k] + (tone[k+1]-tone[k])*(octave-float64(k)))}
			for c.from < len(sp.Hz)-2 && sp.Hz[c.from+1] < hz/faster {
				c.from++
			}
			c.share = float32(max(0, min(1, (hz/faster-sp.Hz[c.from])/(sp.Hz[c.from+1]-sp.Hz[c.from]))))
			changes[s][i] = c
		}
	}
	out := make([][]float32, len(patches))
	for n, p := range patches {
		q := append([]float32(nil), p...)
		for s, sp := range spectra {
			for i, c := range changes[s] {
				v := p[sp.At+c.from]*(1-c.share) + p[sp.At+c.from+1]*c.share
				// what is nothing stays nothing
				q[sp.At+i] = max(-2, v+c.add*max(0, min(1, (v+2)/0.6)))
			}
		}
		out[n] = q
	}
	return out
}
