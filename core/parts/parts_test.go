package parts

import (
	"sync/atomic"
	"testing"
)

// Every thing is done once, whatever their number.
func TestDo(t *testing.T) {
	for _, n := range []int{0, 1, 2, 7, 64, 65, 1000} {
		done := make([]atomic.Int32, n)
		Do(n, 3, func(from, to int) {
			for i := from; i < to; i++ {
				done[i].Add(1)
			}
		})
		for i := range done {
			if times := done[i].Load(); times != 1 {
				t.Errorf("%d things: number %d is done %d times", n, i, times)
			}
		}
	}
}
