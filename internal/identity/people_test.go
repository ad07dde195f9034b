package identity

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

func nothing(store.Tx, Who, store.Person) error { return nil }

// about is the field of an error that is told the user.
func about(t *testing.T, err error) string {
	t.Helper()
	var user *problem.Error
	require.ErrorAs(t, err, &user)
	return user.Field
}

func (l lodge) who(t *testing.T, token string) Who {
	t.Helper()
	who, _, err := l.SignedIn(ctx, token)
	require.NoError(t, err)
	return who
}

// in signs in with a password, and a code.
func (l lodge) in(t *testing.T, address, password, code string) (Session, error) {
	t.Helper()
	return l.SignIn(ctx, Entry{Address: address, Password: password, Code: code}, From{Address: "10.0.0.9", Browser: "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"})
}

// Whoever is invited comes in once, within a week, with a box of their own; whoever
// invites sees nothing of it.
func TestBeingInvited(t *testing.T) {
	l := newLodge(t)
	care := Care(l)
	s, err := l.signIn("long enough", "10.0.0.1", "")
	require.NoError(t, err)
	admin := l.who(t, s.Token)
	require.True(t, admin.Admin)
	for field, wrong := range map[string][2]string{"name": {" ", "mirela@m.example"}, "address": {"Mirela", "nobody"}} {
		_, err := care.Invite(ctx, admin, wrong[0], wrong[1])
		require.Equal(t, field, about(t, err))
	}
	_, err = care.Invite(ctx, admin, "Solvei", "Solvei@m.example")
	require.ErrorContains(t, err, "Nobody was invited")
	first, err := care.Invite(ctx, admin, "Mirela", "Mirela@m.example")
	require.NoError(t, err)
	token, err := care.Invite(ctx, admin, "Mirela", "mirela@m.example")
	require.NoError(t, err)
	_, err = l.Invited(ctx, first)
	require.ErrorContains(t, err, "used or is over", "the later takes its place")
	v, err := l.Invited(ctx, token)
	require.NoError(t, err)
	require.Equal(t, "mirela@m.example", v.Address)

	_, err = l.Join(ctx, token, Signup{Name: "Mirela", Password: "short", Zone: "UTC"}, nothing)
	require.Equal(t, "password", about(t, err))
	codes, err := l.Join(ctx, token, Signup{Name: "Mirela Dossett", Address: "other@x.example", Password: "tide lorry crate", Zone: "UTC"}, nothing)
	require.NoError(t, err)
	require.Len(t, codes, recoveryCodes)
	_, err = l.Join(ctx, token, Signup{Name: "Again", Password: "tide lorry crate", Zone: "UTC"}, nothing)
	require.ErrorContains(t, err, "used or is over")
	s, err = l.in(t, "mirela@m.example", "tide lorry crate", "")
	require.NoError(t, err, "the address is that of the invitation")
	mirela := l.who(t, s.Token)
	require.False(t, mirela.Admin)
	require.NotEqual(t, admin.Box, mirela.Box)

	_, err = care.People(ctx, mirela)
	require.ErrorIs(t, err, errNotAdmin)
	_, err = care.Invite(ctx, mirela, "Tomasz", "tomasz@m.example")
	require.ErrorIs(t, err, errNotAdmin)
	require.ErrorIs(t, care.Stand(ctx, mirela, admin.Person, Standing{Paused: new(true)}), errNotAdmin)
	require.ErrorIs(t, care.TakeBack(ctx, mirela, "x"), errNotAdmin)

	token, err = care.Invite(ctx, admin, "Tomasz", "tomasz@m.example")
	require.NoError(t, err)
	all, err := care.People(ctx, admin)
	require.NoError(t, err)
	require.Len(t, all.People, 2)
	require.Len(t, all.Invitations, 1)
	require.NoError(t, care.TakeBack(ctx, admin, all.Invitations[0].ID))
	_, err = l.Invited(ctx, token)
	require.ErrorContains(t, err, "used or is over")
	require.NoError(t, l.store.Write(ctx, func(tx store.Tx) error {
		return admission.Admission(tx).PutInvitation(admission.Invitation{TokenHash: tokenHash("old"), Name: "Old", Address: "old@m.example", Expires: when.Of(time.Now().Add(-time.Second))})
	}))
	_, err = l.Invited(ctx, "old")
	require.ErrorContains(t, err, "used or is over")
}

