package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/require"
)

// fill writes into fields, by their IDs.
func (p *page) fill(fields ...[2]string) {
	p.t.Helper()
	for _, f := range fields {
		p.see("#" + f[0]).MustSelectAllText().MustInput(f[1])
	}
}

// Somebody is invited, chooses a password, has codes asked for, signs in elsewhere, ends
// that, changes the password, loses it and gets in with a recovery code, is paused, leaves
// with all that is theirs, and is removed.
func TestAPersonComesAndGoes(t *testing.T) {
	t.Parallel()
	s := run(t, "serve", "--data", t.TempDir())
	admin := open(t, s.url, 1280, 800)
	admin.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	admin.see("[data-testid=begin]")
	admin.setup("people")
	admin.reads("[data-person='solvei@skagvik.example']", "looks after the people")
	admin.fill([2]string{"invited-name", "Mirela Dossett"}, [2]string{"invited-address", "nobody"})
	admin.does("Make an invitation")
	admin.reads("#invited-address-wrong", "no mail address")
	admin.fill([2]string{"invited-address", "mirela@skagvik.example"})
	admin.does("Make an invitation")
	link := strings.TrimSpace(admin.see("[data-testid=invitation-link] code").MustText())
	require.True(t, strings.HasPrefix(link, s.url+"/invited#"), link)
	admin.reads("[data-testid=invitation]", "mirela@skagvik.example")

	p := open(t, s.url, 1280, 800)
	p.MustNavigate(link)
	p.reads("main", "You are invited, as mirela@skagvik.example")
	require.Equal(t, "Mirela Dossett", p.see("#name").MustProperty("value").Str())
	p.fill([2]string{"password", "password123"})
	p.does("Begin")
	p.reads("#password-wrong", "guessed first")
	p.fill([2]string{"password", "tide lorry crate"})
	p.does("Begin")
	p.see("[data-testid=codes]")
	codes := strings.Split(strings.TrimSpace(p.MustEval(`() => [...document.querySelectorAll('[data-testid=codes] li')].map(l => l.textContent).join('\n')`).Str()), "\n")
	require.Len(t, codes, 10)
	p.does("I have kept them")
	p.see("[data-testid=begin]")
	require.Equal(t, s.url+"/", p.MustInfo().URL)
	require.Zero(t, p.MustEval(`() => [...document.querySelectorAll('a')].filter(a => a.textContent.startsWith('People')).length`).Int())
	p.MustNavigate(link)
	p.reads("main", "used or is over")

	p.MustNavigate(s.url)
	p.setup("signing-in")
	p.does("Set up codes")
	secret := strings.TrimSpace(p.see("[data-testid=secret]").MustText())
	code := func(by time.Duration) string {
		c, err := totp.GenerateCode(secret, time.Now().Add(by))
		require.NoError(t, err)
		return c
	}
	p.fill([2]string{"codes-code", code(-30 * time.Second)}, [2]string{"codes-password", "tide lorry crate"})
	p.does("Ask for codes")
	p.reads("[data-testid=codes]", " ")
	recoveries := strings.Split(strings.TrimSpace(p.MustEval(`() => [...document.querySelectorAll('[data-testid=codes] li')].map(l => l.textContent).join('\n')`).Str()), "\n")
	recovery := recoveries[0]
	p.does("I have kept them")
	p.reads("main", "A code is asked for whenever you sign in")

	q := open(t, s.url, 390, 800)
	q.fill([2]string{"address", "mirela@skagvik.example"}, [2]string{"password", "tide lorry crate"})
	q.does("Sign in")
	q.reads("#code-wrong", "Now the code")
	q.fill([2]string{"code", code(0)})
	q.press(input.Enter)
	q.see("[data-testid=begin]")

	p.MustReload()
	p.until("document.querySelectorAll('[data-testid=session]').length === 2")
	p.click("[data-testid=session] button")
	p.reads("[data-testid=notice]", "It is signed out")
	p.until("document.querySelectorAll('[data-testid=session]').length === 1")
	q.see("[data-testid=sign-in-again]") // at once, as its stream has ended

	p.fill([2]string{"change-password", "wrong"}, [2]string{"change-fresh", "papers lorry crate"})
	p.does("Change the password")
	p.reads("#change-password-wrong", "not your password")
	p.fill([2]string{"change-password", "tide lorry crate"})
	p.does("Change the password")
	p.reads("[data-testid=notice]", "Your password is changed")

	q.MustReload()
	q.does("Password forgotten?")
	q.fill([2]string{"address", "mirela@skagvik.example"}, [2]string{"code", recovery}, [2]string{"password", "crate of papers"})
	q.does("Set the password")
	q.reads("main", "The new password is set")
	p.see("[data-testid=sign-in-again]")
	q.fill([2]string{"password", "crate of papers"})
	q.does("Sign in")
	q.reads("#code-wrong", "Now the code")
	q.fill([2]string{"code", codes[0]}) // those of the sign-up ended when new ones were made
	q.press(input.Enter)
	q.reads("#code-wrong", "no code of this minute")
	q.fill([2]string{"code", code(30 * time.Second)})
	q.press(input.Enter)
	q.reads("main", "set anew with one of your recovery codes")
	q.does("Go on")
	q.see("[data-testid=begin]")

	admin.MustReload()
	admin.reads("[data-person='mirela@skagvik.example']", "with codes")
	admin.MustElement("[data-person='mirela@skagvik.example']").MustElementR("button", "^Pause$").MustClick()
	admin.MustElementR("[role=alertdialog] button", "^Pause$").MustClick()
	admin.reads("[data-person='mirela@skagvik.example']", "paused")
	q.see("[data-testid=sign-in-again]")
	q.MustReload()
	q.fill([2]string{"address", "mirela@skagvik.example"}, [2]string{"password", "crate of papers"})
	q.does("Sign in")
	q.reads("main", "code")

	// In a week she leaves, hears of it and takes all that is hers; then she is removed.
	hers := func(button string) {
		admin.MustElement("[data-person='mirela@skagvik.example']").MustElementR("button", "^"+button+"$").MustClick()
	}
	hers("Open again")
	admin.until("!document.querySelector(\"[data-person='mirela@skagvik.example']\").textContent.includes('paused')")
	hers("Send away")
	admin.MustElementR("[role=alertdialog] button", "^In a week$").MustClick()
	admin.reads("[data-testid=sent-away]", "Mirela Dossett leaves on")
	admin.reads("[data-person='mirela@skagvik.example']", "leaves on")
	q.MustReload()
	q.fill([2]string{"address", "mirela@skagvik.example"}, [2]string{"password", "crate of papers"})
	q.does("Sign in")
	q.reads("#code-wrong", "Now the code")
	q.fill([2]string{"code", recoveries[1]})
	q.press(input.Enter)
	q.reads("main", "all that is yours here is removed then")
	q.does("Go on")
	q.see("[data-testid=begin]")
	q.MustNavigate(s.url + "/setup/signing-in")
	q.reads("[data-testid=leaves]", "You leave on")
	got := q.MustEval(`async () => {
		const res = await fetch(document.querySelector('a[href="/api/v1/mine"]').href)
		const bytes = new Uint8Array(await res.arrayBuffer())
		return res.headers.get('Content-Disposition') + ' ' + String.fromCharCode(...bytes.slice(0, 2))
	}`).Str()
	require.Regexp(t, `attachment; filename="ebbe-mirela-skagvik\.example-[\d-]+\.zip" PK`, got)
	q.does("Stay")
	q.reads("[data-testid=notice]", "You stay")
	q.does("Leave")
	q.MustElementR("[role=alertdialog] button", "^Now$").MustClick()
	q.reads("#leave-password-wrong", "not your password")
	admin.MustReload()
	hers("Send away")
	admin.MustElementR("[role=alertdialog] button", "^Now$").MustClick()
	admin.reads("[data-testid=sent-away]", "leaves now")
	q.see("[data-testid=sign-in-again]")
	admin.until("!document.querySelector(\"[data-person='mirela@skagvik.example']\")")
	q.MustReload()
	q.fill([2]string{"address", "mirela@skagvik.example"}, [2]string{"password", "crate of papers"})
	q.does("Sign in")
	q.reads("main", "do not belong together")
}

