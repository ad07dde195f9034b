// Package texts speaks to gateways of text messages: it hands texts over to them, and reads what
// they say about those, and about what comes in.
package texts

import (
	"bytes"
	"cmp"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
)

// Text is one that is to go.
type Text struct {
	From, To texting.Number
	Text     string
	Once     string // the same for the same text, however often it is handed over
	Notify   string // where receipts are to go; empty: nowhere
}

// Provider carries texts.
type Provider interface {
	// Send hands a text over, and gives the ID by which receipts name it. It returns *Refused, and
	// ErrUncertain where nobody knows whether it was taken.
	Send(ctx context.Context, t Text) (id string, err error)
	// Hear reads what the gateway says. It returns ErrUnsigned where it is not the one that speaks.
	Hear(header http.Header, body []byte, now when.Instant) (Heard, error)
}

// ErrUncertain says that a text was handed over, and the line ended before the gateway said whether
// it has taken it.
var ErrUncertain = errors.New("the line ended while the text was being handed over")

// ErrUnsigned says that what was said is not signed by the gateway, or too long ago.
var ErrUnsigned = errors.New("what was said is not signed by the gateway")

// Refused is why a gateway did not take a text.
type Refused struct {
	Text  string // in a sentence
	Final bool   // it will not take it later either
}

func (r *Refused) Error() string { return r.Text }

// Came is a text that has come in.
type Came struct {
	ID       string
	From, To string // as the gateway writes them
	Text     string
	At       when.Instant // 0: it does not say
}

// State is what has become of a text.
type State string

// The states that are told of.
const (
	Delivered State = "delivered"
	Failed    State = "failed"
)

// Receipt is what has become of a text that was sent.
type Receipt struct {
	ID    string
	State State
	Why   string // as the gateway says it, of one that failed
}

// Heard is what a gateway has said.
type Heard struct {
	Texts    []Came
	Receipts []Receipt
}

// The limits of what a gateway says.
const (
	MaxHeard   = 256 << 10 // bytes of what it says at once
	maxAnswer  = 64 << 10  // bytes of an answer that are read
	mostHeard  = 100       // things it says at once
	MaxText    = 40_000    // bytes of a text that are kept
	longestID  = 200
	longestWhy = 300
	deepest    = 6 // fields within fields
)

// HTTP is a gateway that is spoken to over HTTP as its fields say.
type HTTP struct {
	Network post.Network
	Gateway texting.Gateway
	Secret  string
}

