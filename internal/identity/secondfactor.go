package identity

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base64"
	"image/png"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// Codes by the time are as RFC 6238 has them, as apps for them read them: six digits,
// thirty seconds, HMAC-SHA-1, a step before and after counts.
const (
	codeStep   = 30 * time.Second
	codeWithin = 1
)

// recoveryCodes is how many recovery codes a person has.
const recoveryCodes = 10

// second asks for the passkey or the code of a person who has set up that one is asked for;
// a code by the time is good once, as is a recovery code.
func (d *Directory) second(ctx context.Context, p store.Person, e Entry, site Site) error {
	h, err := Passkeys{d}.holder(ctx, p)
	if err != nil || len(p.Codes) == 0 && len(h.keys) == 0 {
		return err
	}
	code := strings.TrimSpace(e.Code)
	switch {
	case e.Ceremony != "" && len(h.keys) > 0:
		return Passkeys{d}.shown(ctx, h, site, e.PasskeyShown)
	case code == "" && len(h.keys) > 0:
		return errKey
	case code == "":
		return errCode
	}
	right := false
	err = d.store.Write(ctx, func(t store.Tx) (err error) {
		if step, ok := d.stepOf(p.Codes, code, time.Now()); ok && step > p.CodeUsed {
			now, err := store.People(t).PersonByID(p.ID) // two may have come with the same
			if right = err == nil && step > now.CodeUsed; !right {
				return err
			}
			return store.People(t).ChangePerson(p.ID, map[string]any{"code_used": step})
		}
		right, err = admission.Admission(t).UseRecoveryCode(p.ID, codeHash(code))
		return err
	})
	if err == nil && !right {
		err = errNoCode
	}
	return err
}

// stepOf finds the step of time of which a code is.
func (d *Directory) stepOf(sealed []byte, code string, now time.Time) (step int64, ok bool) {
	secret, err := d.Key.Open(sealed)
	if err != nil {
		return 0, false
	}
	for by := -codeWithin; by <= codeWithin; by++ {
		at := now.Add(time.Duration(by) * codeStep)
		if want, err := totp.GenerateCode(secret, at); err == nil && want == strings.ReplaceAll(code, " ", "") {
			return at.Unix() / int64(codeStep.Seconds()), true
		}
	}
	return 0, false
}

// OfferCodes makes a new secret for codes by the time. Nothing is kept of it until it is
// confirmed.
func (d *Directory) OfferCodes(ctx context.Context, who Who) (out CodeSetup, err error) {
	p, err := d.person(ctx, who.Person)
	if err != nil {
		return out, err
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Ebbe", AccountName: p.Address})
	if err != nil {
		return out, err
	}
	return codeSetup(key)
}

func codeSetup(key *otp.Key) (out CodeSetup, err error) {
	picture, err := key.Image(220, 220)
	if err != nil {
		return out, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, picture); err != nil {
		return out, err
	}
	return CodeSetup{Secret: key.Secret(), Address: key.URL(), Picture: "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())}, nil
}

// TakeCodes has a person be asked for codes by the time from now on, once they show one and
// their password; it gives them recovery codes.
func (d *Directory) TakeCodes(ctx context.Context, who Who, password, secret, code string) (recovery []string, err error) {
	if _, err := totp.GenerateCode(secret, time.Now()); err != nil {
		return nil, problem.Invalid("code", "That secret cannot be read. Begin again; nothing was changed.")
	}
	p, err := d.sure(ctx, who, password)
	if err != nil {
		return nil, err
	}
	p.Codes = d.Key.Seal(secret)
	step, ok := d.stepOf(p.Codes, code, time.Now())
	if !ok {
		return nil, problem.Invalid("code", "That is not the code of this minute. Look at the clock of the device: it has to be right. Nothing was changed.")
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		if err := store.People(t).ChangePerson(p.ID, map[string]any{"codes": p.Codes, "code_used": step}); err != nil {
			return err
		}
		recovery, err = newRecoveryCodes(t, p.ID)
		return err
	})
	return recovery, err
}

// DropCodes has a person be asked for no codes any more.
func (d *Directory) DropCodes(ctx context.Context, who Who, password string) error {
	p, err := d.sure(ctx, who, password)
	if err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return store.People(t).ChangePerson(p.ID, map[string]any{"codes": nil, "code_used": 0})
	})
}

// NewRecoveryCodes gives a person recovery codes in the place of those they have.
func (d *Directory) NewRecoveryCodes(ctx context.Context, who Who, password string) (codes []string, err error) {
	p, err := d.sure(ctx, who, password)
	if err != nil {
		return nil, err
	}
	err = d.store.Write(ctx, func(t store.Tx) (err error) {
		codes, err = newRecoveryCodes(t, p.ID)
		return err
	})
	return codes, err
}

func newRecoveryCodes(t store.Tx, person int64) (codes []string, err error) {
	var hashes []string
	for range recoveryCodes {
		code := strings.ToLower(rand.Text())[:12] // 60 bits in base32; guesses are slowed down
		codes = append(codes, code[:4]+" "+code[4:8]+" "+code[8:])
		hashes = append(hashes, codeHash(code))
	}
	return codes, admission.Admission(t).PutRecoveryCodes(person, hashes)
}

// codeHash is the hash of a recovery code, however it was written.
func codeHash(code string) string {
	return store.HashOf("recovery " + strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' {
			return -1
		}
		return r
	}, strings.ToLower(code)))
}

// Recover sets a new password for whoever has a recovery code, which it uses up. All
// sessions end; the person is told when they sign in next.
func (d *Directory) Recover(ctx context.Context, e Entry, from From) error {
	address := strings.ToLower(strings.TrimSpace(e.Address))
	if wait := d.tries.begin("recover "+address+" "+from.Address, time.Now()); wait > 0 {
		return slowDown(wait)
	}
	var p store.Person
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		p, err = store.People(t).PersonByAddress(address)
		return err
	})
	if err != nil && p.ID == 0 {
		p = store.Person{Address: address} // nobody: it takes as long, and says the same
	}
	if err := d.fit(e.Password, p.Name, p.Address); err != nil {
		d.tries.undo("recover " + address + " " + from.Address)
		return err
	}
	hash := d.checks.hash(e.Password)
	was := false
	err = d.store.Write(ctx, func(t store.Tx) (err error) {
		if was, err = admission.Admission(t).UseRecoveryCode(p.ID, codeHash(e.Code)); err != nil || !was {
			return err
		}
		return store.People(t).ChangePerson(p.ID, map[string]any{"password": hash, "tell": d.toldOf("Your password was set anew with one of your recovery codes")})
	})
	switch {
	case err != nil:
		return err
	case !was:
		return problem.Invalid("code", "Address and recovery code do not belong together, or the code was used. Nothing was changed.")
	}
	d.tries.succeeded("recover " + address + " " + from.Address)
	return d.endAll(ctx, p.ID, "")
}
