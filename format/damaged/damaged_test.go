package damaged

import (
	"errors"
	"strings"
	"testing"
)

var errKind = errors.New("not usable")

func decode(data []byte) (b byte, err error) {
	defer Caught(&err, errKind)
	return data[38], nil
}

func TestAPanicIsAnErrorInWords(t *testing.T) {
	if _, err := decode(nil); !errors.Is(err, errKind) || strings.Contains(err.Error(), "runtime") || !strings.Contains(err.Error(), "damaged") {
		t.Errorf("said: %v", err)
	}
	if b, err := decode(make([]byte, 39)); b != 0 || err != nil {
		t.Errorf("a good file: %v", err)
	}
}