// Whoever is paused is out at once and does not come in, until they may again; somebody
// always looks after this Ebbe.
func TestBeingPaused(t *testing.T) {
	l := newLodge(t)
	care := Care(l)
	require.NoError(t, l.Add(ctx, Signup{Name: "Mirela", Address: "mirela@m.example", Password: "tide lorry crate", Zone: "UTC"}, nil, nothing))
	s, err := l.signIn("long enough", "10.0.0.1", "")
	require.NoError(t, err)
	admin := l.who(t, s.Token)
	m, err := l.in(t, "mirela@m.example", "tide lorry crate", "")
	require.NoError(t, err)
	mirela := l.who(t, m.Token)
	ended, left := l.Until(m.Token)
	defer left()

	feed := func() error {
		return l.store.Write(ctx, func(tx store.Tx) error {
			if err := store.People(tx).ChangePerson(mirela.Person, map[string]any{"feed": store.HashOf("secret")}); err != nil {
				return err
			}
			_, err := store.People(tx).PersonByFeed("secret")
			return err
		})
	}
	require.NoError(t, feed())

	require.NoError(t, care.Stand(ctx, admin, mirela.Person, Standing{Paused: new(true)}))
	<-ended
	require.ErrorIs(t, feed(), store.ErrNotFound, "nor does their calendar go out")
	_, _, err = l.SignedIn(ctx, m.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = l.in(t, "mirela@m.example", "tide lorry crate", "")
	require.ErrorIs(t, err, errPaused)
	_, err = l.in(t, "mirela@m.example", "wrong", "")
	require.ErrorIs(t, err, errWrong, "who does not know the password is not told")
	require.NoError(t, care.Stand(ctx, admin, mirela.Person, Standing{Paused: new(false)}))
	_, err = l.in(t, "mirela@m.example", "tide lorry crate", "")
	require.NoError(t, err)

	require.ErrorIs(t, care.Stand(ctx, admin, admin.Person, Standing{Paused: new(true)}), errLast)
	require.ErrorIs(t, care.Stand(ctx, admin, admin.Person, Standing{Admin: new(false)}), errLast)
	require.ErrorIs(t, care.Stand(ctx, admin, 99, Standing{Admin: new(true)}), store.ErrNotFound)
	require.NoError(t, care.Stand(ctx, admin, mirela.Person, Standing{Admin: new(true)}))
	require.NoError(t, care.Stand(ctx, admin, admin.Person, Standing{Admin: new(false)}))
	require.False(t, l.who(t, s.Token).Admin, "at once")
}

// A person sees where they are signed in and ends that, one or all others, at once.
func TestSessionsAreSeenAndEnded(t *testing.T) {
	l := newLodge(t)
	require.NoError(t, l.Add(ctx, Signup{Name: "Mirela", Address: "mirela@m.example", Password: "tide lorry crate", Zone: "UTC"}, nil, nothing))
	other, err := l.in(t, "mirela@m.example", "tide lorry crate", "")
	require.NoError(t, err)
	var tokens []string
	for range 3 {
		s, err := l.in(t, "solvei@m.example", "long enough", "")
		require.NoError(t, err)
		tokens = append(tokens, s.Token)
	}
	who := l.who(t, tokens[0])
	seen, err := l.Security(ctx, who, tokens[0], Site{})
	require.NoError(t, err)
	require.Len(t, seen.Sessions, 3)
	at := map[string]SessionView{}
	here := 0
	for _, s := range seen.Sessions {
		require.Equal(t, "Firefox on Linux", s.Browser)
		require.Equal(t, "10.0.0.9", s.Origin)
		at[s.ID] = s
		if s.Here {
			here++
		}
	}
	require.Equal(t, 1, here)
	first, left := l.Until(tokens[1])
	defer left()
	require.NoError(t, l.EndSession(ctx, who, tokenHash(tokens[1])[:16], tokens[0]))
	<-first
	_, _, err = l.SignedIn(ctx, tokens[1])
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, l.EndSession(ctx, who, tokenHash(other.Token)[:16], tokens[0]), "that of somebody else is none of theirs")
	l.who(t, other.Token)
	require.NoError(t, l.EndSession(ctx, who, "", tokens[0]))
	_, _, err = l.SignedIn(ctx, tokens[2])
	require.ErrorIs(t, err, store.ErrNotFound)
	l.who(t, tokens[0])

	// What is not used for long ends; each use counts.
	age := func(by time.Duration) {
		require.NoError(t, l.store.Write(ctx, func(tx store.Tx) error {
			return admission.Admission(tx).UseSession(tokenHash(tokens[0]), when.Of(time.Now().Add(-by)))
		}))
	}
	age(idleLength - time.Hour)
	l.who(t, tokens[0])
	seen, err = l.Security(ctx, who, tokens[0], Site{})
	require.NoError(t, err)
	require.Less(t, time.Since(seen.Sessions[0].Seen.Time()), time.Minute)
	age(idleLength + time.Minute)
	_, _, err = l.SignedIn(ctx, tokens[0])
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A password is changed by whoever knows it, and then all other browsers are out.
func TestChangingThePassword(t *testing.T) {
	l := newLodge(t)
	a, err := l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err)
	b, err := l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err)
	who := l.who(t, a.Token)
	require.Equal(t, "password", about(t, l.ChangePassword(ctx, who, "wrong", "tide lorry crate", a.Token)))
	for _, weak := range []string{"short", "password12", "1234567890", "qwertyuiop", "solveisolvei", strings.Repeat("x", 2000)} {
		require.Equal(t, "password", about(t, l.ChangePassword(ctx, who, "long enough", weak, a.Token)), weak)
	}
	l.who(t, b.Token)
	require.NoError(t, l.ChangePassword(ctx, who, "long enough", "tide lorry crate", a.Token))
	l.who(t, a.Token)
	_, _, err = l.SignedIn(ctx, b.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = l.in(t, "solvei@m.example", "long enough", "")
	require.ErrorIs(t, err, errWrong)
	c, err := l.in(t, "solvei@m.example", "tide lorry crate", "")
	require.NoError(t, err)
	require.Empty(t, c.Tell)

	require.NoError(t, l.Rename(ctx, who, " Solvei A. "))
	p, _, err := l.Session(ctx, a.Token)
	require.NoError(t, err)
	require.Equal(t, "Solvei A.", p.Name)
	require.Equal(t, "name", about(t, l.Rename(ctx, who, strings.Repeat("x", 201))))
	for range freeTries + 1 {
		_ = l.ChangePassword(ctx, who, "wrong", "tide lorry crate", a.Token)
	}
	require.ErrorContains(t, l.ChangePassword(ctx, who, "tide lorry crate", "tide lorry crates", a.Token), "Too many")
}

