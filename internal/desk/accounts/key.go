package accounts

import (
	"crypto/rand"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"golang.org/x/crypto/chacha20poly1305"
)

// Key seals the passwords of accounts. It lies beside the database, not in it.
type Key [chacha20poly1305.KeySize]byte

// LoadKey reads the key of a data folder, or makes one.
func LoadKey(dir string) (k Key, err error) {
	path := filepath.Join(dir, "ebbe.key")
	raw, err := os.ReadFile(path)
	switch {
	case err == nil && len(raw) == len(k):
		copy(k[:], raw)
		return k, nil
	case err == nil:
		return k, fmt.Errorf("%s is not a key of Ebbe: nothing was changed; put the right file back, or move this one away and type the passwords of your accounts anew", path)
	case !errors.Is(err, os.ErrNotExist):
		return k, err
	}
	_, _ = rand.Read(k[:]) // never fails
	return k, os.WriteFile(path, k[:], 0o600)
}

// seal encrypts a secret.
func (k Key) seal(secret string) []byte {
	a, _ := chacha20poly1305.NewX(k[:]) // the key has the right length
	nonce := make([]byte, a.NonceSize())
	_, _ = rand.Read(nonce)
	return a.Seal(nonce, nonce, []byte(secret), nil)
}

var errSealed = errors.New("the password cannot be read with the key of this data folder: type it anew")

// open decrypts what seal made.
func (k Key) open(sealed []byte) (string, error) {
	a, _ := chacha20poly1305.NewX(k[:])
	if len(sealed) < a.NonceSize() {
		return "", errSealed
	}
	secret, err := a.Open(nil, sealed[:a.NonceSize()], sealed[a.NonceSize():], nil)
	if err != nil {
		return "", errSealed
	}
	return string(secret), nil
}
