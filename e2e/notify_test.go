package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// noted takes down the notifications that a page shows outside itself, and shows them all the same.
const noted = `
	window.outside = []
	const Real = window.Notification
	window.Notification = class extends Real { constructor(title, o) { super(title, o); window.outside.push({ text: o.body, tag: o.tag, n: this }) } }
`

// mayNotify answers the question whether Ebbe may show notifications.
func (p *page) mayNotify(url string, yes bool) {
	p.t.Helper()
	setting := proto.BrowserPermissionSettingGranted
	if !yes {
		setting = proto.BrowserPermissionSettingDenied
	}
	require.NoError(p.t, proto.BrowserSetPermission{Permission: &proto.BrowserPermissionDescriptor{Name: "notifications"}, Setting: setting, Origin: url, BrowserContextID: p.Browser().BrowserContextID}.Call(p.Browser()))
}

// Notifications are seen outside the page: a reminder that waited for the end of a
// block, a round with the important person in it, each once; pressing one leads to
// the thing. Where they are refused Ebbe says so, and goes on with its own cards.
func TestNotificationsOutsideThePage(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800)
	p.mayNotify(s.url, true)
	_, err := p.EvalOnNewDocument(noted)
	require.NoError(t, err)
	p.MustReload()
	p.enter()
	require.Equal(t, "granted", p.MustEval(`() => Notification.permission`).Str())
	p.visit("/delivery")
	p.reads("main", "This browser shows them as notifications, too.")
	p.see("#notify-person").MustFocus()
	p.write("oona@vargatravel.example")
	p.press(input.Enter)
	p.until("document.querySelector('#notify-person').value === ''")

	p.press(input.Escape)
	p.MustEval(`() => document.activeElement.blur()`)
	for _, line := range []string{"ring the piano mover / today 12 / remind 1 h before", "fetch the keys / today 13:30 / remind 1 h before"} {
		p.letters("+").see("#writedown-line")
		p.write(line)
		p.reads("#writedown-line-parts", "remind")
		p.press(input.Enter)
		p.until("!document.querySelector('#writedown-line')")
	}
	texts := `window.outside.map(o => o.text).join(' | ')`
	p.clock("+ 1 hour") // 11:42, within the block for the exhibition
	p.reads("[aria-label=Reminders]", "ring the piano mover")
	require.Empty(t, p.MustEval(`() => `+texts).Str(), "it waits while it is to be quiet")
	p.clock("+ 1 hour")
	p.until("%s.split('Reminder: ring the piano mover').length === 2 && %s.startsWith('While it was quiet')", texts, texts)
	p.until("%s.split('Reminder: fetch the keys').length === 2", texts)
	p.MustEval(`() => window.outside.find(o => o.text === 'Reminder: fetch the keys').n.onclick()`)
	p.until("location.pathname.startsWith('/follow-ups/')")
	p.reads("main", "fetch the keys")

	p.clock("+ 1 hour")
	p.clock("+ 1 hour")
	p.until("%s.split('Mail from Oona Varga.').length === 2", texts)
	p.MustEval(`() => window.outside.find(o => o.text === 'Mail from Oona Varga.').n.onclick()`)
	p.until("location.pathname.startsWith('/c/')")
	p.reads("[data-testid=subject]", "Seats on the early ferry")

	p.visit("/delivery")
	p.presses("label", "when a delivery brings something, once")
	p.clock("+ 1 hour")
	p.clock("+ 1 hour")
	p.until("%s.split('The 16:30 round brought').length === 2", texts)
	p.MustEval(`() => window.outside.find(o => o.text.startsWith('The 16:30 round')).n.onclick()`)
	p.until("location.pathname === '/'")

	q := open(t, s.url, 1280, 800)
	q.mayNotify(s.url, false)
	q.enter()
	q.visit("/delivery")
	q.reads("main", "This browser does not allow notifications: they show in Ebbe only.")
	q.see("[aria-label=Reminders] article")
}