// Once codes by the time are set up, the password alone opens nothing; each code opens
// once, and a recovery code stands in for one.
func TestCodesByTheTime(t *testing.T) {
	l := newLodge(t)
	l.Key = secrets.Key{1}
	s, err := l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err)
	who := l.who(t, s.Token)
	offer, err := l.OfferCodes(ctx, who)
	require.NoError(t, err)
	require.Contains(t, offer.Address, "otpauth://totp/Ebbe:solvei@m.example")
	require.True(t, strings.HasPrefix(offer.Picture, "data:image/png;base64,"))
	now := func(by time.Duration) string {
		code, err := totp.GenerateCode(offer.Secret, time.Now().Add(by))
		require.NoError(t, err)
		return code
	}
	_, err = l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err, "nothing is kept of an offer")
	for field, wrong := range map[string][3]string{"password": {"wrong", offer.Secret, now(0)}, "code": {"long enough", offer.Secret, now(-time.Hour)}} {
		_, err := l.TakeCodes(ctx, who, wrong[0], wrong[1], wrong[2])
		require.Equal(t, field, about(t, err))
	}
	_, err = l.TakeCodes(ctx, who, "long enough", "no secret!", "123456")
	require.Equal(t, "code", about(t, err))
	recovery, err := l.TakeCodes(ctx, who, "long enough", offer.Secret, now(-codeStep))
	require.NoError(t, err)
	require.Len(t, recovery, recoveryCodes)
	require.NoError(t, l.store.Read(ctx, func(tx store.Tx) error {
		p, err := store.People(tx).PersonByID(who.Person)
		require.NotContains(t, string(p.Codes), offer.Secret, "it is sealed")
		return err
	}))

	for range 2 * freeTries { // asking is no guess
		_, err = l.in(t, "solvei@m.example", "long enough", "")
		require.ErrorIs(t, err, errCode)
	}
	_, err = l.in(t, "solvei@m.example", "wrong", now(0))
	require.ErrorIs(t, err, errWrong)
	_, err = l.in(t, "solvei@m.example", "long enough", now(-codeStep))
	require.ErrorIs(t, err, errNoCode, "it was used")
	code := now(0)
	_, err = l.in(t, "solvei@m.example", "long enough", code[:3]+" "+code[3:])
	require.NoError(t, err)
	_, err = l.in(t, "solvei@m.example", "long enough", code)
	require.ErrorIs(t, err, errNoCode)
	_, err = l.in(t, "solvei@m.example", "long enough", strings.ToUpper(strings.ReplaceAll(recovery[0], " ", "-")))
	require.NoError(t, err)
	_, err = l.in(t, "solvei@m.example", "long enough", recovery[0])
	require.ErrorIs(t, err, errNoCode, "it was used")
	seen, err := l.Security(ctx, who, s.Token, Site{})
	require.NoError(t, err)
	require.True(t, seen.Codes)
	require.Equal(t, recoveryCodes-1, seen.Recovery)
	for range freeTries {
		_, err = l.in(t, "solvei@m.example", "long enough", "000000")
		require.ErrorIs(t, err, errNoCode)
	}
	_, err = l.in(t, "solvei@m.example", "long enough", recovery[1])
	require.ErrorContains(t, err, "Too many", "codes are not guessed either")
	l.tries = throttle{}

	require.Equal(t, "password", about(t, l.DropCodes(ctx, who, "wrong")))
	require.NoError(t, l.DropCodes(ctx, who, "long enough"))
	_, err = l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err)
}

