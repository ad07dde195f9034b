package journal

import (
	"bytes"
	"encoding/json"

	jsonpatch "github.com/evanphx/json-patch/v5"

	"ebbe/internal/store"
)

// Chosen is the change of what is set up from was to is, as two JSON Merge Patches
// (RFC 7396); nil if there is none.
func Chosen[T any](was, is T) (*store.Chosen, error) {
	before, err := json.Marshal(was)
	if err != nil {
		return nil, err
	}
	after, err := json.Marshal(is)
	if err != nil || jsonpatch.Equal(before, after) {
		return nil, err
	}
	to, err := jsonpatch.CreateMergePatch(before, after)
	if err != nil {
		return nil, err
	}
	from, err := jsonpatch.CreateMergePatch(after, before)
	return &store.Chosen{Before: from, After: to}, err
}

// Patched is what s is with a JSON Merge Patch: lists are taken whole, and what it does
// not name stays. What it names that s does not have is an error.
func Patched[T any](s T, patch json.RawMessage) (is T, err error) {
	whole, err := json.Marshal(s)
	if err != nil {
		return is, err
	}
	if whole, err = jsonpatch.MergePatch(whole, patch); err != nil {
		return is, err
	}
	decode := json.NewDecoder(bytes.NewReader(whole))
	decode.DisallowUnknownFields()
	err = decode.Decode(&is)
	return is, err
}

// Unchosen is s with what c changed as it stood before, and whether all of that still is
// as c left it; otherwise nothing of it is taken back.
func Unchosen[T any](s T, c *store.Chosen) (is T, still bool, err error) {
	same, err := Patched(s, c.After)
	if err != nil {
		return s, false, err
	}
	if since, err := Chosen(s, same); err != nil || since != nil {
		return s, false, err
	}
	is, err = Patched(s, c.Before)
	return is, err == nil, err
}
