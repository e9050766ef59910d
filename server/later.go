package server

import (
	"context"
	"io"
)

// later is a writer whose target is known only once a reply begins.
type later struct{ to io.Writer }

func (l *later) Write(p []byte) (int, error) { return l.to.Write(p) }

// then makes run write to what it is given.
func (l *later) then(run func(context.Context) error) func(context.Context, io.Writer) error {
	return func(ctx context.Context, out io.Writer) error {
		l.to = out
		return run(ctx)
	}
}
