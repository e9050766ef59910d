package mix

import (
	"errors"
	"math"
	"slices"
	"testing"
)

// sine is n frames of a sine of an amplitude.
func sine(hz, amplitude float64, rate, n int) []float64 {
	x := make([]float64, n)
	for i := range x {
		x[i] = amplitude * math.Sin(2*math.Pi*hz*float64(i)/float64(rate))
	}
	return x
}

func near(t *testing.T, words string, got, want, within float64) {
	t.Helper()
	if !(math.Abs(got-want) <= within) {
		t.Errorf("%s: %.6g, not %.6g", words, got, want)
	}
}

// ITU-R BS.1770-4, tables 1 and 2: the coefficients of both filters at 48 kHz.
func TestWeightingIsTheStandards(t *testing.T) {
	for i, want := range [2]Biquad{
		{1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585},
		{1, -2, 1, -1.99004745483398, 0.99007225036621},
	} {
		got := Weighting(48000)[i]
		for j, pair := range [][2]float64{{got.B0, want.B0}, {got.B1, want.B1}, {got.B2, want.B2}, {got.A1, want.A1}, {got.A2, want.A2}} {
			near(t, "coefficient "+string(rune('0'+j))+" of filter "+string(rune('1'+i)), pair[0], pair[1], 1e-7)
		}
	}
}

// BS.1770-4, annex 1: a 997 Hz sine of 0 dBFS in one channel reads −3.01 LKFS; at other rates the same. EBU Tech 3341 (2016), table 1, cases 1 to
// 5 as far as they are sines in stereo: 1000 Hz (the technical note's frequency), both channels alike.
func TestLoudnessIsTheStandards(t *testing.T) {
	read := func(rate int, one bool, parts ...[2]float64) Loudness {
		m := NewMeter(rate)
		for _, p := range parts {
			hz := 1000.0
			if one {
				hz = 997
			}
			x := sine(hz, math.Pow(10, p[0]/20), rate, int(p[1]*float64(rate)))
			other := x
			if one {
				other = make([]float64, len(x))
			}
			for from := 0; from < len(x); from += 3000 {
				to := min(len(x), from+3000)
				m.Write([2][]float64{x[from:to], other[from:to]})
			}
		}
		return m.Loudness()
	}
	for _, rate := range []int{44100, 48000, 96000} {
		l := read(rate, true, [2]float64{0, 20})
		within := 0.02 // the standard states its filters at 48 kHz; its meters may be 0.1 LU off
		if rate == 48000 {
			within = 0.005
		}
		near(t, "997 Hz at full scale in one channel", l.Integrated, -3.01, within)
		near(t, "its peak", l.PeakDB, 0, 0.001)
	}
	for _, c := range []struct {
		name  string
		want  float64
		parts [][2]float64
	}{
		{"case 1", -23, [][2]float64{{-23, 20}}},
		{"case 2", -33, [][2]float64{{-33, 20}}},
		{"case 3", -23, [][2]float64{{-36, 10}, {-23, 60}, {-36, 10}}},
		{"case 4", -23, [][2]float64{{-72, 10}, {-36, 10}, {-23, 60}, {-36, 10}, {-72, 10}}},
		{"case 5", -23, [][2]float64{{-26, 20}, {-20, 20.1}, {-26, 20}}},
	} {
		l := read(48000, false, c.parts...)
		near(t, c.name, l.Integrated, c.want, 0.1)
	}
	// case 9: 1.34 s of −20 and 1.66 s of −30 dBFS, five times: short-term −23 from three seconds on
	var parts [][2]float64
	for range 5 {
		parts = append(parts, [2]float64{-20, 1.34}, [2]float64{-30, 1.66})
	}
	near(t, "case 9", read(48000, false, parts...).MaxShort, -23, 0.1)
	if l := read(48000, false, [2]float64{-200, 5}); l.Integrated != Quietest || l.MaxShort != Quietest {
		t.Errorf("silence is %+v", l)
	}
}

