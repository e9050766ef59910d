package store

import (
	"errors"
	"io/fs"
	"syscall"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// What a disk does not take is told apart from what the bench did wrong.
var (
	ErrFull   = errors.New("the disk is full: make room where the data folder is, and do it again")
	ErrNoDisk = errors.New("the data folder cannot be written: look whether it is there and may be written to, and do it again")
)

// diskFault says what is wrong in words without paths, and keeps the cause for whoever runs the bench.
type diskFault struct{ kind, cause error }

func (f diskFault) Error() string   { return f.kind.Error() }
func (f diskFault) Unwrap() []error { return []error{f.kind, f.cause} }

// Cause is what was behind a fault of the disk, with its path; the error itself of any other.
func Cause(err error) error {
	var f diskFault
	if errors.As(err, &f) {
		return f.cause
	}
	return err
}

// named gives faults of the disk their names.
func named(err error) error {
	if err == nil || errors.As(err, new(diskFault)) {
		return err
	}
	var db *sqlite.Error
	if errors.As(err, &db) {
		switch {
		// what a quota or a limit of the system refuses, SQLite calls a fault of writing
		case db.Code() == sqlite3.SQLITE_IOERR_WRITE, db.Code()&0xff == sqlite3.SQLITE_FULL:
			return diskFault{ErrFull, err}
		case db.Code()&0xff == sqlite3.SQLITE_IOERR, db.Code()&0xff == sqlite3.SQLITE_READONLY, db.Code()&0xff == sqlite3.SQLITE_CANTOPEN:
			return diskFault{ErrNoDisk, err}
		}
	}
	switch {
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EFBIG), errors.Is(err, syscall.EDQUOT):
		return diskFault{ErrFull, err}
	case errors.Is(err, syscall.EROFS), errors.Is(err, syscall.EIO), errors.Is(err, fs.ErrPermission):
		return diskFault{ErrNoDisk, err}
	}
	return err
}
