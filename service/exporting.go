package service

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"hexachord/core/project"
)

// exporting is an export under way or made.
type exporting struct {
	mu     sync.Mutex
	state  ExportState
	folder string // where it is written until it is whole
	stop   context.CancelFunc
	ended  chan struct{}
}

// mostExports are how many exports are kept in the data folder; older ones go.
const mostExports = 8

// partWritten ends the name of the folder of an export that is not whole.
const partWritten = ".part"

// sweepExports takes out what an export left that was cut off, and the oldest of those made before.
func (b *Bench) sweepExports() error {
	dirs, err := os.ReadDir(filepath.Dir(b.exportFolder("x")))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	var whole []os.FileInfo
	for _, d := range dirs {
		info, infoErr := d.Info()
		if strings.HasSuffix(d.Name(), partWritten) {
			err = errors.Join(err, os.RemoveAll(b.exportFolder(d.Name())))
		} else if infoErr == nil {
			whole = append(whole, info)
		}
	}
	slices.SortFunc(whole, func(a, b os.FileInfo) int { return b.ModTime().Compare(a.ModTime()) })
	for _, old := range whole[min(len(whole), mostExports):] {
		err = errors.Join(err, os.RemoveAll(b.exportFolder(old.Name())))
	}
	return err
}

func (b *Bench) exportFolder(id string) string { return filepath.Join(b.Dir(), "exports", id) }

// prepareExport plans an export of a project as it is now.
func (b *Bench) prepareExport(projectID string, e Export) (*exportWork, error) {
	if err := e.Check(); err != nil {
		return nil, err
	}
	state, err := b.State(projectID)
	if err != nil {
		return nil, err
	}
	if e.Names == "" {
		e.Names = NamesUsual
	}
	return b.planExport(state, e, time.Now())
}

// begun is the state of an export of which nothing is made yet.
func (w *exportWork) begun() ExportState {
	return ExportState{Project: w.p.ID, Revision: w.p.Revision, At: time.Now().UTC(), Files: w.files, Seconds: w.seconds}
}

// StartExport begins an export of a project as it is now and returns at once.
func (b *Bench) StartExport(projectID string, e Export) (ExportState, error) {
	w, err := b.prepareExport(projectID, e)
	if err != nil {
		return ExportState{}, err
	}
	id := b.NewID()
	ctx, stop := context.WithCancel(context.Background())
	x := &exporting{stop: stop, ended: make(chan struct{}), state: w.begun()}
	x.state.ID, x.state.Folder = id, b.exportFolder(id)
	x.folder = x.state.Folder + partWritten
	if err := os.MkdirAll(x.folder, 0o700); err != nil {
		stop()
		return ExportState{}, err
	}
	b.mu.Lock()
	b.exports = append(b.exports, x)
	b.mu.Unlock()
	go func() {
		defer close(x.ended)
		defer stop()
		err := w.run(ctx, x)
		if err == nil {
			err = os.Rename(x.folder, x.state.Folder)
		}
		x.mu.Lock()
		x.state.Done = err == nil
		if err != nil {
			x.state.Error = explainWrite(err, x.state.Bytes)
			x.state.Files = nil
		}
		x.mu.Unlock()
		if err != nil { // nothing half-written remains
			_ = os.RemoveAll(x.folder)
		}
		b.forgetExports()
	}()
	return x.now(), nil
}

// PlanExport says which files an export would make of a project as it is now.
func (b *Bench) PlanExport(projectID string, e Export) (ExportState, error) {
	w, err := b.prepareExport(projectID, e)
	if err != nil {
		return ExportState{}, err
	}
	return w.begun(), nil
}

// ExportTo makes an export of a project as it is now in a folder that is there, and returns when it is made. Of one that fails nothing is left.
func (b *Bench) ExportTo(ctx context.Context, projectID string, e Export, folder string) (ExportState, error) {
	w, err := b.prepareExport(projectID, e)
	if err != nil {
		return ExportState{}, err
	}
	x := &exporting{folder: folder, state: w.begun()}
	x.state.Folder = folder
	if err := w.run(ctx, x); err != nil {
		for _, f := range w.files {
			_ = os.Remove(filepath.Join(folder, f.Name))
		}
		return ExportState{}, errors.New(explainWrite(err, x.state.Bytes))
	}
	return x.now(), nil
}

// explainWrite says why an export ended, and what is needed where the disk is full.
func explainWrite(err error, bytes int64) string {
	switch {
	case errors.Is(err, context.Canceled):
		return "cancelled; nothing of it was kept"
	case errors.Is(err, syscall.ENOSPC):
		return fmt.Sprintf("the disk is full: this export needs about %d MB; nothing half-written was kept", 1+bytes>>20)
	}
	return err.Error()
}

func (x *exporting) now() ExportState {
	x.mu.Lock()
	defer x.mu.Unlock()
	s := x.state
	s.Files = slices.Clone(s.Files)
	return s
}

// forgetExports takes out the oldest exports that are made.
func (b *Bench) forgetExports() {
	b.mu.Lock()
	defer b.mu.Unlock()
	for len(b.exports) > mostExports {
		select {
		case <-b.exports[0].ended:
			_ = os.RemoveAll(b.exports[0].state.Folder)
			b.exports = b.exports[1:]
		default:
			return
		}
	}
}

func (b *Bench) export(id string) (*exporting, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, x := range b.exports {
		if x.state.ID == id {
			return x, nil
		}
	}
	return nil, fmt.Errorf("the export: %w", project.ErrNotFound)
}

// ExportState says how far an export has come.
func (b *Bench) ExportState(id string) (ExportState, error) {
	x, err := b.export(id)
	if err != nil {
		return ExportState{}, err
	}
	return x.now(), nil
}

// StopExport cancels an export, or takes out what it made.
func (b *Bench) StopExport(id string) (ExportState, error) {
	x, err := b.export(id)
	if err != nil {
		return ExportState{}, err
	}
	x.stop()
	<-x.ended
	s := x.now()
	b.mu.Lock()
	b.exports = slices.DeleteFunc(b.exports, func(o *exporting) bool { return o == x })
	b.mu.Unlock()
	return s, os.RemoveAll(s.Folder)
}

// ExportedFile is the path of a file of an export that is made.
func (b *Bench) ExportedFile(id, name string) (string, error) {
	s, err := b.ExportState(id)
	if err != nil {
		return "", err
	}
	for _, f := range s.Files {
		if f.Name == name && s.Done {
			return filepath.Join(s.Folder, f.Name), nil
		}
	}
	return "", fmt.Errorf("the file of the export: %w", project.ErrNotFound)
}

// ZipExport writes all files of an export that is made as one zip.
func (b *Bench) ZipExport(id string, out io.Writer) error {
	s, err := b.ExportState(id)
	if err != nil {
		return err
	}
	return zipFiles(out, s)
}
