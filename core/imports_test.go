package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"strconv"
	"strings"
	"testing"
)

// The core computes: it imports the standard library, itself and gonum, and of the standard library nothing that reaches files, networks,
// other programs or the clock of the machine.
func TestWhatTheCoreImports(t *testing.T) {
	never := map[string]bool{"os": true, "os/exec": true, "net": true, "net/http": true, "database/sql": true, "path/filepath": true, "syscall": true, "io/ioutil": true}
	files := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			first, _, _ := strings.Cut(name, "/")
			own := strings.HasPrefix(name, "hexachord/core/") || strings.HasPrefix(name, "gonum.org/v1/gonum/")
			if never[name] || !own && (strings.Contains(first, ".") || first == "hexachord") {
				t.Errorf("%s imports %s", path, name)
			}
		}
		return nil
	})
	if err != nil || files < 100 {
		t.Errorf("%d files, %v", files, err)
	}
}
