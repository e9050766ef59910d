package service

import (
	"fmt"
	"sync"
	"testing"
)

// However much goes through, no more than the bytes stated are kept, and what was used last is among them.
func TestACacheIsBoundedByBytes(t *testing.T) {
	c := newSized(1000, func(b []byte) int64 { return int64(len(b)) })
	for i := range 50 {
		c.Add(fmt.Sprint(i), make([]byte, 1+i*7%300))
		c.Get("0")
		if n := c.Bytes(); n > 1000 || n < 0 {
			t.Fatalf("%d bytes are kept", n)
		}
	}
	if _, ok := c.Get("0"); !ok {
		t.Error("what was used all along is gone")
	}
	if _, ok := c.Get("1"); ok {
		t.Error("what was not used for long is kept")
	}
	before := c.Bytes()
	if c.Add("large", make([]byte, 1001)); c.Bytes() != before {
		t.Errorf("one larger than all: %d bytes are kept, %d before", c.Bytes(), before)
	}
	c.Add("0", make([]byte, 10))
	c.Add("0", make([]byte, 20))
	if v, _ := c.Get("0"); len(v) != 20 {
		t.Errorf("put again it has %d bytes", len(v))
	}
}

func TestACacheServesManyAtOnce(t *testing.T) {
	c := newSized(500, func(b []byte) int64 { return int64(len(b)) })
	var wait sync.WaitGroup
	for k := range 8 {
		wait.Go(func() {
			for i := range 500 {
				c.Add(fmt.Sprint(i%(17+k)), make([]byte, i%90))
				c.Get(fmt.Sprint(i % 13))
			}
		})
	}
	wait.Wait()
	if n := c.Bytes(); n < 0 || n > 500 {
		t.Errorf("%d bytes are kept", n)
	}
}
