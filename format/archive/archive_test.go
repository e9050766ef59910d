package archive

import (
	"archive/zip"
	"bytes"
	"errors"
	"io/fs"
	"testing"
	"time"
)

func packed(t *testing.T, add func(*zip.Writer)) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	add(w)
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func put(t *testing.T, w *zip.Writer, name string, data []byte) {
	t.Helper()
	f, err := w.Create(name)
	if err == nil {
		_, err = f.Write(data)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// Paths that lead out, links, bombs and lies about sizes are refused one by one; the rest is read.
func TestHarmfulZips(t *testing.T) {
	data := packed(t, func(w *zip.Writer) {
		for _, name := range []string{"a/good.wav", `b\back.wav`, "../up.wav", "/root.wav", "a/../../out.wav", `C:\x.wav`, "__MACOSX/a/._good.wav", "a/.DS_Store"} {
			put(t, w, name, []byte("data"))
		}
		put(t, w, "bomb.wav", make([]byte, 40<<20))
		h := &zip.FileHeader{Name: "link.wav"}
		h.SetMode(fs.ModeSymlink | 0o777)
		f, err := w.CreateHeader(h)
		if err == nil {
			_, err = f.Write([]byte("/etc/passwd"))
		}
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Create("folder/"); err != nil {
			t.Fatal(err)
		}
	})
	entries, err := Open(data, Usual)
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]error{}
	for _, e := range entries {
		content, err := e.Read()
		got[e.Path] = err
		if err == nil && string(content) != "data" {
			t.Errorf("%s holds %q", e.Path, content)
		}
	}
	for path, want := range map[string]error{"a/good.wav": nil, "b/back.wav": nil, "../up.wav": ErrPath, "/root.wav": ErrPath, "../out.wav": ErrPath, "C:/x.wav": ErrPath, "bomb.wav": ErrLarge} {
		if err, ok := got[path]; !ok || !errors.Is(err, want) {
			t.Errorf("%s: %v, want %v", path, err, want)
		}
	}
	if got["link.wav"] == nil || len(got) != 8 {
		t.Errorf("a link is read, or what systems leave beside files: %v", got)
	}
	if _, err := Open([]byte("PK\x03\x04 and nothing"), Usual); !errors.Is(err, ErrZip) {
		t.Errorf("damaged: %v", err)
	}
	if _, err := Open(data, Limits{Files: 3, FileBytes: 1 << 20, TotalBytes: 1 << 20}); !errors.Is(err, ErrZip) {
		t.Errorf("too many files: %v", err)
	}
	small, err := Open(data, Limits{Files: 100, FileBytes: 3, TotalBytes: 1 << 20})
	if err != nil || !errors.Is(small[0].Err, ErrLarge) {
		t.Errorf("a file over the limit: %v", err)
	}
	// a header that promises fewer bytes than come
	lie := packed(t, func(w *zip.Writer) {
		f, err := w.CreateRaw(&zip.FileHeader{Name: "lie.wav", Method: zip.Store, UncompressedSize64: 4, CompressedSize64: 4, CRC32: 1})
		if err == nil {
			_, err = f.Write([]byte("data"))
		}
		if err != nil {
			t.Fatal(err)
		}
	})
	if e, err := Open(lie, Usual); err != nil {
		t.Fatal(err)
	} else if _, err := e[0].Read(); !errors.Is(err, ErrZip) {
		t.Errorf("a wrong sum: %v", err)
	}
}

// FuzzOpen: whatever the bytes, no path leads out of the zip and nothing unpacks to more than is allowed.
func FuzzOpen(f *testing.F) {
	w := NewWriter(time.Now())
	w.Add("a/b.txt", []byte("words words words words"), true)
	data, err := w.Bytes()
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	lim := Limits{Files: 50, FileBytes: 1 << 16, TotalBytes: 1 << 18}
	f.Fuzz(func(t *testing.T, data []byte) {
		files, err := Open(data, lim)
		if err != nil {
			return
		}
		for _, e := range files {
			got, err := e.Read()
			if err == nil && (int64(len(got)) > lim.FileBytes || !fs.ValidPath(e.Path)) {
				t.Fatalf("%q unpacks to %d bytes", e.Path, len(got))
			}
		}
	})
}
