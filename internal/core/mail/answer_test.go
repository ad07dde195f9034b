package mail

import (
	"net/textproto"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// RFC 3834, section 2: who may be answered automatically, and where.
func TestWhoMayBeAnsweredAutomatically(t *testing.T) {
	for _, c := range []struct {
		name   string
		header map[string]string
		from   string
		kind   Kind
		want   string
	}{
		{"a person", nil, "mirela@c.example", Person, "mirela@c.example"},
		{"one who invites", nil, "grete@p.example", Invitation, "grete@p.example"},
		{"along the return path", map[string]string{"Return-Path": "<Mirela.D@post.c.example>"}, "mirela@c.example", Person, "mirela.d@post.c.example"},
		{"written by hand, and said so", map[string]string{"Auto-Submitted": "no"}, "mirela@c.example", Person, "mirela@c.example"},
		{"an empty return path", map[string]string{"Return-Path": "<>"}, "mirela@c.example", Person, ""},
		{"another automatic answer", map[string]string{"Auto-Submitted": "auto-replied"}, "mirela@c.example", Person, ""},
		{"bulk", map[string]string{"Precedence": "bulk"}, "mirela@c.example", Person, ""},
		{"a list by its help alone", map[string]string{"List-Help": "<mailto:x@l.example>"}, "mirela@c.example", Person, ""},
		{"a notice", nil, "mirela@c.example", Notice, ""},
		{"a report", nil, "mirela@c.example", Bounce, ""},
		{"a list", nil, "mirela@c.example", List, ""},
		{"nobody reads it", nil, "no-reply@c.example", Person, ""},
		{"the mail system", nil, "MAILER-DAEMON@c.example", Person, ""},
		{"whoever keeps a list", nil, "owner-choir@c.example", Person, ""},
		{"where one asks to join a list", nil, "choir-request@c.example", Person, ""},
		{"a return path that counts failures", map[string]string{"Return-Path": "<bounces+7=x@l.example>"}, "mirela@c.example", Person, ""},
		{"no address", nil, "", Person, ""},
	} {
		h := textproto.MIMEHeader{}
		for k, v := range c.header {
			h.Set(k, v)
		}
		require.Equal(t, c.want, AnswerTo(h.Get, Address{Address: strings.ToLower(c.from)}, c.kind), c.name)
	}
}
