// Package archive opens zip files that may have been made to do harm: paths are kept inside, sizes are bounded before
// anything is unpacked.
package archive

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"time"

	"hexachord/format/damaged"
)

// Faults a caller can tell apart.
var (
	ErrZip   = errors.New("this zip file cannot be opened")
	ErrPath  = errors.New("its path leads out of the zip file")
	ErrLarge = errors.New("it unpacks to more than can be taken in")
)

// Limits bound what is unpacked.
type Limits struct {
	Files      int
	FileBytes  int64
	TotalBytes int64
}

// Usual are limits for samples and kits.
var Usual = Limits{Files: 20_000, FileBytes: 512 << 20, TotalBytes: 4 << 30}

// maxRatio is how many times its packed size a file of some size may unpack to; audio packs to a tenth at best.
const maxRatio = 300

// Entry is a file in the zip.
type Entry struct {
	Path string // clean, with forward slashes
	Err  error  // why it cannot be unpacked; nil when it can
	file *zip.File
	max  int64
}

// Sniff reports whether data begins like a zip file.
func Sniff(data []byte) bool { return len(data) >= 4 && string(data[:4]) == "PK\x03\x04" }

// Open lists the files of a zip, without folders and what systems leave beside them.
func Open(data []byte, lim Limits) (_ []Entry, err error) {
	defer damaged.Caught(&err, ErrZip)
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrZip, err)
	}
	if len(z.File) > lim.Files {
		return nil, fmt.Errorf("%w: it holds %d files, at most %d are taken in at once; split it", ErrZip, len(z.File), lim.Files)
	}
	var out []Entry
	total := int64(0)
	for _, f := range z.File {
		name := strings.ReplaceAll(f.Name, `\`, "/")
		clean := path.Clean(name)
		base := path.Base(clean)
		if f.FileInfo().IsDir() || strings.HasPrefix(name, "__MACOSX/") || strings.HasPrefix(base, "._") || base == ".DS_Store" || base == "Thumbs.db" {
			continue
		}
		e := Entry{Path: clean, file: f, max: lim.FileBytes}
		size := int64(f.UncompressedSize64)
		switch {
		case strings.HasPrefix(clean, "/") || clean == ".." || strings.HasPrefix(clean, "../") || len(clean) > 1 && clean[1] == ':':
			e.Err = fmt.Errorf("%s: %w", base, ErrPath)
		case f.Mode()&^0o777 != 0:
			e.Err = fmt.Errorf("%s: %w", clean, errors.New("it is no plain file"))
		case size < 0 || size > lim.FileBytes || size > 1<<20 && size > maxRatio*int64(f.CompressedSize64):
			e.Err = fmt.Errorf("%s: %w", clean, ErrLarge)
		default:
			if total += size; total > lim.TotalBytes {
				e.Err = fmt.Errorf("%s: %w", clean, ErrLarge)
			}
		}
		out = append(out, e)
	}
	return out, nil
}

// Size is how many bytes the file has unpacked, as its header promises.
func (e Entry) Size() int64 {
	if e.file == nil {
		return 0
	}
	return int64(min(e.file.UncompressedSize64, 1<<62))
}

// Read unpacks the file. What its header promised is not trusted.
func (e Entry) Read() ([]byte, error) {
	if e.Err != nil {
		return nil, e.Err
	}
	r, err := e.file.Open()
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %v", e.Path, ErrZip, err)
	}
	defer func() { _ = r.Close() }() // what was read has been checked against its sum
	data, err := io.ReadAll(io.LimitReader(r, min(e.max, int64(e.file.UncompressedSize64))+1))
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %v", e.Path, ErrZip, err)
	}
	if uint64(len(data)) > e.file.UncompressedSize64 {
		return nil, fmt.Errorf("%s: %w", e.Path, ErrLarge)
	}
	return data, nil
}

// Writer packs files, one after another.
type Writer struct {
	at  time.Time
	buf bytes.Buffer
	zip *zip.Writer
	err error
}

// NewWriter begins a zip file whose files are dated at.
func NewWriter(at time.Time) *Writer {
	w := &Writer{at: at}
	w.zip = zip.NewWriter(&w.buf)
	return w
}

// Add packs a file; audio is stored as it is, for it hardly packs.
func (w *Writer) Add(path string, data []byte, pack bool) {
	if w.err != nil {
		return
	}
	h := &zip.FileHeader{Name: path, Method: zip.Store, Modified: w.at}
	if pack {
		h.Method = zip.Deflate
	}
	f, err := w.zip.CreateHeader(h)
	if err == nil {
		_, err = f.Write(data)
	}
	w.err = err
}

// Bytes ends the zip file.
func (w *Writer) Bytes() ([]byte, error) {
	if w.err == nil {
		w.err = w.zip.Close()
	}
	return w.buf.Bytes(), w.err
}
