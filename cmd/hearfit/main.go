// Command hearfit teaches the drum recogniser: it performs breaks on synthesised kits, whose true hits are
// known, and fits the net of core/hear to them. It writes core/hear/net.bin; the same seed and counts give
// the same weights on the same machine.
//
//	go run ./cmd/hearfit -breaks 3000 -epochs 16 -out core/hear/net.bin
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"runtime"
	"sync"
	"time"

	"hexachord/core/hear"
	"hexachord/demo/breaks"
)

func main() {
	count := flag.Int("breaks", 3000, "how many breaks to learn from")
	epochs := flag.Int("epochs", 16, "how many times to go through them")
	seed := flag.Uint64("seed", 1, "seed of everything random")
	out := flag.String("out", "core/hear/net.bin", "where the weights go")
	flag.Parse()

	start := time.Now()
	learn := synthesise(*count, *seed)
	check := synthesise(max(20, *count/20), *seed+1_000_000)
	log.Printf("%d onsets to learn from, %d to check, in %.0f s", len(learn), len(check), time.Since(start).Seconds())
	net := fit(learn, check, *epochs, *seed)
	if err := os.WriteFile(*out, net.Encode(), 0o644); err != nil {
		log.Fatal(err)
	}
	log.Printf("wrote %s after %.0f s", *out, time.Since(start).Seconds())
}

// example is one onset and what is true of it. NaN means: not to be learnt from.
type example struct {
	patch  []float32
	target [hear.NetOutput]float32
}

// synthesise performs count breaks, two on every kit, and examines them.
func synthesise(count int, seed uint64) []example {
	parts := make([][]example, count)
	jobs := make(chan int)
	var wg sync.WaitGroup
	for range runtime.NumCPU() {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range jobs {
				rng := rand.New(rand.NewPCG(seed, uint64(i)))
				notes := breaks.KitNotes(rng)
				kit := breaks.RandomKit(notes, rng)
				for half := range 2 {
					if k := 2*i + half; k < count {
						audio, truth := breaks.Render(kit, breaks.RandomPerformance(notes, rng), breaks.RandomRoom(rng), rng.Uint64())
						seen, err := hear.Examine(context.Background(), audio, nil)
						if err != nil {
							log.Fatal(err)
						}
						parts[k] = label(seen, truth)
					}
				}
			}
		}()
	}
	for i := range (count + 1) / 2 {
		if i%250 == 0 {
			fmt.Fprintf(os.Stderr, "kit %d of %d\n", i, (count+1)/2)
		}
		jobs <- i
	}
	close(jobs)
	wg.Wait()
	var all []example
	for _, p := range parts {
		all = append(all, p...)
	}
	return all
}
