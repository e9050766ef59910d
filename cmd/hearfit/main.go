// Command hearfit teaches the drum recogniser: it performs breaks on synthesised kits, whose true hits are
// known, and fits the net of core/hear to them. It writes core/hear/net.bin; the same seed and counts give
// the same weights on the same machine.
//
//	go run ./cmd/hearfit -breaks 9000 -epochs 16 -seed 11
//	go run ./cmd/hearfit -breaks 120 -seed 5000000 -check
//	go run ./cmd/hearfit -breaks 2000 -grid core/hear/grid.json
//	go run ./cmd/hearfit -breaks 1500 -epochs 20 -kinds core/kind/net.bin
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"runtime"
	"strings"
	"sync"
	"time"

	"hexachord/core/hear"
	"hexachord/core/sound"
	"hexachord/demo/breaks"
)

func main() {
	count := flag.Int("breaks", 3000, "how many breaks to learn from")
	epochs := flag.Int("epochs", 16, "how many times to go through them")
	seed := flag.Uint64("seed", 1, "seed of everything random")
	from := flag.Uint64("from", 0, "seed of the performances alone; 0 is -seed")
	out := flag.String("out", "core/hear/net.bin", "where the nets' weights go")
	join := flag.String("join", "", "nets learnt before, to which these are added: what they say is averaged")
	grid := flag.String("grid", "", "fit the tempo's weights instead and write them here, for example core/hear/grid.json")
	kinds := flag.String("kinds", "", "teach what samples are instead, with -breaks sounds of each kind, and write it here, for example core/kind/net.bin")
	nets := flag.Int("nets", 1, "how many nets to learn from the same performances")
	without := flag.String("without", "", "what performances leave out of "+strings.Join(traits, ", ")+": names with commas between")
	font := flag.String("font", "", "a soundfont whose drums are heard beside synthesised ones, for example /usr/share/sounds/sf2/FluidR3_GM.sf2")
	check := flag.Bool("check", false, "only hear -breaks performances with the nets there are, and say how much is right and how sure it was")
	flag.Parse()
	life, err := lifeWithout(*without, *font)
	if err != nil {
		log.Fatal(err)
	}
	if *check && *kinds != "" {
		if life.Strokes == nil {
			log.Fatal("the kinds are checked on a soundfont: name it with -font")
		}
		checkKinds(life.Strokes)
		return
	}
	if *check {
		if life.Strokes != nil {
			life.Strokes.Whole = true
		}
		checkHearing(*count, *seed, life)
		return
	}
	if *kinds != "" {
		if err := fitKinds(*count, *epochs, *seed, life.Strokes, *kinds); err != nil {
			log.Fatal(err)
		}
		return
	}
	if *grid != "" {
		if err := fitGrid(*count, *seed, *grid); err != nil {
			log.Fatal(err)
		}
		return
	}

	start := time.Now()
	took := func() float64 { return time.Since(start).Seconds() }
	if *from == 0 {
		*from = *seed
	}
	learn, held := synthesise(*count, *from, life), synthesise(max(20, min(200, *count/20)), *seed+2_000_000, life)
	log.Printf("performed after %.0f s", took())
	var all hear.Nets
	if *join != "" { // beside those learnt before
		data, err := os.ReadFile(*join)
		if err != nil {
			log.Fatal(err)
		}
		if all, err = hear.DecodeNets(data); err != nil {
			log.Fatal(err)
		}
	}
	for n := range *nets {
		all = append(all, fitSet(learn, held, *epochs, *seed+uint64(n)))
	}
	if err := os.WriteFile(*out, all.Encode(), 0o644); err != nil {
		log.Fatal(err)
	}
	log.Printf("wrote %s after %.0f s", *out, took())
}

// traits are the names of what a performance may take from life.
var traits = []string{"hats", "grooves", "worn", "beds"}

func lifeWithout(without, font string) (breaks.Life, error) {
	life := breaks.Life{Hats: true, Grooves: true, Worn: true, Beds: true}
	for name := range strings.SplitSeq(without, ",") {
		switch name {
		case "":
		case "hats":
			life.Hats = false
		case "grooves":
			life.Grooves = false
		case "worn":
			life.Worn = false
		case "beds":
			life.Beds = false
		default:
			return life, fmt.Errorf("performances can leave out %v, not %q", traits, name)
		}
	}
	if font == "" {
		return life, nil
	}
	var err error
	life.Strokes, err = strokesOf(font)
	return life, err
}

// examined is one break: what is seen of it and what is true.
type examined struct {
	seen    hear.Examined
	targets []target
}

// target is what is true of an onset, output by output. NaN means: not to be learnt from.
type target [hear.NetOutput]float32

// example is what a net is given and what is true.
type example struct {
	input  []float32
	target []float32
}

// kitsASeed is how many kits one seed makes, before the next seed follows.
const kitsASeed = 800

// synthesise performs count breaks and examines them.
func synthesise(count int, seed uint64, life breaks.Life) []examined {
	parts := make([]examined, count)
	perform(count, seed, life, func(k int, audio sound.Buffer, truth []breaks.Hit) {
		seen, err := hear.Examine(context.Background(), audio, nil)
		if err != nil {
			log.Fatal(err)
		}
		parts[k] = examined{seen.WithoutAudio(), label(seen, truth)}
	})
	return parts
}

// perform performs count breaks, two on every kit, and hands on what was played; several at once.
func perform(count int, seed uint64, life breaks.Life, each func(k int, audio sound.Buffer, truth []breaks.Hit)) {
	jobs := make(chan int)
	var wg sync.WaitGroup
	for range runtime.NumCPU() {
		wg.Go(func() {
			for i := range jobs {
				rng := rand.New(rand.NewPCG(seed+uint64(i/kitsASeed), uint64(i%kitsASeed)))
				notes := life.KitNotes(rng)
				kit := life.Kit(notes, rng)
				for k := 2 * i; k < min(count, 2*i+2); k++ {
					audio, truth := life.Perform(kit, notes, 2, rng)
					each(k, audio, truth)
				}
			}
		})
	}
	for i := range (count + 1) / 2 {
		if i%250 == 0 {
			fmt.Fprintf(os.Stderr, "kit %d of %d\n", i, (count+1)/2)
		}
		jobs <- i
	}
	close(jobs)
	wg.Wait()
}