// A passkey is made at a name, asked for besides the password, and removed; at a bare
// address the screen says why there are none.
func TestAPasskey(t *testing.T) {
	t.Parallel()
	s := run(t, "serve", "--data", t.TempDir())
	bare := open(t, s.url, 1280, 800)
	bare.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	bare.see("[data-testid=begin]")
	bare.setup("signing-in")
	bare.reads("main", "Browsers make passkeys for names alone")
	const password = "a long enough password"

	p := open(t, strings.Replace(s.url, "127.0.0.1", "localhost", 1), 1280, 800)
	require.NoError(t, proto.WebAuthnEnable{}.Call(p))
	_, err := proto.WebAuthnAddVirtualAuthenticator{Options: &proto.WebAuthnVirtualAuthenticatorOptions{Protocol: proto.WebAuthnAuthenticatorProtocolCtap2,
		Transport: proto.WebAuthnAuthenticatorTransportInternal, HasResidentKey: true, HasUserVerification: true, IsUserVerified: true, AutomaticPresenceSimulation: true}}.Call(p)
	require.NoError(t, err)
	enter := func() {
		p.fill([2]string{"address", "solvei@skagvik.example"}, [2]string{"password", password})
		p.does("Sign in")
	}
	enter()
	p.see("[data-testid=begin]")
	p.setup("signing-in")
	p.does("Make a passkey")
	p.fill([2]string{"passkey-name", "phone"}, [2]string{"passkey-password", "wrong"})
	p.does("Make it")
	p.reads("#passkey-password-wrong", "not your password")
	p.fill([2]string{"passkey-password", password})
	p.does("Make it")
	p.reads("[data-testid=passkey]", "phone, made")
	p.reads("[data-testid=passkey]", "not used yet")

	p.does("Sign out")
	p.until("document.querySelector('#address')")
	enter()
	p.reads("#code-wrong", "Now your passkey")
	p.fill([2]string{"code", "123456"})
	p.does("Sign in")
	p.reads("#code-wrong", "no code of this minute")
	p.does("Use your passkey")
	p.reads("[data-testid=passkey]", "last used")

	bare.MustReload() // what ends the session there leaves the passkey as the way back
	bare.does("End all others")
	p.see("[data-testid=sign-in-again]")
	p.fill([2]string{"password-again", password})
	p.MustElementR("[data-testid=sign-in-again] button", "Sign in").MustClick()
	p.does("Use your passkey")
	p.until("!document.querySelector('[data-testid=sign-in-again]')")

	p.does("Remove")
	p.fill([2]string{"passkey-drop-password", password})
	p.does("Remove phone")
	p.until("!document.querySelector('[data-testid=passkey]')")
	p.does("Sign out")
	p.until("document.querySelector('#address')")
	enter()
	p.reads("main", "Make a passkey")
}
