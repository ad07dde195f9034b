package e2e

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// change runs statements on the database of a program that runs.
func (s *server) change(statements ...string) {
	s.t.Helper()
	db, err := sql.Open("sqlite3", "file:"+filepath.Join(s.args[2], "ebbe.db")+"?_busy_timeout=10000")
	require.NoError(s.t, err)
	defer db.Close()
	for _, q := range statements {
		_, err := db.Exec(q)
		require.NoError(s.t, err, q)
	}
}

// Two conversations are joined by hand, one message is parted from another, and
// both stand in the history, from where they are taken back.
func TestJoiningAndParting(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Home)
	p.with(input.ArrowDown, input.ShiftLeft)
	p.reads("[data-testid=chosen]", "2 chosen")
	p.does("join into one")
	p.reads("[data-testid=notice]", "Joined: 2 conversations are one now.")
	p.leftIs(n - 1)
	p.until("document.querySelectorAll('article').length >= 1")
	p.until("[...document.querySelectorAll('article')].at(-1).querySelector('[title=\"Show sender and recipients\"]').click() || true")
	p.does("this message alone")
	p.reads("[data-testid=notice]", "Parted: 1 message in a conversation of their own.")
	p.leftIs(n)
	p.press(input.KeyH)
	p.reads("main", "parted")
	p.reads("main", "joined")
	p.presses("button", "take back")
	p.reads("[data-testid=notice]", "Taken back")
	p.leftIs(n - 1)
}

// A very long message is shown in part, and all of it when it is asked for.
func TestAVeryLongMessage(t *testing.T) {
	t.Parallel()
	s := demo(t)
	file := filepath.Join(t.TempDir(), "long.eml")
	text := strings.Repeat("The tide table of the year, line by line.\n", 20_000) + "The end of it.\n"
	require.NoError(t, os.WriteFile(file, []byte("From: Town Harbour Office <office@harbour.example>\nTo: solvei.arnkvist@skagvikmuseum.example\nSubject: All tides\nMessage-ID: <tides@harbour.example>\n\n"+text), 0o600))
	out, code := command(t, "import", file, "--data", s.args[2], "--for", reader)
	require.Zero(t, code, out)
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("All tides")
	p.reads("[data-testid=rest]", "This message is very long")
	p.until("!document.querySelector('[data-testid=body]').textContent.includes('The end of it.')")
	p.until("document.querySelector('[data-testid=body]').textContent.trim().endsWith('line by line.')")
	p.does("Show all")
	p.until("document.querySelector('[data-testid=body]').textContent.includes('The end of it.')")
	p.until("!document.querySelector('[data-testid=rest]')")
}

// What vanished from a server in great numbers is asked about, and put back when
// the user says so; an account says after how long its bin is emptied.
func TestWhatVanishedIsAskedAbout(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.press(input.KeyM).see("[data-testid=account]")
	s.change("INSERT INTO vanishings(folder_id, message_id, account_id, at, asked, put_back) SELECT f.id, m.id, f.account_id, 0, 1, 0 FROM folders f, messages m WHERE f.role = 'inbox' AND f.account_id = 1 AND m.id <= 30")
	p.MustReload()
	p.reads("[data-testid=vanished]", "30 messages vanished from this server at once")
	p.does("Put them back")
	p.until("!document.querySelector('[data-testid=vanished]')")

	p.MustElements("[data-testid=account]")[0].MustElementR("button", "Change").MustClick()
	p.option("#empty-days", "after 30 days")
	p.reads("[data-testid=account-form]", "is then removed for good")
	p.does("Save")
	p.see("[data-testid=account]")
	p.MustElements("[data-testid=account]")[0].MustElementR("button", "Change").MustClick()
	p.until("document.querySelector('#empty-days')?.textContent === 'after 30 days'")

	// A password is not sent to another server than the one it was typed for.
	p.see("#mailbox-host").MustSelectAllText().MustInput("imap.skagvikchoir.example")
	p.does("Save")
	p.reads("[data-testid=account-form]", "Type it again.")
}

// A backup is made while the program runs, restored elsewhere, and there the user
// says what becomes of what waited.
func TestRestoredFromABackup(t *testing.T) {
	t.Parallel()
	s := demo(t)
	dir := t.TempDir()
	file, data := filepath.Join(dir, "ebbe.backup"), filepath.Join(dir, "restored")
	out, code := command(t, "backup", file, "--data", s.args[2], "--with-key")
	require.Zero(t, code, out)
	require.Contains(t, out, "It can be opened alone: the key of the accounts' passwords is in it")
	out, code = command(t, "backup", file, "--data", s.args[2])
	require.Equal(t, 1, code)
	require.Contains(t, out, "nothing is written over")
	out, code = command(t, "restore", file, "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "nothing goes out")
	out, code = command(t, "check", "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "All is well")
	office, err := os.ReadFile(filepath.Join(s.args[2], "office.jsonl"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(data, "office.jsonl"), office, 0o600))

	r := run(t, "demo", "--data", data)
	p := open(t, r.url, 1280, 800).enter()
	p.press(input.KeyM).see("[data-testid=account]")
	p.until("!document.querySelector('[data-testid=restored]')?.textContent.includes('nothing goes out')")
	r.change("INSERT OR REPLACE INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places) SELECT id, 1, 1, 0, 4503599627370496, '', 'inbox' FROM conversations WHERE place = 'inbox' LIMIT 2")
	p.MustReload()
	p.reads("[data-testid=restored]", "decisions had not reached the server when the backup was made.")
	p.does("Leave the server as it is")
	p.press(input.KeyH)
	p.reads("main", "discarded after a restore:")
	p.presses("button", "take back")
	p.reads("[data-testid=notice]", " decisions”.")
	p.press(input.KeyM)
	p.reads("[data-testid=restored]", "decisions had not reached the server when the backup was made.")
	p.does("Leave the server as it is")
	r.change("UPDATE things SET at = 4503599627370496 WHERE kind = 'remind'")
	p.MustReload()
	p.reads("[data-testid=restored]", "past since the backup was made.")
	p.does("Remind now")
	p.until("!document.querySelector('[data-testid=restored]')")
}
