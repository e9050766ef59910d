// Package damaged turns the panic of a decoder that a damaged file has led astray into an error, so that no file can end the
// program. Decoders defer Caught.
package damaged

import (
	"fmt"
	"log/slog"
)

// Caught ends a panic and reports it as an error that wraps kind. What went wrong inside is for the log.
func Caught(err *error, kind error) {
	if r := recover(); r != nil {
		slog.Warn("a damaged file led a decoder astray", "panic", r)
		*err = fmt.Errorf("%w: it is damaged; save it anew with the program it came from", kind)
	}
}