// client never follows to another place: what is sent has the secret in it.
func (h HTTP) client() *http.Client {
	dial := h.Network.Web
	if dial == nil {
		dial = h.Network.Dial
	}
	return &http.Client{Timeout: h.Network.Patience, Transport: &http.Transport{DialContext: dial, TLSClientConfig: h.Network.Config(mail.Server{}), DisableKeepAlives: true},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

// Send hands a text over.
func (h HTTP) Send(ctx context.Context, t Text) (string, error) {
	g := h.Gateway
	fields := [][2]string{{g.To, string(t.To)}, {g.From, string(t.From)}, {g.Text, t.Text}}
	if g.Notify != "" && t.Notify != "" {
		fields = append(fields, [2]string{g.Notify, t.Notify})
	}
	body, kind, err := written(g.Kind, fields)
	if err != nil {
		return "", &Refused{Text: "The fields of the gateway do not fit together: " + err.Error() + ".", Final: true}
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, g.URL, bytes.NewReader(body))
	if err != nil {
		return "", &Refused{Text: "The address of the gateway cannot be used. Look at it in Setup.", Final: true}
	}
	r.Header.Set("Content-Type", kind)
	r.Header.Set("Accept", "application/json")
	r.Header.Set("Idempotency-Key", t.Once)
	switch g.Auth {
	case texting.Basic:
		r.SetBasicAuth(g.Login, h.Secret)
	case texting.Header:
		r.Header.Set(g.Login, h.Secret)
	default:
		r.Header.Set("Authorization", "Bearer "+h.Secret)
	}
	answer, err := h.client().Do(r)
	if err != nil {
		host := r.URL.Hostname()
		if strings.Contains(err.Error(), "dial") || strings.Contains(err.Error(), "tls:") || strings.Contains(err.Error(), "certificate") {
			return "", &Refused{Text: fmt.Sprintf("%s does not answer (%s). The text is kept, and tried again.", host, post.Reason(err))}
		}
		return "", ErrUncertain // it may have it
	}
	defer answer.Body.Close()
	said, err := io.ReadAll(io.LimitReader(answer.Body, maxAnswer))
	switch {
	case answer.StatusCode == http.StatusUnauthorized || answer.StatusCode == http.StatusForbidden:
		return "", &Refused{Text: fmt.Sprintf("%s does not let Ebbe in (%d). Look at the secret of the line in Setup.", r.URL.Hostname(), answer.StatusCode), Final: true}
	case answer.StatusCode == http.StatusTooManyRequests || answer.StatusCode >= 500:
		return "", &Refused{Text: fmt.Sprintf("%s cannot take the text now (%d). It is kept, and tried again.", r.URL.Hostname(), answer.StatusCode)}
	case answer.StatusCode >= 300:
		return "", &Refused{Text: fmt.Sprintf("%s did not take the text (%d): %s", r.URL.Hostname(), answer.StatusCode, cmp.Or(mail.Clean(string(said), longestWhy), "it does not say why")), Final: true}
	case err != nil:
		return "", nil // it has it, and receipts will not be understood
	}
	fielded, err := fieldsOf(said, answer.Header.Get("Content-Type"))
	if err != nil {
		return "", nil
	}
	return short(fielded.at(g.ID)), nil
}

func short(id string) string {
	if len(id) > longestID {
		return ""
	}
	return id
}

// Hear reads what the gateway says.
func (h HTTP) Hear(header http.Header, body []byte, now when.Instant) (Heard, error) {
	if err := h.signed(header, body, now); err != nil {
		return Heard{}, err
	}
	all, err := Read(h.Gateway, header.Get("Content-Type"), body)
	return all, err
}

// signed says that the gateway has signed what it says, and lately.
func (h HTTP) signed(header http.Header, body []byte, now when.Instant) error {
	s := h.Gateway.Sign
	mac := hmac.New(sha256.New, []byte(h.Secret))
	if s.Time != "" {
		at := header.Get(s.Time)
		seconds, err := strconv.ParseInt(at, 10, 64)
		if err != nil || seconds < 0 || seconds > 1<<40 {
			return ErrUnsigned
		}
		if apart := now - when.Instant(seconds*1000); apart > texting.SignedWithin || apart < -texting.SignedWithin {
			return ErrUnsigned
		}
		mac.Write([]byte(at + "."))
	}
	mac.Write(body)
	given, ok := strings.CutPrefix(header.Get(s.Header), s.Prefix)
	if !ok {
		return ErrUnsigned
	}
	var sum []byte
	var err error
	if s.Base64 {
		sum, err = base64.StdEncoding.DecodeString(given)
	} else {
		sum, err = hex.DecodeString(given)
	}
	if err != nil || !hmac.Equal(sum, mac.Sum(nil)) {
		return ErrUnsigned
	}
	return nil
}

// Signed gives the headers by which a gateway shows that it says something.
func Signed(s texting.Signature, secret string, body []byte, now time.Time) http.Header {
	out := http.Header{}
	mac := hmac.New(sha256.New, []byte(secret))
	if s.Time != "" {
		at := strconv.FormatInt(now.Unix(), 10)
		out.Set(s.Time, at)
		mac.Write([]byte(at + "."))
	}
	mac.Write(body)
	sum := hex.EncodeToString(mac.Sum(nil))
	if s.Base64 {
		sum = base64.StdEncoding.EncodeToString(mac.Sum(nil))
	}
	out.Set(s.Header, s.Prefix+sum)
	return out
}

// Read reads what a gateway says, signed or not: one thing, or a list of them. What is neither a
// text nor a receipt is passed over. An error is part of a sentence.
func Read(g texting.Gateway, kind string, body []byte) (out Heard, err error) {
	if len(body) > MaxHeard {
		return out, fmt.Errorf("that is more than %d kB at once", MaxHeard>>10)
	}
	all, err := listOf(body, kind)
	if err != nil {
		return out, err
	}
	for _, f := range all {
		if state := f.at(g.Receipt.State); state != "" && f.at(g.In.Text) == "" {
			r := Receipt{ID: short(f.at(g.Receipt.ID)), Why: mail.Clean(f.at(g.Receipt.Why), longestWhy)}
			is := func(words []string) bool {
				return slices.ContainsFunc(words, func(w string) bool { return strings.EqualFold(w, state) })
			}
			switch {
			case r.ID == "":
				continue
			case is(g.Receipt.Delivered):
				r.State, r.Why = Delivered, ""
			case is(g.Receipt.Failed):
				r.State = Failed
			default:
				continue
			}
			out.Receipts = append(out.Receipts, r)
			continue
		}
		c := Came{ID: short(f.at(g.In.ID)), From: f.at(g.In.From), To: f.at(g.In.To), Text: strings.ToValidUTF8(f.at(g.In.Text), "�"), At: instantOf(f.at(g.In.At))}
		if c.ID == "" || c.From == "" || len(c.From) > longestID {
			continue
		}
		if len(c.Text) > MaxText {
			end := MaxText
			for !utf8.RuneStart(c.Text[end]) {
				end--
			}
			c.Text = c.Text[:end] + "\n…"
		}
		out.Texts = append(out.Texts, c)
	}
	return out, nil
}

// instantOf reads a time: RFC 3339, or seconds since 1970; 0 if it is neither.
func instantOf(text string) when.Instant {
	if n, err := strconv.ParseInt(text, 10, 64); err == nil && n > 0 && n < 1<<40 {
		return when.Instant(n * 1000)
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil && t.Year() > 1970 && t.Year() < 9999 {
		return when.Of(t)
	}
	return 0
}

// fields are what somebody says, by their names.
type fields map[string]any

// at is what stands in a field, whose name leads by dots into what stands within others.
func (f fields) at(name string) string {
	if name == "" {
		return ""
	}
	var v any = map[string]any(f)
	for _, part := range strings.SplitN(name, ".", deepest) {
		switch in := v.(type) {
		case map[string]any:
			v = in[part]
		case []any:
			n, err := strconv.Atoi(part)
			if err != nil || n < 0 || n >= len(in) {
				return ""
			}
			v = in[n]
		default:
			return ""
		}
	}
	switch is := v.(type) {
	case string:
		return is
	case json.Number:
		return is.String()
	case bool:
		return strconv.FormatBool(is)
	}
	return ""
}

func fieldsOf(body []byte, kind string) (fields, error) {
	all, err := listOf(body, kind)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return all[0], nil
}

// listOf reads a form, a JSON object, or a list of those.
func listOf(body []byte, kind string) (out []fields, err error) {
	if named, _, _ := mime.ParseMediaType(kind); named == "application/x-www-form-urlencoded" {
		values, err := url.ParseQuery(string(body))
		if err != nil {
			return nil, errors.New("that is no form")
		}
		f := fields{}
		for name := range values {
			f[name] = values.Get(name)
		}
		return []fields{f}, nil
	}
	d := json.NewDecoder(bytes.NewReader(body))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, errors.New("that is no JSON")
	}
	switch is := v.(type) {
	case map[string]any:
		return []fields{is}, nil
	case []any:
		if len(is) > mostHeard {
			return nil, fmt.Errorf("that is more than %d things at once", mostHeard)
		}
		for _, one := range is {
			if f, ok := one.(map[string]any); ok {
				out = append(out, f)
			}
		}
		return out, nil
	}
	return nil, errors.New("that is neither an object nor a list")
}

// written writes fields as a gateway reads them.
func written(kind texting.Kind, values [][2]string) (body []byte, mediaType string, err error) {
	if kind == texting.Form {
		form := url.Values{}
		for _, v := range values {
			form.Set(v[0], v[1])
		}
		return []byte(form.Encode()), "application/x-www-form-urlencoded", nil
	}
	root := map[string]any{}
	for _, field := range values {
		name, v := field[0], field[1]
		at := root
		parts := strings.SplitN(name, ".", deepest)
		for _, p := range parts[:len(parts)-1] {
			next, ok := at[p].(map[string]any)
			if !ok {
				if at[p] != nil {
					return nil, "", fmt.Errorf("“%s” is a field and has fields in it", p)
				}
				next = map[string]any{}
				at[p] = next
			}
			at = next
		}
		last := parts[len(parts)-1]
		if at[last] != nil {
			return nil, "", fmt.Errorf("“%s” is named twice", name)
		}
		at[last] = v
	}
	body, err = json.Marshal(root)
	return body, "application/json", err
}
