package secrets

import (
	"encoding/base64"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// The key comes from the file that was named, else from the system, else from beside the
// data; wherever it should be and is none, nothing is made in its place.
func TestWhereTheKeyComesFrom(t *testing.T) {
	t.Setenv(inEnvironment, "")
	t.Setenv(credentials, "")
	dir, folder := t.TempDir(), t.TempDir()
	made, err := Load(dir, "")
	require.NoError(t, err)
	again, err := Load(dir, "")
	require.NoError(t, err)
	require.Equal(t, made, again)
	sealed := made.Seal("hunter")
	text, err := again.Open(sealed)
	require.NoError(t, err)
	require.Equal(t, "hunter", text)

	other := Key{1, 2, 3}
	_, err = other.Open(sealed)
	require.ErrorIs(t, err, ErrSealed)
	_, err = made.Open(sealed[:5])
	require.ErrorIs(t, err, ErrSealed)
	require.NoError(t, os.WriteFile(filepath.Join(folder, name), other[:], 0o600))
	t.Setenv(credentials, folder)
	k, err := Load(dir, "")
	require.NoError(t, err)
	require.Equal(t, other, k)

	third := Key{9}
	t.Setenv(inEnvironment, base64.StdEncoding.EncodeToString(third[:]))
	k, err = Load(dir, "")
	require.NoError(t, err)
	require.Equal(t, third, k)
	k, err = Load(dir, filepath.Join(folder, name))
	require.NoError(t, err)
	require.Equal(t, other, k, "what was named goes before all")

	t.Setenv(inEnvironment, "short")
	_, err = Load(dir, "")
	require.ErrorContains(t, err, "holds no key")
	_, err = Load(dir, filepath.Join(folder, "missing"))
	require.ErrorIs(t, err, os.ErrNotExist)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "odd"), []byte("odd"), 0o600))
	_, err = Load(dir, filepath.Join(folder, "odd"))
	require.ErrorContains(t, err, "is not a key")
}
