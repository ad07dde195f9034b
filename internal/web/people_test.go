package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/netip"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	mailpost "ebbe/internal/post"
)

// another is a browser of its own, at the same Ebbe.
func (v *visitor) another() *visitor {
	jar, err := cookiejar.New(nil)
	require.NoError(v.t, err)
	return &visitor{t: v.t, url: v.url, client: &http.Client{Jar: jar}, store: v.store}
}

// gets asks and reads what is answered.
func (v *visitor) gets(status int, method, path string, body, into any) {
	v.t.Helper()
	res, text := v.do(method, "/api/v1"+path, body)
	require.Equal(v.t, status, res.StatusCode, "%s %s: %s", method, path, text)
	if into != nil {
		require.NoError(v.t, json.Unmarshal([]byte(text), into))
	}
}

// enters takes the token of the session that a browser has begun.
func (v *visitor) enters() Session {
	v.t.Helper()
	var s Session
	v.gets(200, "GET", "/session", nil, &s)
	require.Equal(v.t, "in", s.State)
	v.token = s.CSRF
	return s
}

// joins is somebody who was invited and has come in.
func (v *visitor) joins(name, address, password string) *visitor {
	v.t.Helper()
	var invitation InvitationToken
	v.gets(200, "POST", "/invitations", object{"name": name, "address": address}, &invitation)
	m := v.another()
	var entered Entered
	m.gets(200, "POST", "/join", object{"token": invitation.Token, "name": name, "password": password, "zone": "UTC"}, &entered)
	require.Len(v.t, entered.Codes, 10)
	require.Equal(v.t, address, m.enters().Address)
	return m
}

const marker = "quartzlantern"

// walks has somebody ask for every route there is, below a path, with the IDs of mail that says
// the marker: nowhere is it told, and where statuses are given, none is answered with another.
func (v *visitor) walks(d *desk.Desk, below, uid, whose string, statuses ...int) {
	t := v.t
	t.Helper()
	body := object{"id": 1, "conversation": 1, "conversations": []int64{1, 2, 3}, "message": 1, "messages": []int64{1}, "kind": "archive", "uid": uid, "uids": []string{uid}, "address": "ana-" + marker + "@x.example", "name": "x", "label": 1, "labels": []int64{1}, "title": "x", "what": "messages", "asked": marker, "text": marker, "person": 1, "role": "member"}
	asked := 0
	for _, route := range engine(d, Options{}).Routes() {
		path, ok := strings.CutPrefix(route.Path, "/api/v1")
		if !ok || open[route.Path] || path == "/events" || path == "/sign-out" || strings.HasPrefix(path, "/sessions") || strings.HasPrefix(path, "/password") || strings.HasPrefix(path, "/others/") || path == "/leave" {
			continue
		}
		path = strings.NewReplacer(":id", "1", ":n", "0", ":uid", uid, ":message", "1", ":template", "1", "*mid", "0@x.example", "*cid", "0@x.example").Replace(path)
		res, text := v.do(route.Method, "/api/v1"+below+path+"?asked=the&conversation=1&address=ana-"+marker+"@x.example&ids=1,2,3&name=ana", body)
		asked++
		require.Less(t, res.StatusCode, 500, "%s %s for %s: %s", route.Method, path, whose, text)
		if len(statuses) > 0 {
			require.Contains(t, statuses, res.StatusCode, "%s %s for %s: %s", route.Method, path, whose, text)
		}
		text = strings.ReplaceAll(text, "ana-"+marker+"@x.example", "") // as was asked
		require.NotContains(t, text, marker, "%s %s for %s", route.Method, path, whose)
	}
	require.Greater(t, asked, 150)
}

