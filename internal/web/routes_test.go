package web

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	mailpost "ebbe/internal/post"
	"ebbe/internal/post/filetext"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

type object = map[string]any

const invitation = "From: Grete <grete@x.example>\r\nTo: solvei@m.example\r\nSubject: Talk\r\nMessage-ID: <talk@x.example>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=B\r\n\r\n" +
	"--B\r\nContent-Type: text/html\r\n\r\n<p>Come on <b>Friday</b> <img src=\"cid:pic@x\"></p>\r\n--B\r\nContent-Type: text/calendar; method=REQUEST\r\n\r\nBEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REQUEST\r\nBEGIN:VEVENT\r\nUID:talk-1\r\nSUMMARY:Talk\r\nDTSTART:20301126T090000Z\r\nDTEND:20301126T100000Z\r\nDTSTAMP:20261124T090000Z\r\nORGANIZER:mailto:grete@x.example\r\nATTENDEE:mailto:solvei@m.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n" +
	"--B\r\nContent-Type: image/png\r\nContent-ID: <pic@x>\r\nContent-Disposition: inline\r\nContent-Transfer-Encoding: base64\r\n\r\niVBORw0KGgo=\r\n--B\r\nContent-Type: text/plain; name=list.txt\r\nContent-Disposition: attachment; filename=list.txt\r\n\r\nthe list\r\n--B--\r\n"

