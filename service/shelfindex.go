package service

import (
	"errors"
	"fmt"
	"sync"

	"hexachord/core/play"
	"hexachord/core/shelf"
	"hexachord/store"
)

// shelfIndex is the shelf in memory, read once, beside whatever else the bench begins with: who asks for it waits until it is there.
type shelfIndex struct {
	sync.RWMutex
	shelf *shelf.Shelf
	read  chan struct{} // closed when it is there, or err says why not
	err   error
}

func (b *Bench) readShelf() {
	defer close(b.shelf.read)
	items, trashed, err := b.Samples()
	if err != nil {
		b.shelf.err = fmt.Errorf("the shelf cannot be read: %w", err)
		return
	}
	b.shelf.shelf = shelf.New()
	for _, it := range items {
		b.shelf.shelf.Put(it)
		b.shelf.shelf.Trash(it.Hash, trashed[it.Hash])
	}
}

// there waits until the shelf is read.
func (s *shelfIndex) there() error {
	<-s.read
	return s.err
}

// lookedUp lets f look at the shelf.
func (b *Bench) lookedUp(f func(s *shelf.Shelf)) error {
	if err := b.shelf.there(); err != nil {
		return err
	}
	b.shelf.RLock()
	defer b.shelf.RUnlock()
	f(b.shelf.shelf)
	return nil
}

// rearranged lets f change the shelf.
func (b *Bench) rearranged(f func(s *shelf.Shelf)) error {
	if err := b.shelf.there(); err != nil {
		return err
	}
	b.shelf.Lock()
	defer b.shelf.Unlock()
	f(b.shelf.shelf)
	return nil
}

// FindSamples looks for samples on the shelf.
func (b *Bench) FindSamples(q shelf.Query) (r shelf.Result, err error) {
	err = b.lookedUp(func(s *shelf.Shelf) { r = s.Find(q) })
	return r, err
}

// Sample finds a sample by its hash, in the trash too; store.ErrNotFound when there is none.
func (b *Bench) Sample(hash string) (it shelf.Item, err error) {
	known := false
	if err := b.lookedUp(func(s *shelf.Shelf) { it, known = s.Get(hash) }); err != nil {
		return it, err
	}
	if !known {
		return it, fmt.Errorf("the sample: %w", store.ErrNotFound)
	}
	return it, nil
}

func (b *Bench) trashed(hash string) (in bool, err error) {
	err = b.lookedUp(func(s *shelf.Shelf) { in = s.Trashed(hash) })
	return in, err
}

func (b *Bench) keepSamples(items []shelf.Item) error {
	if err := b.PutSamples(items); err != nil {
		return fmt.Errorf("the samples cannot be kept: %w", err)
	}
	return b.rearranged(func(s *shelf.Shelf) {
		for _, it := range items {
			s.Put(it)
		}
	})
}

// Trash puts things of one kind in the trash, all or none; see [store.Store.Trash].
func (b *Bench) Trash(what string, ids ...string) error {
	if err := b.Store.Trash(what, ids...); err != nil {
		return err
	}
	return b.shelfTrash(what, ids, true)
}

// Restore takes things of one kind out of the trash, all or none; see [store.Store.Restore].
func (b *Bench) Restore(what string, ids ...string) error {
	if err := b.Store.Restore(what, ids...); err != nil {
		return err
	}
	return b.shelfTrash(what, ids, false)
}

func (b *Bench) shelfTrash(what string, ids []string, in bool) error {
	if what != store.TrashSample {
		return nil
	}
	return b.rearranged(func(s *shelf.Shelf) {
		for _, hash := range ids {
			s.Trash(hash, in)
		}
	})
}

// EmptyTrash removes for good what is in the trash but the samples that something sounds; see [store.Store.EmptyTrash].
func (b *Bench) EmptyTrash() error {
	gone, err := b.Store.EmptyTrash()
	if len(gone) == 0 {
		return err
	}
	return errors.Join(err, b.rearranged(func(s *shelf.Shelf) {
		for _, hash := range gone {
			s.Remove(hash)
			b.decoded.Remove(hash)
			b.decoded.Remove(partKey(hash, play.DrumsPart))
			b.decoded.Remove(partKey(hash, play.LeftPart))
		}
	}))
}
