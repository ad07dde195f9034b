package web

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/desk/teams"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	mailpost "ebbe/internal/post"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// Nothing of a team's box is reached by somebody who is no member, over any route, whoever
// looks after this Ebbe included, nor by a member from their own box, nor by who was a member
// once; and it is the same answer as that of a box there is none of.
func TestNobodyReachesTheMailOfATeam(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	mirela := v.joins("Mirela", "mirela@m.example", "tide lorry crate")
	tomasz := v.joins("Tomasz", "tomasz@m.example", "tide lorry papers")
	ctx := context.Background()
	var made TeamMade
	mirela.gets(200, "POST", "/boxes", object{"name": "Loans"}, &made)
	of := fmt.Sprintf("/in/%d", made.Box)
	in := d.Intake.Begin(ctx, made.Box, intake.Options{Place: inbox.Inbox})
	for i := range 3 {
		require.NoError(t, in.Add(mailpost.Item{Raw: []byte(fmt.Sprintf("From: Ana %[1]s <ana-%[1]s@x.example>\r\nTo: loans@m.example\r\nSubject: The %[1]s %[2]d\r\nMessage-ID: <%[2]d@x.example>\r\n\r\nAbout %[1]s.\r\n", marker, i))}))
	}
	_, err := in.Close()
	require.NoError(t, err)
	mirela.gets(200, "POST", of+"/labels", object{"path": marker}, nil)
	mirela.gets(200, "POST", of+"/follow-ups/new", object{"title": marker, "conversation": 1}, nil)
	_, text := mirela.do("GET", "/api/v1"+of+"/follow-ups", nil)
	uid := regexp.MustCompile(`"uid":"([^"]+)"`).FindStringSubmatch(text)
	require.NotNil(t, uid, text)
	state := func() (all string) {
		for _, path := range []string{"/found?asked=" + marker, "/labels", "/follow-ups?by=date", "/conversations/1", "/history"} {
			res, text := mirela.do("GET", "/api/v1"+of+path, nil)
			require.Equal(t, 200, res.StatusCode, path)
			all += text
		}
		return all
	}
	before := state()
	require.Contains(t, before, marker)
	walk := func(as *visitor, below, whose string, statuses ...int) {
		t.Helper()
		as.walks(d, below, uid[1], whose, statuses...)
		require.Equal(t, before, state(), whose)
	}
	walk(v, of, "whoever looks after this Ebbe", 404)
	walk(tomasz, of, "a stranger", 404)
	walk(tomasz, "", "a stranger, in their own box")
	walk(v, "/in/99", "nobody's box", 404)
	_, is := tomasz.do("GET", "/api/v1"+of+"/inbox", nil)
	_, none := tomasz.do("GET", "/api/v1/in/99/inbox", nil)
	require.Equal(t, none, is, "whether there is such a box is not told")

	id, err := d.People.Called(ctx, "tomasz@m.example")
	require.NoError(t, err)
	mirela.gets(200, "POST", of+"/team/members", object{"person": id.Person, "role": "member"}, nil)
	res, text := tomasz.do("GET", "/api/v1"+of+"/found?asked="+marker, nil)
	require.Equal(t, 200, res.StatusCode)
	require.Contains(t, text, marker)
	before = state()
	events, err := http.NewRequestWithContext(ctx, "GET", v.url+"/api/v1"+of+"/events", nil)
	require.NoError(t, err)
	open, err := tomasz.client.Do(events)
	require.NoError(t, err)
	defer open.Body.Close()
	mirela.gets(200, "POST", of+"/team/members", object{"person": id.Person, "role": ""}, nil)
	_, err = io.ReadAll(open.Body) // what was open ends
	require.NoError(t, err)
	before = state()
	walk(tomasz, of, "somebody who was a member", 404)

	var boxes []teams.BoxView
	tomasz.gets(200, "GET", "/boxes", nil, &boxes)
	require.Equal(t, teams.BoxView{ID: id.Box, Role: together.Own, Here: true, With: []string{}}, boxes[0])
	for _, b := range boxes {
		require.NotEqual(t, made.Box, b.ID)
	}
}

// written ends a request once anything is answered to it.
type written struct {
	*httptest.ResponseRecorder
	end func()
}

func (w written) Write(b []byte) (int, error) { w.end(); return w.ResponseRecorder.Write(b) }

