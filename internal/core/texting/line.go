package texting

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
)

// When is when a line answers by itself.
type When string

// When a line answers by itself.
const (
	Never  When = ""       // it does not
	Held   When = "held"   // while mail is held, by the plan or by hand
	Always When = "always" // whenever a text comes
)

// Answer is what a line says by itself to whoever sends a text, once a day to each.
type Answer struct {
	When When   `json:"when"`
	Text string `json:"text"`
}

// Line is a telephone line of a box: its number, and the gateway by which its texts go and come.
type Line struct {
	Number  Number    `json:"number"`
	Gateway Gateway   `json:"gateway"`
	Stops   StopWords `json:"stops"`   // words by which somebody has no more texts, besides the usual
	Stopped string    `json:"stopped"` // what they are answered, once
	Answer  Answer    `json:"answer"`
}

// Kind is how a gateway is spoken to.
type Kind string

// The kinds of bodies.
const (
	JSON Kind = "json"
	Form Kind = "form" // application/x-www-form-urlencoded
)

// Auth is how one signs in to a gateway.
type Auth string

// The ways.
const (
	Basic  Auth = "basic"  // RFC 7617
	Bearer Auth = "bearer" // RFC 6750
	Header Auth = "header" // a header of its own has the secret
)

// Gateway says in fields how a common kind of HTTP gateway is spoken to. Names of fields may lead
// into what stands within others, by dots.
type Gateway struct {
	URL    string `json:"url"` // to which a text is sent
	Kind   Kind   `json:"kind"`
	Auth   Auth   `json:"auth"`
	Login  string `json:"login"` // for Basic the name, for Header the name of the header
	To     string `json:"to"`    // the fields of what is sent
	From   string `json:"from"`
	Text   string `json:"text"`
	ID     string `json:"id"`     // the field of the answer that has the ID of the text
	Notify string `json:"notify"` // the field of what is sent that has where receipts go; empty: none

	In      Incoming  `json:"in"`
	Receipt Receipt   `json:"receipt"`
	Sign    Signature `json:"sign"`
}

// Incoming are the fields of what a gateway says about a text that has come.
type Incoming struct {
	From string `json:"from"`
	To   string `json:"to"`
	Text string `json:"text"`
	ID   string `json:"id"`
	At   string `json:"at"` // when it was sent: RFC 3339, or seconds since 1970; may be empty
}

// Receipt are the fields of what it says about a text that was sent, and its words for how that is.
type Receipt struct {
	ID        string   `json:"id"`
	State     string   `json:"state"`
	Delivered []string `json:"delivered"`
	Failed    []string `json:"failed"`
	Why       string   `json:"why"` // may be empty
}

// Signature is how a gateway shows that it is the one that speaks: HMAC with SHA-256 (RFC 2104) of
// the body, or of a time, a dot and the body.
type Signature struct {
	Header string `json:"header"`
	Time   string `json:"time"`   // the header with the time, in seconds since 1970; empty: the body alone is signed
	Base64 bool   `json:"base64"` // else in hex
	Prefix string `json:"prefix"` // what stands before it, as in sha256=
}

// Usual is a gateway as most of them are spoken to; only its address is missing.
func Usual() Gateway {
	return Gateway{Kind: JSON, Auth: Bearer, To: "to", From: "from", Text: "text", ID: "id",
		In:      Incoming{From: "from", To: "to", Text: "text", ID: "id", At: "at"},
		Receipt: Receipt{ID: "id", State: "status", Delivered: []string{"delivered"}, Failed: []string{"failed", "undelivered", "rejected", "expired"}, Why: "reason"},
		Sign:    Signature{Header: "X-Signature", Time: "X-Timestamp"}}
}

const (
	longestField = 200
	longestSaid  = 612 // bytes of what a line says by itself: four parts at most
	mostStops    = 20
)

// Valid says in part of a sentence what is wrong with a line, or nil.
func (l Line) Valid() error {
	g := l.Gateway
	u, err := url.Parse(g.URL)
	switch {
	case l.Number == "":
		return errors.New("its number is missing")
	case err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" || u.User != nil:
		return errors.New("the address of the gateway is no web address, such as https://gateway.example/texts")
	case u.Scheme == "http" && !slices.Contains([]string{"localhost", "127.0.0.1", "::1"}, u.Hostname()):
		return errors.New("the address of the gateway must begin with https, as the secret goes there")
	case g.Kind != JSON && g.Kind != Form:
		return errors.New("what is sent is JSON or a form")
	case g.Auth != Basic && g.Auth != Bearer && g.Auth != Header:
		return errors.New("one signs in by name and password, by a token, or by a header")
	case g.Auth != Bearer && strings.TrimSpace(g.Login) == "":
		return errors.New("the name to sign in with is missing")
	case strings.ContainsAny(g.Login+g.Sign.Header+g.Sign.Time, "\r\n"):
		return errors.New("a name has a line break in it")
	case g.Sign.Header == "":
		return errors.New("without the header of the signature anybody could send you texts in the name of others")
	}
	for name, field := range map[string]string{"of the receiver": g.To, "of the sender": g.From, "of the text": g.Text, "of the sender of what comes in": g.In.From, "of the text of what comes in": g.In.Text, "of the ID of what comes in": g.In.ID} {
		if strings.TrimSpace(field) == "" || len(field) > longestField {
			return fmt.Errorf("the name of the field %s is missing", name)
		}
	}
	switch {
	case len(l.Stops) > mostStops || len(strings.Join(l.Stops, "")) > 400:
		return fmt.Errorf("there is room for %d words to stop with", mostStops)
	case len(l.Stopped) > longestSaid || len(l.Answer.Text) > longestSaid:
		return errors.New("what a line says by itself has room for 600 letters")
	case l.Answer.When != Never && l.Answer.When != Held && l.Answer.When != Always:
		return errors.New("it answers by itself never, while mail is held, or always")
	case l.Answer.When != Never && strings.TrimSpace(l.Answer.Text) == "":
		return errors.New("it is to answer by itself, but says nothing")
	}
	return nil
}
