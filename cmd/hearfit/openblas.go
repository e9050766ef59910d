//go:build openblas

package main

import (
	"gonum.org/v1/gonum/blas/blas32"
	"gonum.org/v1/netlib/blas/netlib"
)

// With OpenBLAS (Debian's libopenblas-dev) learning takes a tenth of the time:
//
//	CGO_LDFLAGS=-lopenblas go run -tags openblas ./cmd/hearfit
func init() { blas32.Use(netlib.Implementation{}) }
