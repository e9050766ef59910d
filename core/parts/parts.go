// Package parts does long computations in as many parts at once as there are processors.
package parts

import (
	"runtime"
	"sync"
)

// Do does n things by calling part for stretches of them, from inclusive, to exclusive, that together are all of them;
// fewer than least things for each processor are not worth another part.
func Do(n, least int, part func(from, to int)) {
	count := min(runtime.GOMAXPROCS(0), 1+n/least)
	var wg sync.WaitGroup
	var once sync.Once
	var fault any
	for k := range count {
		wg.Go(func() {
			defer func() {
				if r := recover(); r != nil {
					once.Do(func() { fault = r })
				}
			}()
			part(n*k/count, n*(k+1)/count)
		})
	}
	wg.Wait()
	if fault != nil {
		panic(fault) // where it can be caught: no part may end the program
	}
}
