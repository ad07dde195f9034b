package main

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"strings"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// followUps takes in a calendar file with n open follow-ups, and some that were
// finished in the weeks before, and measures every way of looking at them, as
// whole requests and in the server alone.
func (s *server) followUps(n int, data string) {
	r := rand.New(rand.NewPCG(4, 7))
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")
	today := time.Now().UTC().Truncate(24 * time.Hour)
	todo := func(i int, due time.Time, more string) {
		fmt.Fprintf(&b, "BEGIN:VTODO\r\nUID:%d@bench.example\r\nDTSTAMP:20250101T000000Z\r\nSUMMARY:Confirm the sizes of crate %d with the workshop\r\n%s", i, i, more)
		if !due.IsZero() {
			fmt.Fprintf(&b, "DUE;TZID=Europe/Oslo:%s\r\n", due.Format("20060102T150405"))
		}
		fmt.Fprintf(&b, "X-EBBE-PROJECT:project %d\r\nX-EBBE-STAGE:%s\r\nX-EBBE-WITH;CN=Person %d:mailto:p%d@x.example\r\nPRIORITY:%d\r\nX-EBBE-EFFORT:PT%dM\r\nEND:VTODO\r\n",
			r.IntN(200), []string{"To do", "Under way", "With others"}[r.IntN(3)], i%500, i%500, []int{1, 3, 5, 9}[r.IntN(4)], 15+15*r.IntN(6))
	}
	for i := range n {
		due := today.Add(time.Duration(r.IntN(120*24)-20*24) * time.Hour)
		if i%6 == 0 {
			due = time.Time{}
		}
		todo(i, due, []string{"", "CATEGORIES:loans\r\n", "CATEGORIES:to read,catalogue\r\n", "BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER;RELATED=END:-P1D\r\nEND:VALARM\r\n"}[i%4])
	}
	for i := range n / 10 {
		at := today.Add(-time.Duration(1+r.IntN(55*24)) * time.Hour)
		todo(n+i, at, "STATUS:COMPLETED\r\nCOMPLETED:"+at.Format("20060102T150405Z")+"\r\n")
	}
	b.WriteString("END:VCALENDAR\r\n")
	begun := time.Now()
	req := must(http.NewRequest("POST", s.url+"/api/v1/calendar/file", strings.NewReader(b.String())))
	req.Header.Set("Content-Type", "text/calendar")
	req.Header.Set("X-Ebbe-Token", s.token)
	resp := must(s.client.Do(req))
	said := string(must(io.ReadAll(resp.Body)))
	if resp.StatusCode != http.StatusOK {
		panic(said)
	}
	fmt.Printf("%-44s %8.2f s (%.1f MB)\n", fmt.Sprintf("calendar file with %d to-dos taken in", n+n/10), time.Since(begun).Seconds(), float64(b.Len())/(1<<20))
	db := must(store.Open(data, store.Options{}))
	defer db.Close()
	d, who := desk.New(db, &journal.SystemClock{}, false), identity.Who{Person: 1, Box: 1, Week: when.Ordinary("Europe/Oslo")}
	for _, by := range followup.Bys {
		s.p95("in the server alone: by "+string(by), 200, func(int) {
			must(d.FollowUps.List(context.Background(), who, followups.FollowUpsAsked{By: by}))
		})
	}
	s.p95("in the server alone: filtered by a word", 200, func(int) {
		must(d.FollowUps.List(context.Background(), who, followups.FollowUpsAsked{By: followup.ByStage, Filter: search.Query{Words: "crate 1777"}}))
	})
	for _, by := range followup.Bys {
		s.p95("follow-ups by "+string(by), 100, func(int) { s.call("GET", "/follow-ups?by="+string(by), nil, nil) })
	}
	filter := func(what, json string) {
		s.p95("follow-ups by stage, "+what, 100, func(int) { s.call("GET", "/follow-ups?by=stage&filter="+url.QueryEscape(json), nil, nil) })
	}
	filter("filtered by a project", `{"project":"project 7"}`)
	filter("filtered by a word", `{"words":"crate 1777"}`)
	filter("filtered by a day", `{"day":"`+today.AddDate(0, 0, 2).Format("2006-01-02")+`"}`)
	s.p95("more of a group", 100, func(int) { s.call("GET", "/follow-ups/group?by=stage&key=todo", nil, nil) })
	s.p95("waiting", 100, func(int) { s.call("GET", "/waiting", nil, nil) })
	s.p95("the log", 100, func(int) { s.call("GET", "/follow-ups/log", nil, nil) })
	s.p95("closing the day", 50, func(int) { s.call("GET", "/follow-ups/closing", nil, nil) })
	s.p95("the week", 100, func(int) { s.call("GET", "/calendar", nil, nil) })
	s.p95("a line read as it is typed", 100, func(int) {
		s.call("POST", "/follow-ups/line", map[string]any{"line": "ring the mover / fri 10 / project 12 / urgent"}, nil)
	})
	s.p95("dayline, with them", 100, func(int) { s.call("GET", "/dayline", nil, nil) })
	s.p95("one follow-up moved to another day", 200, func(i int) {
		s.call("POST", "/follow-ups/steps", map[string]any{"kind": "put-off", "uids": []string{fmt.Sprintf("%d@bench.example", i*3)}, "day": i % 9}, nil)
	})
	s.p95("all as a calendar file", 3, func(int) {
		res := must(s.client.Get(s.url + "/api/v1/export/ebbe.ics"))
		defer res.Body.Close()
		must(io.Copy(io.Discard, res.Body))
	})
}