// Somebody else in the same Ebbe, whether they look after it or not, reaches nothing of a
// person's mail over any route there is, and changes nothing of it; nor does whoever was
// there once.
func TestNobodyReachesTheMailOfAnother(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	member := v.joins("Mirela", "mirela@m.example", "tide lorry crate")
	other := v.joins("Tomasz", "tomasz@m.example", "tide lorry papers")
	ctx := context.Background()
	who, err := d.People.Called(ctx, "mirela@m.example")
	require.NoError(t, err)
	in := d.Intake.Begin(ctx, who.Box, intake.Options{Place: inbox.Inbox})
	for i := range 3 {
		require.NoError(t, in.Add(mailpost.Item{Raw: []byte(fmt.Sprintf("From: Ana %[1]s <ana-%[1]s@x.example>\r\nTo: mirela@m.example\r\nSubject: The %[1]s %[2]d\r\nMessage-ID: <%[2]d@x.example>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nAbout %[1]s.\r\n--b\r\nContent-Type: text/plain\r\nContent-Disposition: attachment; filename=%[1]s.txt\r\n\r\n%[1]s\r\n--b--\r\n", marker, i))}))
	}
	_, err = in.Close()
	require.NoError(t, err)
	member.gets(200, "POST", "/labels", object{"path": marker}, nil)
	member.gets(200, "POST", "/follow-ups/new", object{"title": marker, "conversation": 1}, nil)
	_, text := member.do("GET", "/api/v1/follow-ups", nil)
	uid := regexp.MustCompile(`"uid":"([^"]+)"`).FindStringSubmatch(text)
	require.NotNil(t, uid, text)
	res, text := member.do("GET", "/api/v1/found?asked="+marker, nil)
	require.Equal(t, 200, res.StatusCode)
	require.Contains(t, text, marker)
	state := func() (all string) { // what she sees of her own
		for _, path := range []string{"/found?asked=" + marker, "/labels", "/follow-ups?by=date", "/conversations/1", "/history"} {
			res, text := member.do("GET", "/api/v1"+path, nil)
			require.Equal(t, 200, res.StatusCode, path)
			all += text
		}
		return all
	}
	before := state()
	walk := func(as *visitor, whose string, statuses ...int) {
		as.walks(d, "", uid[1], whose, statuses...)
		require.Equal(t, before, state(), whose)
	}
	walk(other, "another member")
	walk(v, "whoever looks after them")
	wrong, _, err := d.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)

	tomasz, err := d.People.Called(ctx, "tomasz@m.example")
	require.NoError(t, err)
	v.gets(200, "POST", fmt.Sprintf("/others/%d", tomasz.Person), object{"paused": true}, nil)
	walk(other, "somebody who is paused", 401)

	var said Said // and when he has left, and come again as somebody else
	v.gets(200, "POST", fmt.Sprintf("/others/%d", tomasz.Person), object{"paused": false}, nil)
	other.gets(200, "POST", "/sign-in", object{"address": "tomasz@m.example", "password": "tide lorry papers"}, nil)
	other.enters()
	v.gets(200, "POST", fmt.Sprintf("/others/%d/send", tomasz.Person), object{"days": 0}, &said)
	require.Contains(t, said.Text, "leaves now")
	walk(other, "somebody who has left", 401)
	_, err = d.Leaving.Remove(ctx)
	require.NoError(t, err)
	walk(other, "somebody who was removed", 401)
	walk(v.joins("Tomasz", "tomasz@m.example", "tide lorry papers"), "somebody who came again")
}

// What is said of how one signs in: sessions, names, codes, and who else is there.
func TestHowOneSignsIn(t *testing.T) {
	v, _ := visit(t)
	v.setUp()
	m := v.joins("Mirela", "mirela@m.example", "tide lorry crate")
	var seen identity.Security
	m.gets(200, "GET", "/security", nil, &seen)
	require.Len(t, seen.Sessions, 1)
	require.True(t, seen.Sessions[0].Here)
	m.gets(200, "POST", "/sessions/end", object{}, nil)
	m.gets(200, "POST", "/name", object{"name": "Mirela Dossett"}, nil)
	require.Equal(t, "Mirela Dossett", m.enters().Name)
	var offer identity.CodeSetup
	m.gets(200, "POST", "/codes/offer", object{}, &offer)
	m.gets(422, "POST", "/codes", object{"password": "tide lorry crate", "secret": offer.Secret, "code": "no"}, nil)
	m.gets(200, "POST", "/codes/drop", object{"password": "tide lorry crate"}, nil)
	var codes RecoveryCodes
	m.gets(200, "POST", "/recovery-codes", object{"password": "tide lorry crate"}, &codes)
	require.Len(t, codes.Codes, 10)
	m.gets(403, "GET", "/others", nil, nil)
	m.gets(403, "POST", "/invitations", object{"name": "A", "address": "a@m.example"}, nil)

	second := m.another()
	second.gets(200, "POST", "/sign-in", object{"address": "mirela@m.example", "password": "tide lorry crate"}, nil)
	second.enters()
	m.gets(200, "POST", "/password", object{"password": "tide lorry crate", "fresh": "papers lorry crate"}, nil)
	second.gets(401, "GET", "/security", nil, nil)
	m.gets(200, "GET", "/security", nil, nil)
	second.gets(200, "POST", "/recover", object{"address": "mirela@m.example", "code": codes.Codes[3], "password": "tide lorry crate"}, nil)
	m.gets(401, "GET", "/security", nil, nil)
	var entered Entered
	second.gets(200, "POST", "/sign-in", object{"address": "mirela@m.example", "password": "tide lorry crate"}, &entered)
	require.Contains(t, entered.Tell, "recovery codes")

	var all identity.Others
	v.gets(200, "POST", "/invitations", object{"name": "A", "address": "a@m.example"}, nil)
	v.gets(200, "GET", "/others", nil, &all)
	require.Len(t, all.Invitations, 1)
	v.gets(200, "POST", "/invitations/take-back", object{"id": all.Invitations[0].ID}, nil)
	require.Len(t, all.People, 2)
	v.gets(409, "POST", fmt.Sprintf("/others/%d", all.People[0].ID), object{"paused": true}, nil)
	v.another().gets(410, "POST", "/invited", object{"token": "guess"}, nil)
}

