package identity

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"

	"ebbe/internal/problem"
)

// The parameters of argon2id (RFC 9106, section 4, second choice).
const (
	argonTime    = 3
	argonMemory  = 64 * 1024 // KiB
	argonThreads = 4
)

func hashPassword(password string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt)
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, 32)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonThreads,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key))
}

// checkPassword takes as long for an unknown person as for a known one.
func checkPassword(stored, password string) bool {
	var version, memory, rounds, threads int
	salt, want := make([]byte, 16), []byte(nil)
	parts := strings.Split(stored, "$")
	if len(parts) == 6 {
		_, _ = fmt.Sscanf(parts[2], "v=%d", &version)
		_, _ = fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &rounds, &threads)
		salt, _ = base64.RawStdEncoding.DecodeString(parts[4])
		want, _ = base64.RawStdEncoding.DecodeString(parts[5])
	}
	if memory < 1 || rounds < 1 || threads < 1 || threads > 255 {
		memory, rounds, threads = argonMemory, argonTime, argonThreads
	}
	got := argon2.IDKey([]byte(password), salt, uint32(rounds), uint32(memory), uint8(threads), 32)
	return len(want) > 0 && subtle.ConstantTimeCompare(got, want) == 1
}

// How many passwords are checked at a time, as each takes 64 MB and a core, and
// how many more may wait for that.
const (
	checkedAtOnce = 2
	checksWaiting = 8
)

// checks lets few passwords be checked at a time.
type checks struct {
	busy  chan struct{}
	queue chan struct{}
	hash  func(password string) string
	match func(stored, password string) bool
}

func newChecks() checks {
	return checks{busy: make(chan struct{}, checkedAtOnce), queue: make(chan struct{}, checkedAtOnce+checksWaiting), hash: hashPassword, match: checkPassword}
}

// check compares a password with the stored form of the right one. With too many
// that wait the error says to try again.
func (h checks) check(ctx context.Context, stored, password string) (bool, error) {
	select {
	case h.queue <- struct{}{}:
		defer func() { <-h.queue }()
	default:
		return false, &problem.Error{Type: "slow-down", Text: "Very many are signing in at this moment. Wait some seconds and try again."}
	}
	select {
	case h.busy <- struct{}{}:
		defer func() { <-h.busy }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	return h.match(stored, password), nil
}
