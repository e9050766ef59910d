package service

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
)

// The passphrase of a data folder is kept as its Argon2id hash (RFC 9106, its second recommended choice: 64 MiB, 3 passes, 4 lanes) in a
// file of its own, so that it can be set while a bench runs.
const passphraseFile = "passphrase"

var argon = &argon2id.Params{Memory: 64 << 10, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// The lengths a passphrase may have, in characters (OWASP ASVS 5.0, 6.2.1 and 6.2.9: 8 at least, 64 and more allowed).
const (
	shortestPassphrase = 8
	longestPassphrase  = 200
)

// ErrPassphrase is one that cannot be taken.
var ErrPassphrase = fmt.Errorf("a passphrase has %d to %d characters; several words are easy to remember and hard to guess", shortestPassphrase, longestPassphrase)

// SetPassphrase gives a data folder a passphrase; "" takes it away.
func SetPassphrase(dir, passphrase string) error {
	path := filepath.Join(dir, passphraseFile)
	if passphrase == "" {
		if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	}
	if n := utf8.RuneCountInString(passphrase); n < shortestPassphrase || n > longestPassphrase || strings.ContainsAny(passphrase, "\r\n\x00") {
		return ErrPassphrase
	}
	hash, err := argon2id.CreateHash(passphrase, argon)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	part := path + ".part"
	if err := os.WriteFile(part, []byte(hash+"\n"), 0o600); err != nil {
		return err
	}
	return os.Rename(part, path)
}

// HasPassphrase reports whether a data folder has one.
func HasPassphrase(dir string) (bool, error) {
	_, err := os.Stat(filepath.Join(dir, passphraseFile))
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	return err == nil, err
}

// argonSlots bounds how many are checked at once: each takes 64 MiB.
var argonSlots = make(chan struct{}, 2)

// IsPassphrase reports whether it is the data folder's. Nothing is when it has none.
func IsPassphrase(dir, passphrase string) (bool, error) {
	hash, err := os.ReadFile(filepath.Join(dir, passphraseFile))
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	if utf8.RuneCountInString(passphrase) > longestPassphrase {
		return false, nil
	}
	argonSlots <- struct{}{}
	defer func() { <-argonSlots }()
	ok, err := argon2id.ComparePasswordAndHash(passphrase, strings.TrimSpace(string(hash)))
	if err != nil {
		return false, fmt.Errorf("the file %s cannot be read; set the passphrase anew with `hexachord passphrase`: %w", passphraseFile, err)
	}
	return ok, nil
}
