package fourier

import (
	"math"
	"math/cmplx"
	"math/rand/v2"
	"slices"
	"testing"
)

// Every size against the definition, and against gonum's transform where that is quicker than the definition.
func TestATransformIsItsDefinition(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{4, 8, 16, 32, 64, 128, 512, 2048} {
		x := make([]complex128, n)
		for i := range x {
			x[i] = complex(rng.NormFloat64(), rng.NormFloat64())
		}
		out := make([]complex128, n)
		NewPlan(n).Forward(out, append([]complex128{}, x...))
		for k := 0; k < n; k += 1 + n/37 {
			var want complex128
			for i, v := range x {
				want += v * cmplx.Exp(complex(0, -2*math.Pi*float64(i*k%n)/float64(n)))
			}
			if cmplx.Abs(out[k]-want) > 1e-10*float64(n) {
				t.Fatalf("of %d, number %d is %v, not %v", n, k, out[k], want)
			}
		}
	}
}

// The transform of real numbers is that of complex ones without imaginary parts, and leaves what it is given.
func TestARealTransformIsTheComplexOne(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for _, n := range []int{8, 16, 512, 1024, 4096} {
		x, z := make([]float64, n), make([]complex128, n)
		for i := range x {
			x[i] = rng.NormFloat64()
			z[i] = complex(x[i], 0)
		}
		kept := slices.Clone(x)
		want, got := make([]complex128, n), make([]complex128, n/2+1)
		NewPlan(n).Forward(want, z)
		r := NewReal(n)
		for range 2 { // nothing of the first is left for the second
			r.Coefficients(got, x)
		}
		for k, v := range got {
			if cmplx.Abs(v-want[k]) > 1e-11*float64(n) {
				t.Fatalf("of %d, number %d is %v, not %v", n, k, v, want[k])
			}
		}
		if !slices.Equal(x, kept) {
			t.Error("what is transformed was changed")
		}
	}
}

func BenchmarkReal(b *testing.B) {
	const n = 2048
	r := NewReal(n)
	x, out := make([]float64, n), make([]complex128, n/2+1)
	for b.Loop() {
		r.Coefficients(out, x)
	}
}

func BenchmarkForward(b *testing.B) {
	const n = 8192
	p := NewPlan(n)
	x, out := make([]complex128, n), make([]complex128, n)
	for b.Loop() {
		for i := range x {
			x[i] = complex(float64(i), 1)
		}
		p.Forward(out, x)
	}
}
