// Package secrets keeps what the program has to know but nobody may read in its database:
// sealed with a key that lies elsewhere.
package secrets

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
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

// Load gives the key of a data folder as Find does, and makes one beside the data if there is
// none anywhere.
func Load(dir, file string) (Key, error) {
	k, err := Find(dir, file)
	if !errors.Is(err, ErrNoKey) {
		return k, err
	}
	k = New()
	return k, Keep(dir, k)
}

// New is a key that nobody knows yet.
func New() (k Key) {
	_, _ = rand.Read(k[:]) // never fails
	return k
}

// ErrNoKey is the error of a data folder whose key is not where it was looked for.
var ErrNoKey = errors.New("there is no key of its secrets: name its file with --key-file, or set " + inEnvironment)

// Beside says whether the key of a data folder would be looked for beside the data, as no
// other place has one.
func Beside(dir, file string) bool {
	return file == "" && os.Getenv(inEnvironment) == "" && !(os.Getenv(credentials) != "" && exists(filepath.Join(os.Getenv(credentials), name)))
}

// Find gives the key of a data folder: from the file that was named, else from where the
// system gives it, else from beside the data; ErrNoKey if it is nowhere.
func Find(dir, file string) (Key, error) {
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
	k, err := read(filepath.Join(dir, name))
	if errors.Is(err, os.ErrNotExist) {
		err = ErrNoKey
	}
	return k, err
}

// Keep puts a key beside the data of a folder.
func Keep(dir string, k Key) error { return Write(filepath.Join(dir, name), k, os.O_TRUNC) }

// Write writes a key to a file, so that no power cut can undo it. more says what
// os.OpenFile is told besides, as os.O_EXCL for a file that must not be there yet.
func Write(path string, k Key, more int) error {
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|more, 0o600)
	if err != nil {
		return err
	}
	if _, err = f.Write(k[:]); err == nil {
		err = f.Sync()
	}
	return errors.Join(err, f.Close())
}

// next is a key beside the data that takes the place of the one there, once all is sealed
// with it.
const next = name + ".next"

// Propose keeps a key beside that of a data folder, until Settle.
func Propose(dir string, k Key) error { return Write(filepath.Join(dir, next), k, os.O_TRUNC) }

// Proposed gives the key that Propose has kept there; ErrNoKey if none waits.
func Proposed(dir string) (Key, error) {
	k, err := read(filepath.Join(dir, next))
	if errors.Is(err, os.ErrNotExist) {
		err = ErrNoKey
	}
	return k, err
}

// Settle has the key that was proposed take the place of the other, or be forgotten.
func Settle(dir string, take bool) error {
	if take {
		return os.Rename(filepath.Join(dir, next), filepath.Join(dir, name))
	}
	return os.Remove(filepath.Join(dir, next))
}

// Print tells a key from others, and nothing about it.
func (k Key) Print() string {
	sum := sha256.Sum256(append([]byte("ebbe key "), k[:]...))
	return hex.EncodeToString(sum[:6])
}

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