// The filters against the closed forms of the Audio EQ Cookbook: half gain at the shelf's middle, all of it far inside; a bell at its middle and,
// by its Q, at the edges of its band; −3.01 dB at a Butterworth high-pass's corner, 12 or 24 dB an octave below it.
func TestFiltersDoAsPublished(t *testing.T) {
	const rate = 96000
	at := func(hz float64, b ...Biquad) float64 { return ResponseDB(b, hz, rate) }
	near(t, "low shelf, far below", at(5, LowShelf(Band{100, 6}, rate)), 6, 0.01)
	near(t, "low shelf, its middle", at(100, LowShelf(Band{100, 6}, rate)), 3, 0.001)
	near(t, "low shelf, far above", at(20000, LowShelf(Band{100, 6}, rate)), 0, 0.01)
	near(t, "high shelf, its middle", at(7000, HighShelf(Band{7000, -8}, rate)), -4, 0.001)
	near(t, "high shelf, far below", at(20, HighShelf(Band{7000, -8}, rate)), 0, 0.001)
	near(t, "bell, its middle", at(720, Bell(Band{720, -9}, 1.4, rate)), -9, 1e-6)
	// the analogue bell is half its gain where Q·|f/f0 − f0/f| = 1 (alpha·A and alpha/A: H = (A·x+j…)): at Q·d = 1, |H|² = (1+A²)/(1+1/A²) = A²
	q, f0 := 1.4, 720.0
	edge := f0 * (math.Sqrt(1+1/(4*q*q)) + 1/(2*q))
	near(t, "bell, its edge", at(edge, Bell(Band{f0, -9}, q, rate)), -4.5, 0.02)
	e := Equaliser{HighPassHz: 80, Slope: 12}
	near(t, "high-pass, its corner", ResponseDB(e.Sections(rate), 80, rate), -3.0103, 0.001)
	near(t, "an octave below", ResponseDB(e.Sections(rate), 40, rate), 10*math.Log10(1.0/17), 0.02)
	e.Slope = 24
	near(t, "of 24 dB, its corner", ResponseDB(e.Sections(rate), 80, rate), -3.0103, 0.001)
	near(t, "an octave below", ResponseDB(e.Sections(rate), 40, rate), 10*math.Log10(1.0/257), 0.02)
	// what is drawn is what is heard
	x := sine(200, 1, rate, rate)
	s := section{Biquad: LowShelf(Band{250, 9}, rate)}
	s.run(0, x)
	top := 0.0
	for _, v := range x[rate/2:] {
		top = max(top, v)
	}
	near(t, "heard at 200 Hz", 20*math.Log10(top), at(200, LowShelf(Band{250, 9}, rate)), 0.001)
}

// The static curve by the paper's equation 4, worked by hand for a threshold of −18 dB, 3:1, a knee of 6 dB; a long tone comes out where the
// curve says; the attack takes 63 % of its way in its time.
func TestTheCompressorFollowsItsCurve(t *testing.T) {
	c := Compressor{On: true, ThresholdDB: -18, Ratio: 3, KneeDB: 6, AttackMS: 10, ReleaseMS: 100}
	for in, want := range map[float64]float64{-40: -40, -21: -21, -18: -18 - 2.0/3*9/12, -15: -17, -6: -14, 0: -12} {
		near(t, "curve", c.Curve(in), want, 1e-9)
	}
	c.KneeDB = 0
	near(t, "a hard knee", c.Curve(-18+3), -17, 1e-9)
	const rate = 48000
	x := make([]float64, rate)
	y := make([]float64, rate)
	for i := range x {
		x[i], y[i] = math.Pow(10, -6.0/20), -0.1
	}
	k := newCompressor(c, rate)
	k.run(x, y)
	near(t, "a steady level of −6 dB", 20*math.Log10(x[rate-1]), -14, 1e-6)
	near(t, "the quieter side, by as much", 20*math.Log10(-y[rate-1]/0.1), -8, 1e-6)
	quiet := make([]float64, rate/10) // the release's time
	for i := range quiet {
		quiet[i] = 1e-4
	}
	k.run(quiet, quiet)
	near(t, "left of it after the release's time", 20*math.Log10(quiet[len(quiet)-1]/1e-4)/2, -8*math.Exp(-1), 0.01)
	near(t, "taken off after the attack's time", 20*math.Log10(x[rate/100-1])+6, -8*(1-math.Exp(-1)), 0.01)
}

// A gate lets a stroke through from its first milliseconds on, stays open through its hold, and turns what is softer down by its range; what
// lies between its two thresholds does not open it, but keeps it open.
func TestTheGateOpensAndCloses(t *testing.T) {
	const rate = 48000
	g := newGate(Gate{OpenDB: -20, CloseDB: -30, AttackMS: 1, HoldMS: 50, ReleaseMS: 20, RangeDB: -40}, rate)
	level := func(amplitude float64, ms int) float64 {
		x := make([]float64, ms*rate/1000)
		for i := range x {
			x[i] = amplitude
		}
		y := make([]float64, len(x))
		g.run(x, y)
		return 20 * math.Log10(x[len(x)-1]/amplitude)
	}
	between, soft := math.Pow(10, -25.0/20), math.Pow(10, -50.0/20)
	near(t, "between, shut", level(between, 300), -40, 0.1)
	near(t, "loud", level(0.5, 20), 0, 0.01)
	near(t, "between, open", level(between, 400), 0, 0.01)
	near(t, "soft, held", level(soft, 40), 0, 0.01)
	near(t, "soft, after it", level(soft, 400), -40, 0.1)
}