// Streams of events end with the session they belong to.
func TestEventsEndWithTheSession(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	res, err := v.client.Get(v.url + "/api/v1/events")
	require.NoError(t, err)
	defer res.Body.Close()
	first := make([]byte, 11)
	_, err = res.Body.Read(first)
	require.NoError(t, err)
	who, err := d.People.Called(context.Background(), "solvei@m.example")
	require.NoError(t, err)
	require.NoError(t, d.People.EndSession(context.Background(), who, "", "of another browser"))
	rest := make([]byte, 1<<10)
	for err == nil {
		_, err = res.Body.Read(rest)
	}
	require.ErrorContains(t, err, "EOF")
}

// By TLS, or behind a proxy that says so, cookies go by TLS alone, and whoever asks is whom
// the proxy names; what anybody else says of that counts for nothing.
func TestBehindAProxy(t *testing.T) {
	_, d := visit(t)
	require.NoError(t, d.SetUp(context.Background(), identity.Signup{Name: "Solvei", Address: "solvei@m.example", Password: "long enough", Zone: "UTC"}))
	h := Handler(d, Options{Behind: []netip.Prefix{netip.MustParsePrefix("10.1.0.0/16")}})
	for from, want := range map[string]bool{"10.1.2.3:4000": true, "[::ffff:10.1.2.3]:4000": true, "10.2.2.3:4000": false} {
		r, w := request("POST", "/api/v1/sign-in", `{"address":"solvei@m.example","password":"long enough"}`)
		r.RemoteAddr = from
		r.Header.Set("X-Forwarded-For", "192.0.2.7")
		r.Header.Set("X-Forwarded-Proto", "https")
		h.ServeHTTP(w, r)
		require.Equal(t, 200, w.Code, w.Body)
		for _, c := range w.Result().Cookies() {
			require.Equal(t, want, c.Secure, from)
		}
		require.Equal(t, want, w.Header().Get("Strict-Transport-Security") != "", from)
	}
	who, err := d.People.Called(context.Background(), "solvei@m.example")
	require.NoError(t, err)
	seen, err := d.People.Security(context.Background(), who, "", identity.Site{})
	require.NoError(t, err)
	origins := map[string]int{}
	for _, s := range seen.Sessions {
		origins[s.Origin]++
	}
	require.Equal(t, map[string]int{"192.0.2.7": 2, "10.2.2.3": 1}, origins)
}

// Whoever watches over the program asks without signing in and hears no more than that it
// is well.
func TestHealth(t *testing.T) {
	v, d := visit(t)
	res, text := v.do("GET", "/healthz", nil)
	require.Equal(t, 200, res.StatusCode)
	require.Equal(t, "well\n", text)
	r, w := request("GET", "/healthz", "")
	over, end := context.WithCancel(context.Background())
	end() // as where the data does not answer
	Handler(d, Options{}).ServeHTTP(w, r.WithContext(over))
	require.Equal(t, 503, w.Code)
}
