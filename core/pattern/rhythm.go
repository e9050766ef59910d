package pattern

// Bjorklund spreads k strokes over n cells as evenly as possible: true is a stroke. E. Bjorklund, "The Theory of
// Rep-Rate Pattern Generation in the SNS Timing System" (2003); G. Toussaint, "The Euclidean Algorithm Generates
// Traditional Musical Rhythms" (2005), whose figures begin with a stroke as these do.
func Bjorklund(k, n int) []bool {
	if n <= 0 {
		return nil
	}
	k = min(max(0, k), n)
	if k == 0 {
		return make([]bool, n)
	}
	heads, tails := make([][]bool, k), make([][]bool, n-k)
	for i := range heads {
		heads[i] = []bool{true}
	}
	for i := range tails {
		tails[i] = []bool{false}
	}
	// the rests are dealt out among the strokes, then what is left over among the groups, until one at most is left
	for first := true; len(tails) > 1 || first && len(tails) == 1; first = false {
		m := min(len(heads), len(tails))
		joined := make([][]bool, m)
		for i := range joined {
			joined[i] = append(append([]bool(nil), heads[i]...), tails[i]...)
		}
		rest := heads[m:]
		if len(tails) > m {
			rest = tails[m:]
		}
		heads, tails = joined, rest
	}
	out := make([]bool, 0, n)
	for _, g := range append(heads, tails...) {
		out = append(out, g...)
	}
	return out
}