// Rounded off, full scale stays full scale, what is quiet is raised by the drive and no more; without drive nothing changes.
func TestSaturationKeepsFullScale(t *testing.T) {
	s := Saturation{DriveDB: 12}
	near(t, "full scale", s.Curve(1), 1, 1e-12)
	near(t, "both ways", s.Curve(-0.4), -s.Curve(0.4), 1e-15)
	g := math.Pow(10, 12.0/20) - 1
	near(t, "quiet", s.Curve(1e-5)/1e-5, g/math.Tanh(g), 1e-6)
	if (Saturation{}).Curve(0.3) != 0.3 {
		t.Error("no drive changes something")
	}
}

// The room: as much energy on both sides as goes in, nothing before its first wall, −60 dB at its length, highs that go sooner when it is dark;
// convolved by pieces it is what convolving it sample by sample is. The delay repeats at its note value, each time softer.
func TestTheSpaces(t *testing.T) {
	const rate = 16000
	r := Room{SizeM: 10, LengthS: 0.5, Tone: -1, ReturnDB: 0}
	ir := r.Response(rate)
	energy := func(x []float64) (sum float64) {
		for _, v := range x {
			sum += v * v
		}
		return sum
	}
	first := rate * 10 / 343
	for side := range ir {
		near(t, "energy", energy(ir[side]), 1, 1e-9)
		near(t, "before the first wall", energy(ir[side][:first]), 0, 0)
		tail := 10 * math.Log10(energy(ir[side][first+rate*4/10:first+rate*45/100])/energy(ir[side][first+rate/10:first+rate*15/100]))
		near(t, "it falls 36 dB in 0.3 of 0.5 s", tail, -36, 5)
	}
	later := func(r Room) []float64 { return r.Response(rate)[0][rate/5 : rate*2/5] }
	if dark, bright := later(r), later(Room{SizeM: 10, LengthS: 0.5, Tone: 1}); highs(dark)/energy(dark) > 0.7*highs(bright)/energy(bright) {
		t.Errorf("of a dark room's tail %.2f is highs, of a bright one's %.2f", highs(dark)/energy(dark), highs(bright)/energy(bright))
	}
	x := sine(331, 1, rate, 1000)
	c := newConvolver(ir, 256)
	var got, right []float64
	for from := 0; from < 3000; from += 256 {
		block := make([]float64, 256)
		copy(block, x[min(from, len(x)):min(from+256, len(x))])
		other := slices.Clone(block)
		c.run([2][]float64{block, other})
		got, right = append(got, block...), append(right, other...)
	}
	for i := 0; i < len(got); i += 37 {
		want := 0.0
		for k := max(0, i-len(ir[0])+1); k <= min(i, len(x)-1); k++ {
			want += x[k] * ir[0][i-k]
		}
		near(t, "convolved", got[i], want, 1e-12)
		want = 0
		for k := max(0, i-len(ir[1])+1); k <= min(i, len(x)-1); k++ {
			want += x[k] * ir[1][i-k]
		}
		near(t, "convolved, the right side", right[i], want, 1e-12)
	}
	d := newDelayLine(Delay{Grid: "1/8d", Feedback: 0.5, ToneHz: 20000}, 120, rate)
	if len(d.line) != rate*3/8 { // three sixteenths at 120 BPM: 0.375 s
		t.Errorf("repeats come after %d frames", len(d.line))
	}
	pulse := make([]float64, rate)
	pulse[10] = 1
	d.run(pulse)
	one, two := pulse[10+rate*3/8], pulse[10+rate*6/8]
	if one < 0.9 || math.Abs(two-0.5*one*one) > 1e-9 || pulse[10] != 0 {
		t.Errorf("it repeats at %g and %g", one, two)
	}
}

// highs is the energy of neighbouring differences.
func highs(x []float64) (sum float64) {
	for i := range x[1:] {
		sum += (x[i+1] - x[i]) * (x[i+1] - x[i])
	}
	return sum
}

