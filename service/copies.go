package service

import (
	"context"
	"time"
)

// lookForADay is how often it is seen whether a day has begun since the last copy.
const lookForADay = 10 * time.Minute

// KeepCopies copies the database once a day when something changed, and then gathers what lies far back in long histories, for as long
// as the context lasts. What cannot be done (a full disk) is tried again; the last fault is returned at the end.
func (b *Bench) KeepCopies(ctx context.Context) error {
	tick := time.NewTicker(lookForADay)
	defer tick.Stop()
	for {
		_, err := b.KeepCopy(time.Now(), true)
		if err == nil {
			_, err = b.Compact(ctx)
		}
		select {
		case <-ctx.Done():
			return err
		case <-tick.C:
		}
	}
}
