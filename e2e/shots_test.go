package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// TestShots takes the pictures of docs/screenshots, for make shots.
func TestShots(t *testing.T) {
	dir := os.Getenv("EBBE_SHOTS")
	if dir == "" {
		t.Skip("pictures are taken by make shots")
	}
	require.NoError(t, os.MkdirAll(dir, 0o755))
	at := func(name string) string { return filepath.Join(dir, name+".png") }
	s := demo(t)
	p := open(t, s.url, 1280, 800)
	p.button("Open the museum’s inbox")
	p.shot(at("sign-in"))
	p.enter()
	p.choose("Mirela Dossett")
	p.shot(at("inbox"))
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	p.write("fri after lunch")
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 13:30")
	p.shot(at("snooze"))
	p.press(input.Escape)
	p.MustElement(`nav a[href="/follow-ups"]`).MustClick()
	p.see("[aria-label=Late]")
	p.shot(at("follow-ups"))
	p.MustElement(`nav a[href="/"]`).MustClick()
	p.toZero()
	p.shot(at("zero"))
}
