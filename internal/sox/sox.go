// Package sox runs the reference audio tool of that name for the tests.
package sox

import (
	"encoding/binary"
	"math"
	"os/exec"
	"strconv"
	"testing"
)

// Decode has sox decode a file to 64-bit floats, interleaved, and tells its rate and channels.
func Decode(t *testing.T, path string) (samples []float64, rate, channels int) {
	t.Helper()
	raw := output(t, "sox", path, "-t", "f64", "-")
	for i := 0; i+8 <= len(raw); i += 8 {
		samples = append(samples, math.Float64frombits(binary.LittleEndian.Uint64(raw[i:])))
	}
	return samples, number(t, output(t, "soxi", "-r", path)), number(t, output(t, "soxi", "-c", path))
}

// Make has sox make a file: arguments as on its command line.
func Make(t *testing.T, args ...string) { t.Helper(); output(t, "sox", args...) }

// Info is one fact soxi tells of a file, by its flag.
func Info(t *testing.T, flag, path string) string {
	t.Helper()
	out := output(t, "soxi", flag, path)
	return string(out[:len(out)-1])
}

func output(t *testing.T, name string, args ...string) []byte {
	t.Helper()
	out, err := exec.Command(name, args...).Output()
	if err != nil {
		t.Fatalf("%s %v: %v (make test installs it)", name, args, err)
	}
	return out
}

func number(t *testing.T, b []byte) int {
	t.Helper()
	n, err := strconv.Atoi(string(b[:len(b)-1]))
	if err != nil {
		t.Fatal(err)
	}
	return n
}
