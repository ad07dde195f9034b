package e2e

import (
	"bytes"
	"compress/gzip"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// mbox writes n made-up messages, every third an answer to the one before.
func mbox(t *testing.T, n int) string {
	t.Helper()
	var b bytes.Buffer
	for i := range n {
		fmt.Fprintf(&b, "From a@b.example Mon Jan  1 00:00:00 2026\nFrom: Writer %d <w%d@b.example>\nTo: me@m.example\nSubject: Matter %d\nDate: Mon, 02 Nov 2026 10:%02d:%02d +0000\nMessage-ID: <%d@b.example>\n", i%50, i%50, i, i/60%60, i%60, i)
		if i%3 == 2 {
			fmt.Fprintf(&b, "In-Reply-To: <%d@b.example>\n", i-1)
		}
		fmt.Fprintf(&b, "\nThe text of message %d.\n\n", i)
	}
	path := filepath.Join(t.TempDir(), "box.mbox")
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

func TestCommandsSayWhatHappened(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	data := filepath.Join(dir, "data")
	put := func(name string, content []byte) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, content, 0o600))
		return path
	}
	box := mbox(t, 30)
	out, code := command(t, "import", box, "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "30 read, 30 new, 0 known, 0 kept raw")
	out, code = command(t, "import", box, "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "30 read, 0 new, 30 known, 0 kept raw")

	out, code = command(t, "import", put("picture.png", []byte("\x89PNG\r\n\x1a\n\x00\x00")), box, "--data", data)
	require.Equal(t, 1, code)
	require.Contains(t, out, "picture.png holds no mail: Ebbe reads mbox files, .eml files and Maildir folders")
	require.Contains(t, out, "30 read, 0 new, 30 known", "the others are taken in all the same")
	out, code = command(t, "import", t.TempDir(), "--data", data)
	require.Equal(t, 1, code)
	require.Contains(t, out, "holds no mail")

	whole, err := os.ReadFile(box)
	require.NoError(t, err)
	out, code = command(t, "import", put("cut.mbox", whole[:len(whole)-20]), "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "30 read, 1 new, 29 known", "the cut message is kept as far as it goes")

	big := append([]byte("From: a@b.example\nSubject: big\nContent-Type: multipart/mixed; boundary=B\n\n--B\nContent-Type: application/zip\nContent-Transfer-Encoding: base64\n\n"), bytes.Repeat([]byte(strings.Repeat("QUJD", 19)+"\n"), 60<<20/77)...)
	out, code = command(t, "import", put("big.eml", big), "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "1 read, 1 new, 0 known, 0 kept raw")

	eml := filepath.Join(dir, "out")
	out, code = command(t, "export", "--format", "eml", "--out", eml, "--data", data)
	require.Zero(t, code, out)
	files, err := filepath.Glob(filepath.Join(eml, "*.eml"))
	require.NoError(t, err)
	require.Len(t, files, 32)
	out, code = command(t, "check", "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "All is well: 32 messages")
	out, code = command(t, "version")
	require.Zero(t, code)
	require.Contains(t, out, "ebbe ")

	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	out, code = command(t, "serve", "--data", data, "--addr", l.Addr().String())
	require.Equal(t, 1, code)
	require.Contains(t, out, "is in use by another program: stop it, or choose another port with --addr")
}

// Killed at random moments during an import: run again, nothing is lost and
// nothing doubled.
func TestKilledWhileImporting(t *testing.T) {
	t.Parallel()
	const messages, kills = 6000, 25
	box, data := mbox(t, messages), t.TempDir()
	for range kills {
		cmd := exec.Command(program, "import", box, "--data", data)
		require.NoError(t, cmd.Start())
		done := make(chan struct{})
		go func() { _ = cmd.Wait(); close(done) }()
		select {
		case <-done:
		case <-time.After(time.Duration(20+rand.IntN(200)) * time.Millisecond):
			_ = cmd.Process.Kill()
			<-done
		}
		out, code := command(t, "check", "--data", data)
		require.Zero(t, code, out)
	}
	out, code := command(t, "import", box, "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, fmt.Sprintf("%d read", messages))
	out, code = command(t, "check", "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, fmt.Sprintf("All is well: %d messages", messages))
}

// Killed at random moments while decisions come in: each one that was answered
// stands, each one that was not is sent again with its key and counts once.
func TestKilledWhileDeciding(t *testing.T) {
	t.Parallel()
	const kills = 25
	data := t.TempDir()
	out, code := command(t, "import", mbox(t, 1500), "--data", data)
	require.Zero(t, code, out)
	s := run(t, "serve", "--data", data)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	token := ""
	call := func(method, path, key string, body, into any) error {
		raw, err := json.Marshal(body)
		require.NoError(t, err)
		req, err := http.NewRequest(method, s.url+"/api/v1"+path, bytes.NewReader(raw))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("X-Ebbe-Token", token)
		req.Header.Set("Idempotency-Key", key)
		res, err := client.Do(req)
		if err != nil {
			return err
		}
		defer res.Body.Close()
		if res.StatusCode != 200 {
			return fmt.Errorf("%s: %s", path, res.Status)
		}
		return json.NewDecoder(res.Body).Decode(into)
	}
	var nothing any
	require.NoError(t, call("POST", "/setup", "", map[string]string{"name": "Me", "address": "me@m.example", "password": "long enough", "zone": "Europe/Oslo", "code": s.code}, &nothing))
	var session struct{ CSRF string }
	require.NoError(t, call("GET", "/session", "", nil, &session))
	token = session.CSRF
	var queue struct {
		Left  int
		Slips []struct{ ID int64 }
	}
	require.NoError(t, call("GET", "/inbox", "", nil, &queue))
	n, decided := queue.Left, 0
	require.Equal(t, 1000, n)
	for range kills {
		require.NoError(t, call("GET", "/inbox", "", nil, &queue))
		require.Equal(t, n-decided, queue.Left, "what was answered stands, and nothing else")
		killed := make(chan struct{})
		process := s.cmd.Process
		time.AfterFunc(time.Duration(rand.IntN(60))*time.Millisecond, func() { _ = process.Kill(); close(killed) })
		for _, slip := range queue.Slips {
			key := fmt.Sprintf("decide-%d-%d", slip.ID, decided)
			body := map[string]any{"kind": "archive", "conversations": []int64{slip.ID}}
			err := call("POST", "/decisions", key, body, &nothing)
			if err != nil {
				<-killed
				s.restart()
				require.NoError(t, call("POST", "/decisions", key, body, &nothing))
			}
			decided++
			if err != nil {
				break
			}
		}
		<-killed
		s.restart()
	}
	s.kill()
	out, code = command(t, "check", "--data", data)
	require.Zero(t, code, out)
}

// Stopped and started again while several go on deciding: what has been asked is
// answered or says that it was not done, never with a good answer without a word;
// each decision counts once, and the program ends by itself each time.
func TestStoppedUnderLoad(t *testing.T) {
	t.Parallel()
	const stops, hands = 6, 4
	data := t.TempDir()
	out, code := command(t, "import", mbox(t, 2400), "--data", data)
	require.Zero(t, code, out)
	s := run(t, "serve", "--data", data)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	token := ""
	call := func(method, path, key string, body, into any) (answered bool, err error) {
		raw, _ := json.Marshal(body)
		req, err := http.NewRequest(method, s.url+"/api/v1"+path, bytes.NewReader(raw))
		if err != nil {
			return false, err
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("X-Ebbe-Token", token)
		req.Header.Set("Idempotency-Key", key)
		res, err := client.Do(req)
		if err != nil {
			return false, nil // it cannot be reached
		}
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		switch {
		case err != nil, res.StatusCode == http.StatusServiceUnavailable:
			return false, nil
		case res.StatusCode != http.StatusOK:
			return false, fmt.Errorf("%s: %s %s", path, res.Status, text)
		}
		return true, json.Unmarshal(text, into) // a good answer has words
	}
	must := func(method, path string, body, into any) {
		t.Helper()
		answered, err := call(method, path, "", body, into)
		require.NoError(t, err)
		require.True(t, answered)
	}
	var nothing any
	must("POST", "/setup", map[string]string{"name": "Me", "address": "me@m.example", "password": "long enough", "zone": "Europe/Oslo", "code": s.code}, &nothing)
	var session struct{ CSRF string }
	must("GET", "/session", nil, &session)
	token = session.CSRF
	var queue struct {
		Left   int
		Groups []struct{ IDs []int64 }
	}
	must("GET", "/inbox", nil, &queue)
	var ids []int64
	for _, g := range queue.Groups {
		ids = append(ids, g.IDs...)
	}
	work := make(chan int64, len(ids))
	for _, id := range ids {
		work <- id
	}
	close(work)
	var done atomic.Int64
	faults := make(chan error, hands)
	var up sync.RWMutex // nobody asks while it is being started
	for range hands {
		go func() {
			for id := range work {
				for answered := false; !answered; {
					up.RLock()
					var decided struct{ Count int }
					var err error
					answered, err = call("POST", "/decisions", fmt.Sprint("decide-", id), map[string]any{"kind": "archive", "conversations": []int64{id}}, &decided)
					up.RUnlock()
					if err == nil && answered && decided.Count != 1 {
						err = fmt.Errorf("%d was decided %d times", id, decided.Count)
					}
					if err != nil {
						faults <- err
						return
					}
				}
				done.Add(1)
			}
			faults <- nil
		}()
	}
	finished := 0
	for n := range stops {
		for done.Load() < int64(len(ids)*(n+1)/(stops+2)) { // each time after some more
			select {
			case err := <-faults:
				require.NoError(t, err)
				finished++
			default:
				runtime.Gosched()
			}
		}
		require.NoError(t, s.cmd.Process.Signal(syscall.SIGTERM))
		up.Lock()
		require.NoError(t, s.cmd.Wait(), "it ends by itself")
		s.start(strings.TrimPrefix(s.url, "http://"))
		up.Unlock()
	}
	for ; finished < hands; finished++ {
		require.NoError(t, <-faults)
	}
	must("GET", "/inbox", nil, &queue)
	require.Zero(t, queue.Left)
	s.kill()
	db, err := sql.Open("sqlite3", filepath.Join(data, "ebbe.db"))
	require.NoError(t, err)
	defer db.Close()
	var entries int
	require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM entries WHERE kind = 'archive'").Scan(&entries))
	require.Equal(t, len(ids), entries, "each once")
	out, code = command(t, "check", "--data", data)
	require.Zero(t, code, out)
}

// What the page names is all that a browser fetches before the inbox stands; the
// rest of the program comes once it does.
func TestTheFirstLoadIsSmall(t *testing.T) {
	t.Parallel()
	s := demo(t)
	get := func(path string) []byte {
		res, err := http.Get(s.url + path)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode, path)
		return body
	}
	sum := 0
	scripts := regexp.MustCompile(`(?:src|href)="(/assets/[^"]+\.js)"`).FindAllSubmatch(get("/"), -1)
	require.NotEmpty(t, scripts)
	for _, script := range scripts {
		var packed bytes.Buffer
		z, err := gzip.NewWriterLevel(&packed, gzip.BestCompression)
		require.NoError(t, err)
		_, err = z.Write(get(string(script[1])))
		require.NoError(t, err)
		require.NoError(t, z.Close())
		sum += packed.Len()
	}
	require.LessOrEqual(t, sum, 173_000, "bytes of script: let what is not needed for the inbox come after it (kit/ahead.tsx)")
}