// The desk: a lane of no strip goes to Main untouched; panned it keeps its nearer side; two outputs add up to the mix; what is sent comes back
// beside it; dry, neither processing nor spaces are heard, and levels are.
func TestTheDesk(t *testing.T) {
	db := func(v float64) *float64 { return &v }
	m := New()
	m.Outputs = []Output{{ID: "k", LevelDB: -6, Chain: NewChain()}, {ID: "s", Mono: true, Chain: NewChain()}}
	also := "s"
	m.Strips = map[string]Strip{":36": {Output: "k", LevelDB: -20, GainDB: 14, Room: db(-6)}, ":38": {Pan: 0.5, Also: &also}, ":42": {LevelDB: -96}}
	if err := m.Check(); err != nil {
		t.Fatal(err)
	}
	d := NewDesk(m, 120, 48000)
	if s := d.Sends("", 49); len(s) != 1 || s[0] != (Send{0, [2]float64{1, 1}}) {
		t.Errorf("without a strip: %+v", s)
	}
	s := d.Sends("", 36)
	if len(s) != 2 || s[0].Bus != 1 || s[1].Bus != 3 {
		t.Fatalf("the kick goes to %+v", s)
	}
	near(t, "gain and level", 20*math.Log10(s[0].Sides[0]), -6, 1e-9)
	near(t, "sent", 20*math.Log10(s[1].Sides[1]), -12, 1e-9)
	if s := d.Sends("", 38); len(s) != 2 || s[0] != (Send{0, [2]float64{0.5, 1}}) || s[1].Bus != 2 {
		t.Errorf("panned, and to a second output: %+v", s)
	}
	if s := d.Sends("", 42); s[0].Sides != [2]float64{} {
		t.Errorf("silenced: %+v", s)
	}
	buses := func() [][2][]float64 {
		out := make([][2][]float64, d.Buses())
		for i := range out {
			out[i] = [2][]float64{make([]float64, Quantum), make([]float64, Quantum)}
		}
		out[1][0][5], out[2][0][7], out[3][0][0] = 1, 1, 1
		return out
	}
	mixed := d.Process(buses())
	near(t, "an output at −6 dB", mixed[0][5], math.Pow(10, -6.0/20), 1e-12)
	near(t, "one made mono", mixed[1][7], 0.5, 1e-12)
	near(t, "the room", mixed[0][1000], math.Pow(10, -9.0/20)*m.Room.Response(48000)[0][1000], 1e-9)
	m.Outputs[0].Equaliser = Equaliser{On: true, HighPassHz: 2000, Slope: 12, Low: Band{100, 0}, Mid: Band{500, 0}, High: Band{5000, 0}, MidQ: 1}
	d = NewDesk(m, 120, 48000)
	filtered := d.Process(buses())
	m.Dry = true
	d = NewDesk(m, 120, 48000)
	dry := d.Process(buses())
	if near(t, "dry", dry[0][5], math.Pow(10, -6.0/20), 1e-12); filtered[0][5] == dry[0][5] || dry[0][1000] != 0 || len(d.Sends("", 36)) != 1 {
		t.Error("dry is not dry, or the filter does nothing")
	}
}

func TestWhatNoMixCanBe(t *testing.T) {
	for words, spoil := range map[string]func(m *Mix){
		"a pan beyond":         func(m *Mix) { m.Strips[":36"] = Strip{Pan: 2} },
		"no number":            func(m *Mix) { m.Strips[":36"] = Strip{LevelDB: math.NaN()} },
		"no lane":              func(m *Mix) { m.Strips["kick"] = Strip{} },
		"33 outputs":           func(m *Mix) { m.Outputs = make([]Output, 32) },
		"two of one ID":        func(m *Mix) { m.Outputs = []Output{{ID: "a", Chain: NewChain()}, {ID: "a", Chain: NewChain()}} },
		"a gate that cannot":   func(m *Mix) { m.Main.Gate.CloseDB = m.Main.Gate.OpenDB + 1 },
		"a ratio below one":    func(m *Mix) { m.Main.Compressor.Ratio = 0.5 },
		"a slope that is none": func(m *Mix) { m.Main.Equaliser.Slope = 18 },
		"a delay of no note":   func(m *Mix) { m.Delay.Grid = "1/7" },
		"an endless delay":     func(m *Mix) { m.Delay.Feedback = 1 },
		"no room":              func(m *Mix) { m.Room.LengthS = 0 },
	} {
		m := New()
		spoil(&m)
		if err := m.Check(); !errors.Is(err, ErrMix) && words != "a delay of no note" || err == nil {
			t.Errorf("%s: %v", words, err)
		}
	}
	if err := New().Check(); err != nil {
		t.Error(err)
	}
}
