// Package secrets keeps what the program has to know but nobody may read in its database:
// sealed with a key that lies elsewhere.
package secrets

import (
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/crypto/chacha20poly1305"
)

// Key seals secrets (XChaCha20-Poly1305). It lies beside the database or elsewhere, not
// in it.
type Key [chacha20poly1305.KeySize]byte

// name is that of the file with the key, in a data folder and among the credentials of a
// service.
const name = "ebbe.key"

// The places from which the system can give the key: the key itself in base64 (RFC 4648,
// section 4), and a folder of credentials of the service (systemd.exec(5)).
const (
	inEnvironment = "EBBE_KEY"
	credentials   = "CREDENTIALS_DIRECTORY"
)

// Load gives the key of a data folder: from the file that was named, else from where the
// system gives it, else from beside the data, where one is made if there is none.
func Load(dir, file string) (Key, error) {
	if file != "" {
		return read(file)
	}
	if text := os.Getenv(inEnvironment); text != "" {
		raw, err := base64.StdEncoding.DecodeString(strings.TrimSpace(text))
		if err != nil || len(raw) != len(Key{}) {
			return Key{}, fmt.Errorf("%s holds no key of Ebbe: it has to be %d bytes in base64; nothing was changed", inEnvironment, len(Key{}))
		}
		return Key(raw), nil
	}
	if folder := os.Getenv(credentials); folder != "" {
		if path := filepath.Join(folder, name); exists(path) {
			return read(path)
		}
	}
	path := filepath.Join(dir, name)
	k, err := read(path)
	if !errors.Is(err, os.ErrNotExist) {
		return k, err
	}
	_, _ = rand.Read(k[:]) // never fails
	return k, Keep(dir, k)
}

// Keep puts a key beside the data of a folder.
func Keep(dir string, k Key) error { return os.WriteFile(filepath.Join(dir, name), k[:], 0o600) }

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

func read(path string) (k Key, err error) {
	raw, err := os.ReadFile(path)
	if err == nil && len(raw) != len(k) {
		err = fmt.Errorf("%s is not a key of Ebbe: nothing was changed; put the right file back, or move this one away and type the passwords of your accounts anew", path)
	}
	if err != nil {
		return k, err
	}
	return Key(raw), nil
}

// Seal encrypts a secret.
func (k Key) Seal(secret string) []byte {
	a, _ := chacha20poly1305.NewX(k[:]) // the key has the right length
	nonce := make([]byte, a.NonceSize())
	_, _ = rand.Read(nonce)
	return a.Seal(nonce, nonce, []byte(secret), nil)
}

// ErrSealed is the error of a secret that was sealed with another key.
var ErrSealed = errors.New("the password cannot be read with the key of this data folder: type it anew")

// Open decrypts what Seal made; ErrSealed if the key is another one.
func (k Key) Open(sealed []byte) (string, error) {
	a, _ := chacha20poly1305.NewX(k[:])
	if len(sealed) < a.NonceSize() {
		return "", ErrSealed
	}
	secret, err := a.Open(nil, sealed[:a.NonceSize()], sealed[a.NonceSize():], nil)
	if err != nil {
		return "", ErrSealed
	}
	return string(secret), nil
}
