package archive

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/post"
)

func collect(t *testing.T, path string) (raws [][]byte, problems []string, err error) {
	t.Helper()
	err = Walk(path, func(i post.Item) error { raws = append(raws, i.Raw); return nil }, func(_ string, e error) { problems = append(problems, e.Error()) })
	return raws, problems, err
}

func TestMboxGivesBackTheSameBytes(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		line := rapid.SampledFrom([]string{"From: a@b.example", "From here on", ">From there", ">>From", "", "text", "From ", "\tFrom x", "a\r"})
		var want [][]byte
		var box bytes.Buffer
		for range rapid.IntRange(1, 5).Draw(rt, "messages") {
			raw := []byte("Subject: x\n\n" + strings.Join(rapid.SliceOf(line).Draw(rt, "lines"), "\n") + "\n")
			want = append(want, raw)
			require.NoError(t, WriteMbox(&box, "a@b.example", time.Unix(1, 0), raw))
		}
		path := filepath.Join(t.TempDir(), "box")
		require.NoError(t, os.WriteFile(path, box.Bytes(), 0o600))
		got, _, err := collect(t, path)
		require.NoError(t, err)
		require.Equal(t, want, got)
	})
}

func TestSources(t *testing.T) {
	dir := t.TempDir()
	put := func(name, content string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
		require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
		return path
	}
	got, _, err := collect(t, put("cut.mbox", "From a Mon Jan  1 00:00:00 2026\nSubject: one\n\nwhole\n\nFrom b Mon Jan  1 00:00:00 2026\nSubject: two\n\ncut o"))
	require.NoError(t, err)
	require.Equal(t, []string{"Subject: one\n\nwhole\n", "Subject: two\n\ncut o"}, []string{string(got[0]), string(got[1])}, "a truncated mbox gives what it has")

	got, _, err = collect(t, put("one.eml", "Subject: x\n\nFrom here\n"))
	require.NoError(t, err)
	require.Equal(t, "Subject: x\n\nFrom here\n", string(got[0]))

	for name, content := range map[string]string{
		"mark.eml": "From a@b.example Mon Jan  1 00:00:00 2026\nSubject: x\n\nFrom here on\n", "bare.EML": "no header at all\n\nFrom here on", "empty.eml": ""} {
		got, _, err = collect(t, put(name, content))
		require.NoError(t, err)
		require.Equal(t, []string{content}, []string{string(got[0])}, "a file named .eml is one message, byte for byte")
	}

	_, _, err = collect(t, put("picture.bin", "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR"))
	require.ErrorIs(t, err, ErrNoMail)
	require.ErrorContains(t, err, "picture.bin holds no mail")

	empty := filepath.Join(dir, "empty")
	require.NoError(t, os.Mkdir(empty, 0o700))
	_, _, err = collect(t, empty)
	require.ErrorContains(t, err, "holds no mail")

	_, _, err = collect(t, filepath.Join(dir, "nowhere"))
	require.ErrorContains(t, err, "cannot be opened")

	put("md/cur/1:2,FS", "Subject: seen\n\nx\n")
	put("md/cur/2:2,T", "Subject: thrown away\n\nx\n")
	put("md/new/3", "Subject: new\n\nx\n")
	put("md/tmp/4", "Subject: half\n")
	put("md/server.index", "\x00\x01")
	flags := map[string]post.Flags{}
	require.NoError(t, Walk(filepath.Join(dir, "md"), func(i post.Item) error { flags[string(i.Raw[9:12])] = i.Flags; return nil }, func(p string, err error) { t.Error(p, err) }))
	require.Equal(t, map[string]post.Flags{"see": {Known: true, Seen: true, Flagged: true}, "thr": {Known: true, Trashed: true}, "new": {Known: true}}, flags)

	stop := errors.New("stop")
	require.ErrorIs(t, Walk(dir, func(post.Item) error { return stop }, func(string, error) {}), stop)
}
