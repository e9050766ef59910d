package service

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// sized keeps what was used last, as much as fits into a number of bytes. It is safe for many goroutines.
type sized[V any] struct {
	mu    sync.Mutex
	lru   *simplelru.LRU[string, V]
	size  func(V) int64
	most  int64
	bytes int64
}

// newSized makes a cache of most bytes; size tells how many a value takes.
func newSized[V any](most int64, size func(V) int64) *sized[V] {
	c := &sized[V]{size: size, most: most}
	lru, err := simplelru.NewLRU(1<<30, func(_ string, v V) { c.bytes -= size(v) })
	if err != nil {
		panic(err) // the count is a constant above 0
	}
	c.lru = lru
	return c
}

// Get finds a value.
func (c *sized[V]) Get(key string) (V, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.lru.Get(key)
}

// Add keeps a value; one that is larger than all that fits is not kept.
func (c *sized[V]) Add(key string, v V) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.lru.Remove(key)
	n := c.size(v)
	if n > c.most {
		return
	}
	c.lru.Add(key, v)
	c.bytes += n
	for c.bytes > c.most {
		c.lru.RemoveOldest()
	}
}

// Remove forgets a value.
func (c *sized[V]) Remove(key string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.lru.Remove(key)
}

// Bytes is how many bytes are kept.
func (c *sized[V]) Bytes() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.bytes
}
