// Package damaged turns the panic of a decoder that a damaged file has led astray into an error, so that no file can end the
// program. Decoders defer Caught.
package damaged

import "fmt"

// Caught ends a panic and reports it as an error that wraps kind.
func Caught(err *error, kind error) {
	if r := recover(); r != nil {
		*err = fmt.Errorf("%w: it is damaged, in a way that nobody foresaw (%.100s)", kind, fmt.Sprint(r))
	}
}
