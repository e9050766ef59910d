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

// A fault in one part ends as a fault of the caller, who can catch it, after the others are done.
func TestAFaultReachesTheCaller(t *testing.T) {
	var done atomic.Int32
	fault := func() (fault any) {
		defer func() { fault = recover() }()
		Do(100, 1, func(from, to int) {
			done.Add(int32(to - from))
			if to == 100 {
				panic("the last part")
			}
		})
		return nil
	}()
	if fault != "the last part" || done.Load() != 100 {
		t.Errorf("the caller sees %v after %d of 100 things", fault, done.Load())
	}
}