// Each request of the screens, in an order in which what it needs is there: what
// it answers, and in which status. No route is left out.
func TestEveryRouteAnswers(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	d.Files.Reads = func(_ context.Context, name, kind string, content []byte) (string, error) {
		return filetext.Read(name, kind, content)
	}
	in := d.Intake.Begin(context.Background(), 1, intake.Options{})
	for _, raw := range []string{invitation,
		"From: Jonas <jonas@x.example>\r\nTo: solvei@m.example\r\nSubject: Crate\r\nMessage-ID: <crate@x.example>\r\nDisposition-Notification-To: jonas@x.example\r\n\r\nCan you sign for it by Friday?\r\n",
		"From: Jonas <jonas@x.example>\r\nTo: solvei@m.example\r\nSubject: Lorry\r\nMessage-ID: <lorry@x.example>\r\n\r\nOn Monday.\r\n",
		"From: Tides <tides@l.example>\r\nTo: readers@l.example\r\nSubject: Weekly\r\nList-Id: <l.example>\r\nList-Unsubscribe: <mailto:leave@l.example>\r\nMessage-ID: <weekly@l.example>\r\n\r\nHigh at nine.\r\n"} {
		require.NoError(t, in.Add(mailpost.Item{Raw: []byte(raw)}))
	}
	_, err := in.Close()
	require.NoError(t, err)
	covered := map[string]bool{}
	routes := map[string]*regexp.Regexp{}
	for _, r := range engine(d, Options{}).Routes() {
		if strings.HasPrefix(r.Path, "/api/v1") {
			routes[r.Method+" "+r.Path] = regexp.MustCompile("^" + regexp.MustCompile(`:\w+`).ReplaceAllString(regexp.MustCompile(`\*\w+`).ReplaceAllString(r.Path, ".*"), "[^/]+") + "$")
		}
	}
	key := 0
	call := func(status int, method, path string, body any, header ...string) string {
		t.Helper()
		key++
		res, text := v.do(method, "/api/v1"+path, body, append([]string{keyHeader, fmt.Sprint("k", key)}, header...)...)
		require.Equal(t, status, res.StatusCode, "%s %s: %s", method, path, text)
		plain, _, _ := strings.Cut("/api/v1"+regexp.MustCompile(`^/in/\d+`).ReplaceAllString(path, ""), "?")
		best := ""
		for name, form := range routes {
			if strings.HasPrefix(name, method+" ") && form.MatchString(plain) && (best == "" || strings.Count(name, ":") < strings.Count(best, ":")) {
				best = name
			}
		}
		covered[best] = true
		if strings.HasPrefix(res.Header.Get("Content-Type"), "application/json") {
			require.True(t, json.Valid([]byte(text)), "%s: %s", path, text)
		}
		return text
	}
	id := func(text string) int64 {
		t.Helper()
		var x struct{ ID, Entry int64 }
		require.NoError(t, json.Unmarshal([]byte(text), &x))
		require.NotZero(t, cmp.Or(x.ID, x.Entry), text)
		return cmp.Or(x.ID, x.Entry)
	}
	with := func(status int, method, path string, body any, want string) {
		t.Helper()
		require.Contains(t, call(status, method, path, body), want, path)
	}
	soon := object{"at": time.Now().Add(48 * time.Hour).UnixMilli()}

	with(200, "GET", "/conversations/1", nil, `"uid":"talk-1"`)
	var ahead map[int64]struct{ Slip struct{ ID int64 } }
	require.NoError(t, json.Unmarshal([]byte(call(200, "GET", "/conversations?ids=1,999999,2", nil)), &ahead))
	require.Len(t, ahead, 2, "what is not there is left out")
	require.EqualValues(t, 1, ahead[1].Slip.ID)
	with(200, "GET", "/messages/1?all=1", nil, `"html":true`)
	with(200, "GET", "/messages/1/body", nil, "<b>Friday</b>")
	with(200, "GET", "/messages/1/original", nil, "BEGIN:VCALENDAR")
	with(200, "GET", "/messages/1/source", nil, `"link":"mid:talk@x.example"`)
	with(200, "GET", "/conversations/1/page", nil, "<b>Friday</b>")
	with(200, "GET", "/conversations/2/text", nil, "From: Jonas <jonas@x.example>")
	call(404, "GET", "/conversations/99/page", nil)
	call(404, "GET", "/conversations/99/text", nil)
	with(200, "GET", "/messages/1/files/1", nil, "the list")
	call(404, "GET", "/messages/1/files/9", nil)
	with(200, "GET", "/messages/1/files/1/look", nil, `"shows":"text"`)
	with(200, "GET", "/messages/1/files/1/page?terms="+url.QueryEscape(`[{"words":["list"]}]`), nil, "the <mark id=p1>list</mark>")
	for _, terms := range []string{"nonsense", `[{"words":[]}]`, `[{}]`, `[{"words":[""]}]`, `[null]`, `{"words":["list"]}`, "[" + strings.Repeat(`{"words":["x"]},`, 5000) + `{"words":["x"]}]`} {
		with(200, "GET", "/messages/1/files/1/page?terms="+url.QueryEscape(terms), nil, "the list")
	}
	call(404, "GET", "/messages/1/files/9/page", nil)
	with(200, "GET", "/conversations/1/files", nil, `"number":1`)
	with(200, "GET", "/files.zip?of=1.1", nil, "PK")
	call(404, "GET", "/files.zip?of=1.1,1.9", nil)
	call(404, "GET", "/files.zip?of=x", nil)
	with(200, "GET", "/pdf-reader", nil, "pdf-reader-")
	call(200, "GET", "/messages/1/images/pic@x", nil)
	with(200, "GET", "/mid/crate@x.example", nil, `"conversation":2`)
	with(200, "GET", "/inbox", nil, `"left":4`)
	with(200, "GET", "/slips?ids=1,2", nil, `"subject":"Crate"`)
	with(200, "GET", "/alike/2", nil, "[3,2]")
	call(200, "GET", "/matching?where=%7B%22unread%22:true%7D", nil)
	with(200, "GET", "/senders", nil, "jonas@x.example")
	with(200, "GET", "/find?where=%7B%22words%22:%22crate%22%7D", nil, `"subject":"Crate"`)
	with(200, "GET", "/found?asked=crat", nil, `"subject":"Crate"`)
	with(200, "GET", "/found/places?asked=crat&from=0", nil, `"kind":"message"`)
	with(200, "GET", "/jump?letters=crat", nil, `"kind":"conversation"`)
	call(200, "POST", "/found/recent", map[string]any{"asked": "crat"})
	with(200, "GET", "/found/recent", nil, `["crat"]`)
	with(422, "GET", "/find?where=nonsense", nil, "could not read")
	for _, path := range []string{"/later", "/presets", "/days", "/misses", "/dayline", "/tide", "/grid", "/history", "/cards", "/settings", "/delivery", "/delivery/heard", "/outbox", "/people?begins=jo", "/drafts", "/templates", "/waiting", "/waiting/unanswered", "/restored", "/accounts", "/inward", "/calendar", "/calendar?day=2030-11-26"} {
		call(200, "GET", path, nil)
	}
	with(200, "GET", "/figures?from=2026-11-23&to=2026-11-29", nil, `"decisions":`)
	with(422, "GET", "/figures?from=soon&to=2026-11-29", nil, "one of these is none")
	with(422, "GET", "/figures?from=2026-11-29&to=2026-11-23", nil, "before the first")
	with(422, "GET", "/figures?from=2020-11-29&to=2026-11-23", nil, "366 days at most")
	with(200, "GET", "/figures/lines?measure=decided&from=2026-11-23&to=2026-11-29", nil, `"lines":[`)
	with(200, "GET", "/figures/notices?from=2026-11-23&to=2026-11-29", nil, `"lines":[]`)
	with(422, "GET", "/figures/notices?from=soon&to=2026-11-29", nil, "one of these is none")
	with(200, "GET", "/figures/answers?from=2026-11-23&to=2026-11-29&by=label", nil, `"begun":`)
	with(422, "GET", "/figures/answers?from=2026-11-23&to=2026-11-29&by=luck", nil, "by person, domain, project or label")
	with(200, "GET", "/figures/answers/lines?from=2026-11-23&to=2026-11-29&own=1", nil, `"lines":[`)
	with(422, "GET", "/figures/answers/lines?from=2026-11-23&to=2026-11-29&after=x", nil, "That page of answers is none")
	with(200, "GET", "/figures/ahead?off=2026-11-27", nil, `"proofs":`)
	with(422, "GET", "/figures/ahead?off=friday", nil, "one of these is none")
	with(200, "GET", "/figures/aged?group=0", nil, `"lines":`)
	with(200, "GET", "/figures/aged?group=5&of=open", nil, `"lines":`)
	with(422, "GET", "/figures/aged?group=6", nil, "no such number")
	with(200, "PUT", "/dig", object{"tens": 3}, "")
	with(422, "PUT", "/dig", object{"tens": 99}, "pieces of ten minutes")
	with(200, "GET", "/dig", nil, `"tens":3`)
	with(200, "PUT", "/dig", object{"tens": 0}, "")
	with(200, "GET", "/review", nil, `"offers":[`)
	with(200, "PUT", "/review/at", object{"days": 32, "minute": 900}, "")
	with(422, "PUT", "/review/at", object{"days": 32, "minute": 9000}, "")
	with(200, "POST", "/review/looked", object{}, "")
	with(404, "POST", "/review/refuse", object{"key": "leave x"}, "")
	with(404, "POST", "/review/take", object{"key": "leave x"}, "")
	with(200, "GET", "/figures/people", nil, `"rows":[`)
	with(200, "GET", "/figures/day?date=2026-11-24", nil, `"weeks":`)
	with(422, "GET", "/figures/lines?measure=luck&from=2026-11-23&to=2026-11-29", nil, "no such number")
	if _, err := fs.Stat(dist, "dist/notices.json"); err == nil {
		with(200, "GET", "/notices", nil, "gorm.io/gorm")
	} else { // they are put together by the build
		with(404, "GET", "/notices", nil, "make build")
	}
	with(200, "GET", "/when?phrase=fri+10", nil, `"sentence"`)
	with(200, "GET", "/when/examples", nil, `"phrase":"next fri"`)
	with(422, "GET", "/calendar?day=never", nil, "no day")
	with(200, "POST", "/looks/2", object{}, `"entry"`)
	with(200, "POST", "/noted", object{"readings": []object{{"conversation": 2, "message": 2, "at": time.Now().UnixMilli(), "seconds": 7, "whole": true}, {"conversation": 99, "seconds": 3}}, "notices": []object{{"at": 1, "text": "Reminder: ring"}, {"text": ""}}}, "{}")

	with(200, "POST", "/labels", object{"path": "loans / leg two"}, `"path":"loans / leg two"`)
	with(200, "PUT", "/labels", object{"id": 2, "parent": 1, "name": "leg 2", "color": "tide", "mark": "dot"}, "is called “leg 2” now")
	with(422, "PUT", "/labels", object{"id": 2, "name": "a/b", "color": "tide", "mark": "dot"}, "without slashes")
	with(200, "GET", "/labels", nil, "leg 2")
	with(200, "GET", "/learned", nil, `"proof":{"pairs":0`)
	with(200, "GET", "/rules/read?words=newsletters:+archive", nil, `"means":"is from a list"`)
	with(200, "GET", "/subscriptions", nil, "[")
	with(200, "GET", "/rules/like/1", nil, `"words":"from `)
	with(422, "PUT", "/rules", object{"words": "newsletters", "mode": "on"}, "after a colon")
	with(200, "PUT", "/rules", object{"words": "newsletters: archive", "mode": "on"}, "Saved.")
	with(200, "GET", "/rules", nil, `"called":"newsletters: archive"`)
	with(404, "POST", "/conversations/99/never", object{}, "")
	with(200, "GET", "/rules/offers", nil, `[`)
	with(200, "GET", "/combos/file", nil, `ebbe-combos-1`)
	with(200, "POST", "/combos/file", object{"file": `{"format":"ebbe-combos-1","combos":[{"name":"a","steps":[{"kind":"star"}]}]}`}, `"name":"a"`)
	with(422, "POST", "/combos/file", object{"file": "{}"}, "Nothing was read: that is no file of combos")
	with(200, "GET", "/rules/sieve", nil, `"left":[]`)
	with(200, "POST", "/rules/sieve", object{"script": "if size :over 2M { discard; }"}, `"words":"larger than 2048 kB: bin"`)
	with(422, "POST", "/rules/sieve", object{"script": "keep"}, "Nothing was read: the script ends")
	with(404, "POST", "/subscriptions/bin", object{"conversations": []int{99}}, "")
	with(404, "POST", "/rules/offers/99/refuse", object{}, "")
	with(200, "GET", "/facts", nil, "[")
	with(200, "PUT", "/person/note", object{"address": "Jonas@x.example", "text": "Likes mornings"}, "")
	with(200, "GET", "/person?address=jonas@x.example", nil, `"remark":"Likes mornings"`)
	with(200, "PUT", "/person/note", object{"address": "jonas@x.example", "text": " "}, "")
	with(200, "GET", "/person?address=jonas@x.example", nil, `"remark":""`)
	with(422, "PUT", "/person/note", object{"address": "Jonas", "text": "x"}, "this is none")
	with(422, "PUT", "/person/note", object{"address": "jonas@x.example", "text": strings.Repeat("x", 10_001)}, "What was there before stays")
	with(200, "GET", "/person?address=Jonas@x.example", nil, `"address":"jonas@x.example"`)
	with(200, "GET", "/person/files?address=jonas@x.example", nil, `"of":"`)
	with(200, "GET", "/person?address="+url.QueryEscape(strings.Repeat("é", 9000)), nil, `"lines":[]`)
	with(200, "GET", "/junk", nil, `"count":0`)
	with(200, "GET", "/junk/figures", nil, `"degree":"careful"`)
	with(200, "GET", "/conversations/1/block", nil, `"domain":`)
	with(404, "POST", "/conversations/99/block", object{}, "")
	with(200, "POST", "/conversations/1/block", object{}, "Blocked: ")
	with(200, "POST", "/take-back", object{}, "")
	with(200, "GET", "/conversations/1/streams", nil, `"scope":"one"`)
	with(404, "GET", "/conversations/99/streams", nil, "")
	with(200, "POST", "/conversations/1/stream", object{"stream": "machines", "scope": "one"}, "newsletters and notices")
	with(200, "GET", "/lessons", nil, `"kept":[{`)
	with(200, "POST", "/conversations/1/stream/forget", object{}, "Removed")
	with(422, "POST", "/conversations/1/stream", object{"stream": "none", "scope": "one"}, "has been deleted")
	with(200, "POST", "/rules/order", object{"ids": []int{1}}, "")
	with(200, "GET", "/rules/1/did", nil, "[]")
	with(200, "POST", "/rules/1/undo", object{}, "nothing left to take back")
	with(200, "POST", "/rules/1/drop", object{}, "Deleted")
	with(200, "POST", "/labels/2/drop", object{}, "is deleted")
	place := id(call(200, "PUT", "/places", object{"name": "the quay"}))
	call(200, "GET", "/places", nil)
	with(200, "POST", fmt.Sprintf("/places/%d/here", place), object{}, "You are at the quay")
	with(200, "POST", fmt.Sprintf("/places/%d/drop", place), object{}, "is deleted")
	call(200, "PUT", "/lists", object{"name": "Unread", "query": object{"unread": true}})
	with(200, "GET", "/lists", nil, "Unread")
	call(200, "POST", "/lists/1/drop", object{})
	with(200, "POST", "/sitting", object{"order": "oldest", "minutes": 10}, `"total":4`)
	with(200, "GET", "/sitting", nil, `"total":4`)
	call(200, "POST", "/sitting/longer", object{"minutes": 5})
	call(200, "POST", "/sitting/end", object{})

	with(200, "POST", "/decisions", object{"kind": "star", "conversations": []int64{3}}, "Starred")
	entry := id(call(200, "POST", "/decisions", object{"kind": "archive", "conversations": []int64{3}}))
	with(200, "POST", fmt.Sprintf("/entries/%d/take-back", entry), object{}, "Taken back")
	call(200, "POST", "/again", object{})
	with(200, "POST", "/take-back", object{}, `"left":4`)
	with(200, "POST", "/conversations/join", object{"conversations": []int64{2, 3}}, "Joined")
	with(200, "POST", "/conversations/2/part", object{"messages": []int64{3}}, "Parted")
	with(422, "POST", "/messages/1/whole", object{}, "without access to the network")
	with(422, "POST", "/messages/2/receipt", object{}, "no account")

	call(200, "GET", "/follow-ups?by=date", nil)
	with(422, "GET", "/follow-ups?filter=nonsense", nil, "could not read")
	call(200, "GET", "/follow-ups/group?by=date&key=later", nil)
	call(422, "GET", "/follow-ups/group?filter=nonsense", nil)
	call(200, "GET", "/follow-ups/one-by-one", nil)
	call(422, "GET", "/follow-ups/one-by-one?filter=nonsense", nil)
	for _, path := range []string{"/follow-ups/closing", "/follow-ups/log", "/follow-ups/settings", "/follow-ups/proposal/2", "/calendar/times/2", "/conversations/2/answers"} {
		call(200, "GET", path, nil)
	}
	with(200, "POST", "/follow-ups/line", object{"line": "ring the mover / fri 10"}, "ring the mover")
	with(200, "POST", "/follow-ups/new", object{"title": "Ring the mover", "due": soon}, "Written down")
	var list struct {
		Groups []struct{ FollowUps []struct{ UID string } }
	}
	require.NoError(t, json.Unmarshal([]byte(call(200, "GET", "/follow-ups?by=date", nil)), &list))
	uid := ""
	for _, g := range list.Groups {
		for _, f := range g.FollowUps {
			uid = f.UID
		}
	}
	with(200, "GET", "/follow-ups/one?uid="+uid, nil, "Ring the mover")
	with(200, "POST", "/follow-ups/steps", object{"kind": "finish", "uids": []string{uid}}, "Finished")
	call(200, "POST", "/follow-ups/closed", object{})
	call(200, "POST", "/cards/put-away", object{})
	with(200, "PATCH", "/settings", object{"followUp": object{"keep": true}}, "Finishing leaves the conversation")
	with(200, "GET", "/export/ebbe.ics", nil, "BEGIN:VCALENDAR")
	with(200, "GET", "/export/follow-ups.csv", nil, "Ring the mover")
	with(200, "POST", "/calendar/events", object{"event": object{"title": "Loading", "start": soon, "remind": 15}}, "In the calendar")
	with(200, "POST", "/calendar/invitations/1", object{"uid": "talk-1", "answer": calendar.Yes}, "Accepted")
	with(200, "POST", "/calendar/steps", object{"uid": "talk-1", "kind": inbox.DropEvent}, "Taken out")
	var feed struct{ Feed string }
	require.NoError(t, json.Unmarshal([]byte(call(200, "POST", "/feed", object{})), &feed))
	_, ics := v.do("GET", "/feed/"+feed.Feed, nil)
	require.Contains(t, ics, "Ring the mover")
	gone, _ := v.do("GET", "/feed/guess", nil)
	require.Equal(t, 404, gone.StatusCode)
	require.Contains(t, v.send("/calendar/file", "text/calendar", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VTODO\r\nUID:file-1\r\nSUMMARY:From a file\r\nEND:VTODO\r\nEND:VCALENDAR\r\n"), "1 follow-up")
	covered["POST /api/v1/calendar/file"] = true

	var plan object
	var overview struct{ Offers []object }
	require.NoError(t, json.Unmarshal([]byte(call(200, "GET", "/delivery", nil)), &overview))
	plan = overview.Offers[0]
	call(200, "POST", "/delivery/preview", object{"plan": plan})
	var put struct{ ID string }
	require.NoError(t, json.Unmarshal([]byte(call(200, "PUT", "/delivery/plans", object{"plan": plan, "use": true})), &put))
	call(422, "POST", "/delivery/plans/"+put.ID+"/drop", object{})
	call(422, "PUT", "/delivery/streams", object{"name": "", "along": "people"})
	var stream struct{ ID string }
	require.NoError(t, json.Unmarshal([]byte(call(200, "PUT", "/delivery/streams", object{"name": "Choir", "along": "people"})), &stream))
	call(200, "POST", "/delivery/streams/"+stream.ID+"/drop", object{})
	call(200, "POST", "/delivery/use", object{"plan": ""})
	call(200, "POST", "/delivery/plans/"+put.ID+"/drop", object{})
	call(200, "PUT", "/delivery/through", object{"id": "g", "by": "sender", "value": "jonas@x.example"})
	call(200, "POST", "/delivery/through/g/drop", object{})
	call(200, "PUT", "/delivery/choices", object{"counted": true, "notify": object{"people": []any{}}})
	with(200, "POST", "/delivery/hand", object{"mode": "hold"}, "Held by hand")
	with(422, "POST", "/delivery/look", object{"words": ""}, "Name a sender")
	call(200, "POST", "/delivery/look", object{"words": "crate"})
	with(200, "POST", "/delivery/let-in", object{"all": true}, "Nothing is held")

	draft := id(call(200, "POST", "/drafts", object{"mode": "reply", "message": 2}))
	path := fmt.Sprintf("/drafts/%d", draft)
	call(200, "PUT", path, object{"to": []object{{"address": "jonas@x.example"}}, "subject": "Re: Crate", "text": "Yes, **Friday**.", "rich": true})
	with(200, "GET", path, nil, "Re: Crate")
	with(200, "GET", path+"/preview", nil, "<strong>Friday</strong>")
	require.Contains(t, v.send(path+"/files?name=list.txt", "application/octet-stream", "the list"), "list.txt")
	covered["POST /api/v1/drafts/:id/files"] = true
	with(200, "POST", path+"/attach", object{"files": []object{{"message": 1, "number": 1}}}, `"name":"`)
	call(200, "POST", path+"/files/1/drop", object{})
	template := id(call(200, "PUT", "/templates", object{"name": "Thanks", "text": "Thank you, [name]."}))
	with(200, "GET", fmt.Sprintf("%s/template/%d", path, template), nil, "Thank you")
	call(200, "POST", fmt.Sprintf("/templates/%d/drop", template), object{})
	with(422, "POST", path+"/send", object{"then": "archive"}, "no account")
	call(200, "POST", path+"/drop", object{})
	call(404, "GET", path, nil)
	call(404, "POST", "/outbox/99/settle", object{"again": true})
	call(404, "POST", "/waiting/unanswered/99/leave", object{})
	call(200, "POST", "/waiting/unanswered/2/leave", object{})
	call(200, "GET", "/conversations/4/leave", nil)
	with(422, "POST", "/conversations/4/leave", object{}, "no account")

	with(422, "GET", "/accounts/servers?address=solvei@m.example", nil, "without access")
	with(422, "POST", "/accounts/test", object{"address": "solvei@m.example"}, "without access")
	with(422, "PUT", "/accounts", object{"address": "solvei@m.example"}, "without access")
	call(404, "POST", "/accounts/7/drop", object{})
	call(404, "POST", "/accounts/7/vanished", object{"follow": true})
	with(422, "POST", "/restored", object{"what": "nonsense"}, "does not know")
	with(200, "POST", "/inward", object{}, `"key"`)
	var mine object
	require.NoError(t, json.Unmarshal([]byte(call(200, "GET", "/settings", nil)), &mine))
	with(200, "PATCH", "/settings", mine, `"entry":0`)
	mine["theme"] = "purple"
	with(422, "PATCH", "/settings", mine, "light, dark")
	call(404, "POST", "/demo/clock", object{"to": "hour"})
	with(400, "POST", "/decisions", "no object", "could not read this request")

	with(200, "GET", "/security", nil, `"here":true`)
	call(200, "POST", "/sessions/end", object{"id": "none"})
	call(200, "POST", "/name", object{"name": "Solvei"})
	with(422, "POST", "/password", object{"password": "wrong", "fresh": "tide lorry crate"}, "not your password")
	with(200, "POST", "/codes/offer", object{}, "otpauth")
	call(422, "POST", "/codes", object{"password": "long enough", "secret": "?", "code": "1"})
	call(422, "POST", "/codes/drop", object{"password": "wrong"})
	call(422, "POST", "/recovery-codes", object{"password": "wrong"})
	with(422, "POST", "/passkeys/offer", object{"password": "long enough"}, "for names alone")
	call(422, "POST", "/passkeys", object{"name": "phone", "ceremony": "x"})
	call(422, "POST", "/passkeys/1/drop", object{"password": "wrong"})
	with(200, "GET", "/others", nil, "Solvei")
	with(200, "POST", "/invitations", object{"name": "Jonas", "address": "jonas@m.example"}, `"token"`)
	call(200, "POST", "/invitations/take-back", object{"id": "none"})
	call(404, "POST", "/others/99", object{"paused": true})
	call(404, "POST", "/others/99/send", object{"days": 7})
	call(404, "POST", "/others/99/keep", object{})
	call(409, "POST", "/leave", object{"password": "long enough", "days": 7})
	call(200, "POST", "/stay", object{})
	with(200, "GET", "/mine", nil, "PK")

	with(200, "GET", "/boxes", nil, `"role":"own"`)
	call(422, "POST", "/boxes", object{"name": " "})
	call(404, "GET", "/team", nil)
	var made TeamMade
	require.NoError(t, json.Unmarshal([]byte(call(200, "POST", "/boxes", object{"name": "Loans"})), &made))
	of := fmt.Sprintf("/in/%d", made.Box)
	with(200, "GET", of+"/team", nil, "Loans")
	with(200, "POST", of+"/team/name", object{"name": "Loans of the house"}, "{}")
	call(200, "POST", of+"/team/names", object{"keep": false})
	call(404, "POST", of+"/team/members", object{"person": 99, "role": "member"})
	call(422, "POST", of+"/team/members", object{"person": 1, "role": "king"})
	call(409, "POST", of+"/team/members", object{"person": 1, "role": ""})
	call(403, "POST", "/team/members", object{"person": 1, "role": "member"})
	with(200, "GET", of+"/history", nil, "Loans of the house")
	call(200, "GET", of+"/inbox", nil)
	with(200, "GET", "/activity", nil, `"groups":[]`)
	call(422, "POST", "/conversations/1/comments", object{"text": "Mine alone"})
	call(404, "POST", of+"/conversations/1/comments", object{"text": "Of another box"})
	call(404, "POST", of+"/comments/99", object{"text": "Nothing"})
	call(404, "GET", of+"/comment-files/99", nil)
	call(200, "POST", of+"/comment-files/99/drop", object{})
	covered["POST /api/v1/comment-files"] = true
	call(422, "POST", "/drafts/99/hand", object{"to": 1})
	with(200, "GET", "/lines", nil, `"lines":[]`)
	with(422, "PUT", "/lines", object{"number": "21 00 00 00"}, "without access")
	call(404, "POST", "/lines/99/drop", object{})
	with(200, "GET", "/numbers", nil, "[]")
	with(200, "PUT", "/numbers", object{"number": "+47 22 85 50 50", "name": "Mirela"}, "+47 22 85 50 50")
	with(422, "PUT", "/numbers", object{"number": "+12"}, "no telephone number")
	call(404, "POST", of+"/conversations/1/follow", object{"follows": true})
	call(200, "POST", of+"/activity/heard", object{"conversation": 99})
	with(200, "GET", of+"/mine/work", nil, `"lines":[`)
	call(404, "POST", of+"/reading", object{"conversation": 1})
	with(200, "GET", of+"/conversations/1/reading", nil, "[]")
	with(200, "GET", "/conversations/1/sharing", nil, `"name":"Loans of the house"`)
	call(404, "POST", "/conversations/1/sharing", object{"team": 99})
	var shared struct{ Sharing int64 }
	require.NoError(t, json.Unmarshal([]byte(call(200, "POST", "/conversations/1/sharing", object{"team": made.Box, "whole": true})), &shared))
	call(404, "POST", "/sharings/99/end", object{})
	with(200, "POST", fmt.Sprintf(of+"/sharings/%d/end", shared.Sharing), object{}, "Not shared any more")
	call(404, "GET", "/in/99/inbox", nil)
	call(404, "GET", "/in/99999999999999999999/inbox", nil)
	call(422, "POST", of+"/team/end", object{"name": "Loans"})
	call(200, "POST", of+"/team/end", object{"name": "Loans of the house"})
	call(404, "GET", of+"/team", nil)

	wrong, _, err := d.Check(context.Background())
	require.NoError(t, err)
	require.Empty(t, wrong)
	call(200, "POST", "/sign-out", object{})
	for name := range routes {
		switch name {
		case "GET /api/v1/events", "GET /api/v1/session", "POST /api/v1/setup", "POST /api/v1/sign-in", "POST /api/v1/demo/sign-in", "POST /api/v1/recover", "POST /api/v1/sign-in/passkey", "POST /api/v1/invited", "POST /api/v1/join": // others test these
		default:
			require.True(t, covered[name], "nothing asks %s", name)
		}
	}
}

// send sends a file as it is.
func (v *visitor) send(path, kind, content string) string {
	v.t.Helper()
	req, err := http.NewRequest("POST", v.url+"/api/v1"+path, strings.NewReader(content))
	require.NoError(v.t, err)
	req.Header.Set("Content-Type", kind)
	req.Header.Set(csrfHeader, v.token)
	res, err := v.client.Do(req)
	require.NoError(v.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	require.Equal(v.t, 200, res.StatusCode, "%s", text)
	return string(text)
}

// What a browser notes is kept of its person and of what is theirs alone.
func TestWhatIsNoted(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	in := d.Intake.Begin(context.Background(), 1, intake.Options{})
	require.NoError(t, in.Add(mailpost.Item{Raw: []byte("Subject: a\nMessage-ID: <a@x>\n\ntext\n")}))
	_, err := in.Close()
	require.NoError(t, err)
	_, _ = v.do("POST", "/api/v1/noted", object{"readings": []object{{"conversation": 1, "message": 1, "at": time.Now().Add(-time.Minute).UnixMilli(), "seconds": 7, "whole": true}, {"conversation": 2, "seconds": 3}, {"conversation": 1, "seconds": 0}},
		"notices": []object{{"at": 5, "text": "Reminder: ring"}, {"text": ""}}})
	require.NoError(t, v.store.Read(context.Background(), func(tx store.Tx) error {
		read, err := weighing.Readings(tx).ReadingsOf(1, 1, 1)
		require.NoError(t, err)
		require.Len(t, read, 1)
		require.Equal(t, 7, read[0].Seconds)
		require.True(t, read[0].Whole)
		shown, err := weighing.Readings(tx).NoticesBack(1, when.Of(time.Now().Add(-time.Hour)), when.Of(time.Now().Add(time.Hour)), 0, 9)
		require.Len(t, shown, 1, "a clock that is wrong is put right")
		return err
	}))
}

// Events come as they happen, to their box alone, and end when the program is
// stopped while other requests are still answered.
func TestEventsEndWithAStop(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{Statements: statements.Note})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	d := desk.New(s, &journal.SystemClock{}, true)
	require.NoError(t, d.SetUp(context.Background(), identity.Signup{Name: "Solvei", Address: "solvei@m.example", Zone: "UTC"}))
	stop, end := context.WithCancel(context.Background())
	srv := httptest.NewUnstartedServer(Handler(d, Options{}))
	srv.Config.BaseContext = func(net.Listener) context.Context { return UntilStop(stop) }
	srv.Start()
	t.Cleanup(srv.Close)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	v := &visitor{t: t, url: srv.URL, client: &http.Client{Jar: jar}}
	res, text := v.do("POST", "/api/v1/demo/sign-in", object{})
	require.Equal(t, 200, res.StatusCode, text)
	stream, err := v.client.Get(srv.URL + "/api/v1/events")
	require.NoError(t, err)
	defer stream.Body.Close()
	lines := bufio.NewScanner(stream.Body)
	next := func() string {
		for lines.Scan() {
			if lines.Text() != "" {
				return lines.Text()
			}
		}
		return ""
	}
	require.Equal(t, "event:hello", next())
	next()
	d.Journal.Announce(2, journal.Event{Topics: []string{"mail"}})
	d.Journal.Announce(1, journal.Event{Topics: []string{"labels"}})
	require.Equal(t, "event:changed", next())
	require.Contains(t, next(), `"labels"`)
	end()
	require.Equal(t, "", next(), "the stream is over")
	res, _ = v.do("GET", "/api/v1/inbox", nil)
	require.Equal(t, 200, res.StatusCode)
}

// A request that is cut off is not answered as if all were well.
func TestARequestThatIsCutOff(t *testing.T) {
	gin.SetMode(gin.ReleaseMode)
	for err, status := range map[error]int{context.Canceled: 503, fmt.Errorf("reading: %w", context.Canceled): 503, store.ErrNotFound: 404, store.ErrFull: 507, errors.New("odd"): 500,
		&problem.Error{Type: "slow-down", Text: "Wait."}: 429, &problem.Error{Type: "unreachable", Text: "Away."}: 502} {
		w := httptest.NewRecorder()
		c, _ := gin.CreateTestContext(w)
		answer[any](c, nil, err)
		require.Equal(t, status, w.Code, "%v", err)
		require.Contains(t, w.Body.String(), `"detail"`)
	}
}
