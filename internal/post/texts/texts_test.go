package texts

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
)

var now = time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC)

func gatewayAt(t *testing.T, answers http.HandlerFunc) HTTP {
	t.Helper()
	s := httptest.NewServer(answers)
	t.Cleanup(s.Close)
	g := texting.Usual()
	g.URL = s.URL + "/texts"
	return HTTP{Network: post.Network{Dial: (&net.Dialer{}).DialContext, Patience: 5 * time.Second}, Gateway: g, Secret: "s3cret"}
}

// A text goes as the fields of the gateway say, with its secret and the same mark each time it is tried.
func TestSending(t *testing.T) {
	var got *http.Request
	var body string
	h := gatewayAt(t, func(w http.ResponseWriter, r *http.Request) {
		raw, _ := io.ReadAll(r.Body)
		got, body = r, string(raw)
		w.Header().Set("Content-Type", "application/json")
		_, _ = io.WriteString(w, `{"messages":[{"id":42}]}`)
	})
	text := Text{From: "+4721000000", To: "+4722855050", Text: "Crate 14 is here", Once: "1@text.invalid", Notify: "https://ebbe.example/text/abc"}

	h.Gateway.ID, h.Gateway.To, h.Gateway.Notify = "messages.0.id", "message.to", "message.notify"
	id, err := h.Send(context.Background(), text)
	require.NoError(t, err)
	require.Equal(t, "42", id)
	require.Equal(t, "Bearer s3cret", got.Header.Get("Authorization"))
	require.Equal(t, "1@text.invalid", got.Header.Get("Idempotency-Key"))
	require.JSONEq(t, `{"from":"+4721000000","text":"Crate 14 is here","message":{"to":"+4722855050","notify":"https://ebbe.example/text/abc"}}`, body)

	h.Gateway = texting.Usual()
	h.Gateway.URL, h.Gateway.Kind, h.Gateway.Auth, h.Gateway.Login = "http://"+got.Host+"/texts", texting.Form, texting.Basic, "museum"
	_, err = h.Send(context.Background(), text)
	require.NoError(t, err)
	values, err := url.ParseQuery(body)
	require.NoError(t, err)
	require.Equal(t, url.Values{"from": {"+4721000000"}, "to": {"+4722855050"}, "text": {"Crate 14 is here"}}, values)
	name, secret, ok := got.BasicAuth()
	require.True(t, ok)
	require.Equal(t, "museum s3cret", name+" "+secret)

	h.Gateway.Auth, h.Gateway.Login = texting.Header, "X-Api-Key"
	_, err = h.Send(context.Background(), text)
	require.NoError(t, err)
	require.Equal(t, "s3cret", got.Header.Get("X-Api-Key"))

	h.Gateway.Kind, h.Gateway.Text = texting.JSON, "to"
	_, err = h.Send(context.Background(), text)
	require.ErrorContains(t, err, "named twice")
}

func TestWhatGatewaysSayToATextSent(t *testing.T) {
	status, says := 0, ""
	h := gatewayAt(t, func(w http.ResponseWriter, r *http.Request) {
		if status == 0 {
			panic(http.ErrAbortHandler)
		}
		w.WriteHeader(status)
		_, _ = io.WriteString(w, says)
	})
	send := func() (string, error) { return h.Send(context.Background(), Text{From: "+1", To: "+2", Text: "x"}) }
	for _, c := range []struct {
		status int
		says   string
		want   string
		final  bool
	}{
		{401, "", "does not let Ebbe in", true},
		{302, "", "did not take the text (302)", true},
		{422, "no such\r\nnumber", "(422): no such number", true},
		{400, "", "it does not say why", true},
		{429, "", "It is kept, and tried again", false},
		{503, "", "It is kept, and tried again", false},
	} {
		status, says = c.status, c.says
		_, err := send()
		var refused *Refused
		require.ErrorAs(t, err, &refused)
		require.Contains(t, refused.Text, c.want)
		require.Equal(t, c.final, refused.Final)
	}
	for _, says = range []string{"", "thank you", `{"id":{"deep":1}}`, `[]`, `{"id":"` + strings.Repeat("x", 300) + `"}`} {
		status = 200
		id, err := send()
		require.NoError(t, err, "it has it, whatever it says")
		require.Empty(t, id)
	}
	status = 0
	_, err := send()
	require.ErrorIs(t, err, ErrUncertain)
	h.Gateway.URL = "http://127.0.0.1:1/texts"
	_, err = send()
	var refused *Refused
	require.ErrorAs(t, err, &refused)
	require.False(t, refused.Final)
}