// A forgotten password is set anew with a recovery code, or by whoever has the machine; all
// browsers are out, and the person is told, once.
func TestAForgottenPassword(t *testing.T) {
	l := newLodge(t)
	s, err := l.in(t, "solvei@m.example", "long enough", "")
	require.NoError(t, err)
	who := l.who(t, s.Token)
	codes, err := l.NewRecoveryCodes(ctx, who, "long enough")
	require.NoError(t, err)
	again := func(address, code, password string) error {
		return l.Recover(ctx, Entry{Address: address, Code: code, Password: password}, From{Address: "10.0.0.9"})
	}
	require.Equal(t, "password", about(t, again("solvei@m.example", codes[0], "short")))
	require.Equal(t, "code", about(t, again("solvei@m.example", "abcd abcd abcd abcd", "tide lorry crate")))
	require.Equal(t, "code", about(t, again("nobody@m.example", codes[0], "tide lorry crate")), "as for one who is here")
	l.who(t, s.Token)
	require.NoError(t, again("Solvei@m.example ", codes[0], "tide lorry crate"))
	_, _, err = l.SignedIn(ctx, s.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.Equal(t, "code", about(t, again("solvei@m.example", codes[0], "tide lorry crates")))
	s, err = l.in(t, "solvei@m.example", "tide lorry crate", "")
	require.NoError(t, err)
	require.Contains(t, s.Tell, "recovery codes")
	s, err = l.in(t, "solvei@m.example", "tide lorry crate", "")
	require.NoError(t, err)
	require.Empty(t, s.Tell)

	fresh, err := l.ResetPassword(ctx, "Solvei@m.example", true)
	require.NoError(t, err)
	_, _, err = l.SignedIn(ctx, s.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	s, err = l.in(t, "solvei@m.example", fresh, "")
	require.NoError(t, err)
	require.Contains(t, s.Tell, "on the machine")
	_, err = l.ResetPassword(ctx, "nobody@m.example", false)
	require.ErrorIs(t, err, store.ErrNotFound)
	for range freeTries + 1 {
		err = again("solvei@m.example", "abcd", "tide lorry crate")
	}
	require.ErrorContains(t, err, "Too many")
}

// The first person shows the code that was printed at the start.
func TestTheCodeOfTheSetUp(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	d := New(s, func() when.Instant { return 0 }, false)
	code, err := d.AskForCode(ctx)
	require.NoError(t, err)
	require.True(t, d.AsksForCode())
	me := Signup{Name: "A", Address: "a@b.example", Password: "long enough", Zone: "UTC"}
	for _, wrong := range []string{"", "abcd-efgh-ijkl"} {
		me.Code = wrong
		_, err = d.Begin(ctx, me, "10.0.0.1", nothing)
		require.Equal(t, "code", about(t, err))
	}
	for range freeTries + 1 {
		_, err = d.Begin(ctx, me, "10.0.0.2", nothing)
		require.Error(t, err)
	}
	me.Code = strings.ToUpper(code)
	_, err = d.Begin(ctx, me, "10.0.0.2", nothing)
	require.ErrorContains(t, err, "Too many")
	codes, err := d.Begin(ctx, me, "10.0.0.1", nothing)
	require.NoError(t, err)
	require.Len(t, codes, recoveryCodes)
	code, err = d.AskForCode(ctx)
	require.NoError(t, err)
	require.Empty(t, code, "it is set up")
}

func TestWhatABrowserIsCalled(t *testing.T) {
	for agent, want := range map[string]string{
		"":       "A browser",
		"curl/8": "A browser",
		"Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36 Edg/140.0.0.0": "Edge on Windows",
		"Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.0 Safari/604.1":     "Safari on iPhone",
		"Mozilla/5.0 (Linux; Android 15) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Mobile Safari/537.36":                  "Chrome on Android",
	} {
		require.Equal(t, want, called(agent), agent)
	}
	require.False(t, errors.Is(errCode, errNoCode))
}