// Somebody who is removed between asking for the events of a team and their beginning gets none:
// nobody would end them.
func TestEventsOfATeamOneHasJustLeft(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	var made TeamMade
	v.gets(200, "POST", "/boxes", object{"name": "Loans"}, &made)
	run, stop := context.WithCancel(context.WithValue(t.Context(), boxKey{}, made.Box+1))
	defer stop()
	w := written{httptest.NewRecorder(), stop}
	c := gin.CreateTestContextOnly(w, gin.New())
	c.Request = httptest.NewRequestWithContext(run, "GET", "/api/v1/events", nil)
	at, err := url.Parse(v.url)
	require.NoError(t, err)
	for _, k := range v.client.Jar.Cookies(at) {
		c.Request.AddCookie(k)
	}
	was, err := d.People.Called(run, "solvei@m.example")
	require.NoError(t, err)
	was.Box = made.Box + 1
	c.Set("who", was) // as it was when it was asked
	(&server{d: d}).events(c)
	require.Equal(t, 404, w.Code)
	require.NotContains(t, w.Body.String(), "hello")
}

// What holds for all of a team is changed by those who look after it alone: the others are
// told so, and nothing is changed.
func TestWhatMembersMayNotDo(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	mirela := v.joins("Mirela", "mirela@m.example", "tide lorry crate")
	ctx := context.Background()
	who, err := d.People.Called(ctx, "mirela@m.example")
	require.NoError(t, err)
	var made TeamMade
	v.gets(200, "POST", "/boxes", object{"name": "Loans"}, &made)
	of := fmt.Sprintf("/in/%d", made.Box)
	v.gets(200, "POST", of+"/team/members", object{"person": who.Person, "role": "member"}, nil)
	for _, ask := range []struct {
		method, path string
		body         object
	}{
		{"PUT", "/accounts", object{"address": "loans@m.example"}}, {"POST", "/accounts/1/drop", object{}}, {"POST", "/accounts/1/vanished", object{}}, {"POST", "/accounts/test", object{"address": "loans@m.example"}},
		{"PATCH", "/settings", object{"addresses": []string{"loans@m.example"}}},
		{"PUT", "/rules", object{"words": "from x: archive"}}, {"POST", "/rules/1/drop", object{}}, {"POST", "/rules/order", object{}}, {"POST", "/rules/1/undo", object{}}, {"POST", "/rules/offers/1/refuse", object{}},
		{"PUT", "/delivery/plans", object{}}, {"POST", "/delivery/use", object{}}, {"POST", "/delivery/plans/x/drop", object{}}, {"PUT", "/delivery/streams", object{}}, {"POST", "/delivery/streams/x/drop", object{}}, {"PUT", "/delivery/through", object{}}, {"POST", "/delivery/through/x/drop", object{}}, {"PUT", "/delivery/choices", object{}}, {"POST", "/delivery/hand", object{}},
		{"POST", "/team/members", object{"person": 1, "role": "member"}}, {"POST", "/team/members", object{"person": 1, "role": ""}},
		{"POST", "/team/name", object{"name": "Mine"}}, {"POST", "/team/names", object{"keep": false}}, {"POST", "/team/end", object{"name": "Loans"}},
	} {
		res, text := mirela.do(ask.method, "/api/v1"+of+ask.path, ask.body)
		if res.StatusCode == 404 && strings.Contains(text, "nothing at this address") {
			t.Fatal(ask.path, " is no route")
		}
		require.Equal(t, 403, res.StatusCode, "%s %s: %s", ask.method, ask.path, text)
		require.Contains(t, text, "look after this team")
	}
	var team teams.TeamView
	mirela.gets(200, "GET", of+"/team", nil, &team)
	require.Equal(t, []any{"Loans", together.Member, 2, 0, true}, []any{team.Name, team.Role, len(team.Members), len(team.Others), team.Names})
	mirela.gets(200, "POST", of+"/team/members", object{"person": who.Person, "role": ""}, nil) // but leave they may
	mirela.gets(404, "GET", of+"/team", nil, nil)
}

// A box that is somebody's own is asked of by its number as well, by nobody else.
func TestABoxByItsNumber(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	mirela := v.joins("Mirela", "mirela@m.example", "tide lorry crate")
	who, err := d.People.Called(context.Background(), "mirela@m.example")
	require.NoError(t, err)
	of := fmt.Sprintf("/in/%d/inbox", who.Box)
	mirela.gets(200, "GET", of, nil, nil)
	v.gets(404, "GET", of, nil, nil)
	require.NoError(t, v.store.Read(context.Background(), func(tx store.Tx) error {
		s, err := membership.Membership(tx).In(who.Person, who.Box)
		require.NoError(t, err)
		require.Equal(t, together.Own, s.Role)
		_, err = identity.Boxes{Directory: d.People}.In(context.Background(), who, 1)
		require.ErrorIs(t, err, store.ErrNotFound)
		return nil
	}))
}