// Only what the gateway has signed lately is heard.
func TestSignatures(t *testing.T) {
	body := []byte(`{"id":"1","from":"+4722855050","text":"Here"}`)
	for _, s := range []texting.Signature{texting.Usual().Sign, {Header: "X-Sum", Prefix: "sha256="}, {Header: "X-Sum", Base64: true, Time: "X-At"}} {
		h := HTTP{Gateway: texting.Usual(), Secret: "s3cret"}
		h.Gateway.Sign = s
		good := Signed(s, "s3cret", body, now)
		heard, err := h.Hear(good, body, when.Of(now))
		require.NoError(t, err)
		require.Len(t, heard.Texts, 1)
		_, err = h.Hear(good, append(body, ' '), when.Of(now))
		require.ErrorIs(t, err, ErrUnsigned)
		_, err = h.Hear(Signed(s, "guessed", body, now), body, when.Of(now))
		require.ErrorIs(t, err, ErrUnsigned)
		_, err = h.Hear(http.Header{}, body, when.Of(now))
		require.ErrorIs(t, err, ErrUnsigned)
		for _, apart := range []time.Duration{6 * time.Minute, -6 * time.Minute} {
			_, err = h.Hear(good, body, when.Of(now.Add(apart)))
			require.Equal(t, s.Time != "", errors.Is(err, ErrUnsigned), "what is signed with its time is old after five minutes")
		}
		if s.Time != "" {
			moved := good.Clone()
			moved.Set(s.Time, "1764000001")
			_, err = h.Hear(moved, body, when.Of(now))
			require.ErrorIs(t, err, ErrUnsigned)
		}
	}
}

func TestWhatGatewaysSay(t *testing.T) {
	g := texting.Usual()
	for name, c := range map[string]struct {
		kind, body string
		want       Heard
		wrong      string
	}{
		"a text":           {"application/json", `{"id":"7","from":"+4722855050","to":"+4721000000","text":"Here","at":"2026-11-24T09:41:00Z"}`, Heard{Texts: []Came{{"7", "+4722855050", "+4721000000", "Here", when.Of(now.Add(-time.Minute))}}}, ""},
		"in seconds":       {"application/json", `{"id":7,"from":"2020","text":"Code","at":1764000000}`, Heard{Texts: []Came{{"7", "2020", "", "Code", 1_764_000_000_000}}}, ""},
		"no time":          {"application/json", `{"id":7,"from":"2020","text":"Code","at":"noon"}`, Heard{Texts: []Came{{"7", "2020", "", "Code", 0}}}, ""},
		"a form":           {"application/x-www-form-urlencoded; charset=utf-8", "id=7&from=%2B4722855050&text=Here", Heard{Texts: []Came{{"7", "+4722855050", "", "Here", 0}}}, ""},
		"receipts":         {"application/json", `[{"id":"7","status":"Delivered"},{"id":"8","status":"failed","reason":"off"},{"id":"9","status":"queued"},{"status":"failed"},12]`, Heard{Receipts: []Receipt{{"7", Delivered, ""}, {"8", Failed, "off"}}}, ""},
		"neither":          {"application/json", `{"hello":"there"}`, Heard{}, ""},
		"without a sender": {"application/json", `{"id":"7","text":"Here"}`, Heard{}, ""},
		"no JSON":          {"application/json", `hello`, Heard{}, "no JSON"},
		"neither of them":  {"application/json", `"hello"`, Heard{}, "neither"},
		"no form":          {"application/x-www-form-urlencoded", "%", Heard{}, "no form"},
		"too much":         {"application/json", `"` + strings.Repeat("x", MaxHeard) + `"`, Heard{}, "256 kB"},
		"too many":         {"application/json", "[" + strings.Repeat("1,", 100) + "1]", Heard{}, "100 things"},
		"a very deep one":  {"application/json", strings.Repeat(`{"id":`, 500) + "1" + strings.Repeat("}", 500), Heard{}, ""},
	} {
		got, err := Read(g, c.kind, []byte(c.body))
		if c.wrong != "" {
			require.ErrorContains(t, err, c.wrong, name)
			continue
		}
		require.NoError(t, err, name)
		require.Equal(t, c.want, got, name)
	}
	long, err := json.Marshal(map[string]string{"id": "7", "from": "+4722855050", "text": strings.Repeat("ø", 30_000)})
	require.NoError(t, err)
	got, err := Read(g, "application/json", long)
	require.NoError(t, err)
	require.LessOrEqual(t, len(got.Texts[0].Text), MaxText+10)
	require.True(t, strings.HasSuffix(got.Texts[0].Text, "ø\n…"), "a very long one is kept as far as there is room")
}

// Whatever is said, reading it ends, and what is taken has what it must have.
func FuzzGateways(f *testing.F) {
	f.Add("application/json", []byte(`[{"id":"7","from":"+1","text":"x","at":"2026-11-24T09:41:00Z"},{"id":"8","status":"failed"}]`))
	f.Add("application/x-www-form-urlencoded", []byte("id=1&from=2&text=3"))
	f.Fuzz(func(t *testing.T, kind string, body []byte) {
		got, err := Read(texting.Usual(), kind, body)
		if err != nil {
			return
		}
		for _, c := range got.Texts {
			require.NotEmpty(t, c.ID)
			require.NotEmpty(t, c.From)
			require.LessOrEqual(t, len(c.Text), MaxText+10)
			a, _ := texting.Sender(c.From, "NO")
			require.True(t, texting.IsText(a.Address))
			require.NotContains(t, a.Name, "\n")
		}
		for _, r := range got.Receipts {
			require.NotEmpty(t, r.ID)
		}
	})
}
