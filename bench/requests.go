package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// sample is a request as the screens make it. make is asked for each of the
// requests before it is timed, so that what it needs is there.
type sample struct {
	times int
	make  func(w *requests, i int) (path string, body any)
	left  string // why it is not measured, if it is not
}

// common is the one request that may grow with the archive: a search for a word
// that stands in most messages counts in how many.
const common = "GET /found (a word in most messages)"

// requests is what the requests are about.
type requests struct {
	*server
	inbox []int64 // undecided, newest first
	made  int
}

// next gives an undecided conversation that no request was about before.
func (w *requests) next() int64 { w.made++; return w.inbox[w.made%len(w.inbox)] }

func (w *requests) id(method, path string, body any) int64 {
	var v struct {
		ID    int64
		Entry int64
	}
	w.call(method, path, body, &v)
	return cmp.Or(v.ID, v.Entry)
}

func at(path string) func(*requests, int) (string, any) {
	return func(*requests, int) (string, any) { return path, nil }
}

func about(path string) func(*requests, int) (string, any) {
	return func(w *requests, _ int) (string, any) { return fmt.Sprintf(path, w.next()), nil }
}

func with(path string, body any) func(*requests, int) (string, any) {
	return func(*requests, int) (string, any) { return path, body }
}

type object = map[string]any

const (
	outside = "it speaks to servers outside"
	noFiles = "the mail that is generated has no files"
	once    = "it is asked once, before there is anybody"
	slow    = "a password is slow to check by intent"
	demo    = "only the demo has it"
	stream  = "it stays open"
)

// draft begins a draft and gives its ID.
func (w *requests) draft() int64 { return w.id("POST", "/drafts", object{"mode": "new"}) }

// labelled finds the ID of something by its name in a list.
func (w *requests) labelled(path, list, name string) int64 {
	var raw json.RawMessage
	w.call("GET", path, nil, &raw)
	if list != "" {
		var o map[string]json.RawMessage
		check(json.Unmarshal(raw, &o))
		raw = o[list]
	}
	var all []struct {
		ID         int64
		Name, Path string
	}
	check(json.Unmarshal(raw, &all))
	for _, l := range all {
		if l.Name == name || l.Path == name {
			return l.ID
		}
	}
	panic(name + " is not in " + path)
}

// ruled is the ID of a rule with those words, made if there is none.
func (w *requests) ruled(words string) int64 {
	w.call("PUT", "/rules", object{"words": words, "mode": "off"}, nil)
	var all []struct {
		ID    int64
		Words string
	}
	w.call("GET", "/rules", nil, &all)
	for _, r := range all {
		if r.Words == words {
			return r.ID
		}
	}
	panic(words + " is not among the rules")
}

func (w *requests) uid(i int) string { return fmt.Sprintf("growth-%d@bench.example", i) }

var moment = object{"at": time.Now().Add(48 * time.Hour).UnixMilli()}

// samples are all requests of the route table, each with how it is made.
var samples = map[string]sample{
	"GET /accounts":                  {make: at("/accounts")},
	"GET /accounts/servers":          {left: outside},
	"GET /alike/:id":                 {make: about("/alike/%d?by=shape")},
	"GET /calendar":                  {make: at("/calendar")},
	"GET /calendar/times/:id":        {make: about("/calendar/times/%d")},
	"GET /cards":                     {make: at("/cards")},
	"GET /conversations":             {make: func(w *requests, i int) (string, any) { return "/conversations?ids=" + join(w.inbox[i:i+8]), nil }},
	"GET /conversations/:id":         {make: about("/conversations/%d")},
	"GET /conversations/:id/answers": {make: about("/conversations/%d/answers")},
	"GET /conversations/:id/leave":   {make: about("/conversations/%d/leave")},
	"GET /dayline":                   {make: at("/dayline")},
	"GET /days":                      {make: at("/days")},
	"GET /delivery":                  {make: at("/delivery")},
	"GET /delivery/heard":            {make: at("/delivery/heard")},
	"GET /drafts":                    {make: at("/drafts")},
	"GET /drafts/:id":                {make: func(w *requests, _ int) (string, any) { return fmt.Sprintf("/drafts/%d", w.draft()), nil }},
	"GET /drafts/:id/preview":        {make: func(w *requests, _ int) (string, any) { return fmt.Sprintf("/drafts/%d/preview", w.draft()), nil }},
	"GET /drafts/:id/template/:template": {make: func(w *requests, i int) (string, any) {
		id := w.id("PUT", "/templates", object{"name": fmt.Sprintf("Template %d %d", i, time.Now().UnixNano()), "text": "Hello [name]"})
		return fmt.Sprintf("/drafts/%d/template/%d", w.draft(), id), nil
	}},
	"GET /events":                {left: stream},
	"GET /export/ebbe.ics":       {times: 3, make: at("/export/ebbe.ics")},
	"GET /export/follow-ups.csv": {times: 3, make: at("/export/follow-ups.csv")},
	"GET /find": {make: func(_ *requests, i int) (string, any) {
		return fmt.Sprintf("/find?where=%s", url.QueryEscape(fmt.Sprintf(`{"words":"unique%08d"}`, 19_000+i*7))), nil
	}},
	common: {times: 20, make: at("/found?asked=tide")},
	"GET /found": {make: func(_ *requests, i int) (string, any) {
		return fmt.Sprintf("/found?asked=unique%08d", 19_000+i*7), nil
	}},
	"GET /found/places": {make: func(_ *requests, i int) (string, any) {
		return fmt.Sprintf("/found/places?from=0&asked=unique%08d", 19_000+i*7), nil
	}},
	"GET /jump": {make: func(_ *requests, i int) (string, any) {
		return fmt.Sprintf("/jump?letters=unique%08d", 19_000+i*7), nil
	}},
	"GET /found/recent": {make: at("/found/recent")},
	"POST /found/recent": {make: func(_ *requests, i int) (string, any) {
		return "/found/recent", object{"asked": fmt.Sprint("crate ", i)}
	}},
	"GET /follow-ups":                 {make: at("/follow-ups?by=date")},
	"GET /follow-ups/closing":         {make: at("/follow-ups/closing")},
	"GET /follow-ups/group":           {make: at("/follow-ups/group?by=stage&key=todo")},
	"GET /follow-ups/log":             {make: at("/follow-ups/log")},
	"GET /follow-ups/one":             {make: func(w *requests, i int) (string, any) { return "/follow-ups/one?uid=" + url.QueryEscape(w.uid(i)), nil }},
	"GET /follow-ups/one-by-one":      {make: at("/follow-ups/one-by-one?by=date")},
	"GET /follow-ups/proposal/:id":    {make: about("/follow-ups/proposal/%d")},
	"GET /follow-ups/settings":        {make: at("/follow-ups/settings")},
	"GET /grid":                       {make: at("/grid")},
	"GET /history":                    {make: at("/history")},
	"GET /inbox":                      {make: at("/inbox")},
	"GET /inward":                     {make: at("/inward")},
	"GET /labels":                     {make: at("/labels")},
	"GET /learned":                    {make: at("/learned")},
	"GET /facts":                      {make: at("/facts")},
	"GET /person":                     {make: at("/person?address=writer7@place7.example")},
	"GET /person/files":               {make: at("/person/files?address=writer7@place7.example")},
	"GET /junk":                       {make: at("/junk")},
	"GET /combos/file":                {make: at("/combos/file")},
	"POST /combos/file":               {make: with("/combos/file", object{"file": `{"format":"ebbe-combos-1","combos":[{"name":"a","steps":[{"kind":"star"}]}]}`})},
	"GET /rules/sieve":                {make: at("/rules/sieve")},
	"GET /rules/offers":               {make: at("/rules/offers")},
	"GET /junk/figures":               {make: at("/junk/figures")},
	"GET /conversations/:id/block":    {make: about("/conversations/%d/block")},
	"GET /lessons":                    {make: at("/lessons")},
	"GET /conversations/:id/streams":  {make: about("/conversations/%d/streams")},
	"GET /rules":                      {make: at("/rules")},
	"GET /subscriptions":              {make: at("/subscriptions")},
	"GET /rules/like/:id":             {make: about("/rules/like/%d")},
	"GET /rules/read":                 {make: at("/rules/read?words=newsletters:+archive")},
	"GET /rules/:id/did":              {make: at("/rules/1/did")},
	"GET /later":                      {make: at("/later")},
	"GET /lists":                      {make: at("/lists")},
	"GET /matching":                   {make: at("/matching?where=" + url.QueryEscape(`{"unread":true,"place":"inbox"}`))},
	"GET /notices":                    {make: at("/notices")},
	"GET /messages/:id":               {make: about("/messages/%d")},
	"GET /messages/:id/body":          {make: about("/messages/%d/body")},
	"GET /messages/:id/files/:n":      {left: noFiles},
	"GET /messages/:id/files/:n/look": {left: noFiles},
	"GET /messages/:id/files/:n/page": {left: noFiles},
	"GET /conversations/:id/files":    {make: about("/conversations/%d/files")},
	"GET /files.zip":                  {left: noFiles},
	"GET /pdf-reader":                 {left: "it is the same bytes each time"},
	"GET /messages/:id/images/*cid":   {left: "the mail that is generated has no images"},
	"GET /messages/:id/source":        {make: about("/messages/%d/source")},
	"GET /conversations/:id/page":     {make: about("/conversations/%d/page")},
	"GET /conversations/:id/text":     {make: about("/conversations/%d/text")},
	"GET /messages/:id/original":      {make: about("/messages/%d/original")},
	"GET /mid/*mid":                   {make: func(_ *requests, i int) (string, any) { return fmt.Sprintf("/mid/i%d@y.example", i), nil }},
	"GET /misses":                     {times: 5, make: at("/misses")},
	"GET /outbox":                     {make: at("/outbox")},
	"GET /people":                     {make: func(_ *requests, i int) (string, any) { return fmt.Sprintf("/people?begins=writer%d", i), nil }},
	"GET /places":                     {make: at("/places")},
	"GET /presets":                    {make: at("/presets")},
	"GET /restored":                   {make: at("/restored")},
	"GET /senders":                    {make: at("/senders")},
	"GET /session":                    {make: at("/session")},
	"GET /settings":                   {make: at("/settings")},
	"GET /sitting":                    {make: at("/sitting")},
	"GET /slips":                      {make: func(w *requests, i int) (string, any) { return "/slips?ids=" + join(w.inbox[i:i+40]), nil }},
	"GET /templates":                  {make: at("/templates")},
	"GET /tide":                       {make: at("/tide")},
	"GET /figures":                    {make: at("/figures?from=2025-11-25&to=2026-11-24")},
	"GET /figures/notices":            {make: at("/figures/notices?from=2025-11-25&to=2026-11-24")},
	"GET /figures/answers":            {make: at("/figures/answers?from=2025-11-25&to=2026-11-24&by=domain")},
	"GET /figures/answers/lines":      {make: at("/figures/answers/lines?from=2025-11-25&to=2026-11-24&own=1")},
	"GET /figures/ahead":              {make: at("/figures/ahead?off=2026-11-27")},
	"GET /figures/aged":               {make: at("/figures/aged?group=5")},
	"GET /dig":                        {make: at("/dig")},
	"PUT /dig":                        {make: func(*requests, int) (string, any) { return "/dig", object{"tens": 2} }},
	"GET /review":                     {make: at("/review")},
	"PUT /review/at":                  {make: func(*requests, int) (string, any) { return "/review/at", object{"days": 32, "minute": 900} }},
	"POST /review/looked":             {make: func(*requests, int) (string, any) { return "/review/looked", object{} }},
	"POST /review/refuse":             {left: "there is nothing to refuse"},
	"POST /review/take":               {left: "there is nothing to take"},
	"GET /figures/people":             {make: at("/figures/people")},
	"GET /figures/day":                {make: at("/figures/day?date=2026-11-24")},
	"GET /figures/lines":              {make: at("/figures/lines?measure=decided&details=archive&from=2026-11-01&to=2026-11-24")},
	"GET /waiting":                    {make: at("/waiting")},
	"GET /waiting/unanswered":         {make: at("/waiting/unanswered")},
	"GET /when":                       {make: at("/when?phrase=fri+10")},
	"GET /when/examples":              {make: at("/when/examples")},
	"POST /accounts/:id/drop":         {left: outside},
	"POST /accounts/:id/vanished":     {left: outside},
	"POST /accounts/test":             {left: outside},
	"PATCH /settings": {make: func(_ *requests, i int) (string, any) { // a week moves all follow-ups, and not the mail
		return "/settings", object{"habits": object{"span": 10 + i%2}}
	}},
	"PUT /accounts": {left: outside},
	"POST /again": {make: func(w *requests, _ int) (string, any) {
		w.call("POST", "/decisions", object{"kind": "star", "conversations": []int64{w.next()}}, nil)
		w.call("POST", "/take-back", nil, nil)
		return "/again", nil
	}},
	"POST /calendar/events":          {make: with("/calendar/events", object{"event": object{"title": "Talk", "start": moment, "remind": 15}})},
	"POST /calendar/file":            {left: "a file is measured by itself"},
	"POST /calendar/invitations/:id": {left: "the mail that is generated has no invitations"},
	"POST /calendar/steps":           {left: "it is the same step as making an event"},
	"POST /cards/put-away":           {make: with("/cards/put-away", nil)},
	"POST /conversations/:id/leave":  {left: outside},
	"POST /conversations/:id/block":  {make: about("/conversations/%d/block")},
	"POST /conversations/:id/never":  {make: about("/conversations/%d/never")},
	"POST /conversations/:id/stream": {make: func(w *requests, i int) (string, any) {
		return fmt.Sprintf("/conversations/%d/stream", w.next()), object{"stream": []string{"machines", "people"}[i%2], "scope": "sender"}
	}},
	"POST /conversations/:id/stream/forget": {make: about("/conversations/%d/stream/forget")},
	"POST /conversations/:id/part":          {left: "the undecided that are generated have one message each"},
	"POST /conversations/join": {make: func(w *requests, _ int) (string, any) {
		return "/conversations/join", object{"conversations": []int64{w.next(), w.next()}}
	}},
	"POST /decisions": {make: func(w *requests, _ int) (string, any) {
		return "/decisions", object{"kind": "archive", "conversations": []int64{w.next()}}
	}},
	"POST /delivery/hand":             {make: with("/delivery/hand", object{"mode": ""})},
	"POST /delivery/let-in":           {left: "nothing is held; it is measured by itself"},
	"POST /delivery/look":             {make: with("/delivery/look", object{"words": "crate"})},
	"POST /delivery/plans/:id/drop":   {left: "it is the same step as using a plan"},
	"POST /delivery/preview":          {make: with("/delivery/preview", object{"plan": plan("every day 8, 12, 17")})},
	"POST /delivery/streams/:id/drop": {make: with("/delivery/streams/none/drop", nil)},
	"PUT /delivery/streams":           {left: "it is the same step as storing a plan"},
	"POST /delivery/through/:id/drop": {left: "it is the same step as letting through"},
	"POST /delivery/use":              {make: with("/delivery/use", object{"plan": ""})},
	"PUT /delivery/plans": {times: 10, make: func(_ *requests, i int) (string, any) {
		p := plan("every day 9")
		p.ID = "growth"
		return "/delivery/plans", object{"plan": p}
	}},
	"PUT /delivery/choices":             {make: with("/delivery/choices", object{"counted": true, "notify": object{"people": []any{}}})},
	"PUT /delivery/through":             {make: with("/delivery/through", object{"id": "g", "by": "sender", "value": "writer1@place1.example"})},
	"POST /demo/clock":                  {left: demo},
	"POST /demo/sign-in":                {left: demo},
	"POST /drafts":                      {make: with("/drafts", object{"mode": "new"})},
	"POST /drafts/:id/drop":             {make: func(w *requests, _ int) (string, any) { return fmt.Sprintf("/drafts/%d/drop", w.draft()), object{} }},
	"POST /drafts/:id/attach":           {left: noFiles},
	"POST /drafts/:id/files":            {left: "a file is sent as it is; its draft is measured"},
	"POST /drafts/:id/files/:file/drop": {left: "it is the same step as changing a draft"},
	"POST /drafts/:id/send":             {left: outside},
	"PUT /drafts/:id": {make: func(w *requests, _ int) (string, any) {
		return fmt.Sprintf("/drafts/%d", w.draft()), object{"subject": "A", "text": "B"}
	}},
	"POST /entries/:id/take-back": {make: func(w *requests, _ int) (string, any) {
		return fmt.Sprintf("/entries/%d/take-back", w.id("POST", "/decisions", object{"kind": "archive", "conversations": []int64{w.next()}})), object{}
	}},
	"POST /feed":              {make: with("/feed", object{"off": true})},
	"POST /follow-ups/closed": {make: with("/follow-ups/closed", object{})},
	"POST /follow-ups/line":   {make: with("/follow-ups/line", object{"line": "ring the mover / fri 10 / project 12 / urgent"})},
	"POST /follow-ups/new":    {make: with("/follow-ups/new", object{"title": "Ring the mover"})},
	"POST /follow-ups/steps": {make: func(w *requests, i int) (string, any) {
		return "/follow-ups/steps", object{"kind": "put-off", "uids": []string{w.uid(i)}, "day": 1 + i%9}
	}},
	"POST /inward": {make: with("/inward", object{})},
	"POST /labels": {make: func(_ *requests, i int) (string, any) { return "/labels", object{"path": fmt.Sprintf("label %d", i)} }},
	"POST /labels/:id/drop": {make: func(w *requests, i int) (string, any) {
		name := fmt.Sprintf("gone %d", i)
		w.call("POST", "/labels", object{"path": name}, nil)
		return fmt.Sprintf("/labels/%d/drop", w.labelled("/labels", "", name)), object{}
	}},
	"PUT /person/note": {make: func(w *requests, i int) (string, any) {
		return "/person/note", object{"address": "writer7@place7.example", "text": fmt.Sprint("Prefers mornings, ", i)}
	}},
	"PUT /labels": {make: func(w *requests, i int) (string, any) {
		return "/labels", object{"id": w.labelled("/labels", "", "label 0"), "name": "label 0", "color": "tide", "mark": "dot"}
	}},
	"POST /subscriptions/bin": {make: func(w *requests, _ int) (string, any) {
		return "/subscriptions/bin", object{"conversations": []int64{w.next()}}
	}},
	"POST /rules/sieve":             {make: with("/rules/sieve", object{"script": "if size :over 2M { discard; }"})},
	"POST /rules/offers/:id/refuse": {left: "one row is changed"},
	"POST /rules/order":             {make: with("/rules/order", object{"ids": []int64{1}})},
	"POST /rules/:id/drop": {make: func(w *requests, i int) (string, any) {
		return fmt.Sprintf("/rules/%d/drop", w.ruled(fmt.Sprintf("from w%d@x.example: star", i))), object{}
	}},
	"POST /rules/:id/undo": {make: with("/rules/1/undo", object{})},
	"PUT /rules": {make: func(_ *requests, i int) (string, any) {
		return "/rules", object{"words": fmt.Sprintf("from w%d@x.example: star", i), "mode": "off"}
	}},
	"PUT /lists": {times: 10, make: func(_ *requests, i int) (string, any) {
		return "/lists", object{"name": fmt.Sprintf("List %d", i%3), "query": object{"unread": true}, "folded": true}
	}},
	"POST /lists/:id/drop": {make: func(w *requests, i int) (string, any) {
		name := fmt.Sprintf("Gone %d", i)
		w.call("PUT", "/lists", object{"name": name, "query": object{"starred": true}, "folded": true}, nil)
		return fmt.Sprintf("/lists/%d/drop", w.labelled("/lists", "", name)), object{}
	}},
	"POST /looks/:id":            {make: about("/looks/%d")},
	"POST /messages/:id/receipt": {left: outside},
	"POST /messages/:id/whole":   {left: outside},
	"POST /noted": {make: func(w *requests, _ int) (string, any) {
		return "/noted", object{"readings": []object{{"conversation": w.next(), "seconds": 7, "whole": true}}, "notices": []object{}}
	}},
	"POST /outbox/:id/settle": {left: outside},
	"PUT /places":             {make: func(_ *requests, i int) (string, any) { return "/places", object{"name": fmt.Sprintf("Place %d", i)} }},
	"POST /places/:id/here": {make: func(w *requests, i int) (string, any) {
		return fmt.Sprintf("/places/%d/here", w.id("PUT", "/places", object{"name": fmt.Sprintf("Here %d", i)})), object{}
	}},
	"POST /places/:id/drop": {make: func(w *requests, i int) (string, any) {
		return fmt.Sprintf("/places/%d/drop", w.id("PUT", "/places", object{"name": fmt.Sprintf("Gone %d", i)})), object{}
	}},
	"POST /restored":                   {make: with("/restored", object{"what": "messages"})},
	"POST /setup":                      {left: once},
	"POST /join":                       {left: once},
	"POST /invited":                    {left: once},
	"POST /sign-in":                    {left: slow},
	"POST /recover":                    {left: slow},
	"POST /password":                   {left: slow},
	"POST /codes":                      {left: slow},
	"POST /codes/drop":                 {left: slow},
	"POST /recovery-codes":             {left: slow},
	"POST /codes/offer":                {make: with("/codes/offer", object{})},
	"POST /passkeys":                   {left: slow},
	"POST /passkeys/offer":             {left: slow},
	"POST /passkeys/:id/drop":          {left: slow},
	"POST /sign-in/passkey":            {left: slow},
	"GET /security":                    {make: at("/security")},
	"POST /sessions/end":               {make: with("/sessions/end", object{"id": "none"})},
	"POST /name":                       {make: func(_ *requests, i int) (string, any) { return "/name", object{"name": fmt.Sprintf("Me %d", i)} }},
	"GET /others":                      {make: at("/others")},
	"POST /others/:id":                 {left: "there is nobody else"},
	"POST /others/:id/send":            {left: "there is nobody else"},
	"POST /others/:id/keep":            {left: "there is nobody else"},
	"GET /boxes":                       {make: at("/boxes")},
	"GET /activity":                    {make: at("/activity")},
	"POST /activity/heard":             {left: "nothing concerns whoever is in no team"},
	"POST /conversations/:id/comments": {left: "the box is no team's"},
	"POST /conversations/:id/follow":   {left: "the box is no team's"},
	"POST /comments/:id":               {left: "the box is no team's"},
	"POST /comment-files":              {left: "the box is no team's"},
	"GET /comment-files/:id":           {left: "the box is no team's"},
	"POST /comment-files/:id/drop":     {left: "the box is no team's"},
	"POST /drafts/:id/hand":            {left: "the box is no team's"},
	"GET /lines":                       {make: at("/lines")},
	"PUT /lines":                       {left: outside},
	"POST /lines/:id/drop":             {left: outside},
	"GET /numbers":                     {make: at("/numbers")},
	"PUT /numbers":                     {make: with("/numbers", object{"number": "+47 22 85 50 50", "name": "Mirela"})},
	"GET /conversations/:id/reading":   {make: about("/conversations/%d/reading")},
	"GET /mine/work":                   {make: at("/mine/work")},
	"POST /reading":                    {left: "the box is no team's"},
	"GET /conversations/:id/sharing":   {make: about("/conversations/%d/sharing")},
	"POST /conversations/:id/sharing":  {left: "whoever asks is in no team"},
	"POST /sharings/:id/end":           {left: "whoever asks is in no team"},
	"POST /boxes":                      {left: "somebody works in 50 at most"},
	"GET /team":                        {left: "the box is no team's"},
	"POST /team/members":               {left: "the box is no team's"},
	"POST /team/name":                  {left: "the box is no team's"},
	"POST /team/names":                 {left: "the box is no team's"},
	"POST /team/end":                   {left: "the box is no team's"},
	"POST /leave":                      {left: "it is done once"},
	"POST /stay":                       {left: "nobody leaves"},
	"GET /mine":                        {left: "it gives all there is"},
	"POST /invitations": {make: func(_ *requests, i int) (string, any) {
		return "/invitations", object{"name": "Jonas", "address": fmt.Sprintf("jonas%d@m.example", i)}
	}},
	"POST /invitations/take-back": {make: with("/invitations/take-back", object{"id": "none"})},
	"POST /sign-out":              {left: "nothing could be asked after it"},
	"POST /sitting":               {make: with("/sitting", object{"order": "oldest", "minutes": 10})},
	"POST /sitting/longer":        {make: with("/sitting/longer", object{"minutes": 5})},
	"POST /sitting/end": {make: func(w *requests, _ int) (string, any) {
		w.call("POST", "/sitting", object{"order": "oldest", "minutes": 10}, nil)
		return "/sitting/end", object{}
	}},
	"POST /take-back": {make: func(w *requests, _ int) (string, any) {
		w.call("POST", "/decisions", object{"kind": "archive", "conversations": []int64{w.next()}}, nil)
		return "/take-back", object{}
	}},
	"PUT /templates": {make: func(_ *requests, i int) (string, any) {
		return "/templates", object{"name": fmt.Sprintf("T %d", i), "text": "Hello"}
	}},
	"POST /templates/:id/drop": {make: func(w *requests, i int) (string, any) {
		return fmt.Sprintf("/templates/%d/drop", w.id("PUT", "/templates", object{"name": fmt.Sprintf("D %d", i), "text": "Hello"})), object{}
	}},
	"POST /waiting/unanswered/:id/leave": {make: about("/waiting/unanswered/%d/leave")},
}

const usual = 30 // times a request is made

// asks makes every request of each in turn, so that what else goes on in the
// machine is the same for all, and gives what each takes in the median, in
// milliseconds.
func asks(all []*requests) map[string][]float64 {
	out := map[string][]float64{}
	for _, name := range slices.Sorted(maps.Keys(samples)) {
		s := samples[name]
		if s.left != "" {
			continue
		}
		method, _, _ := strings.Cut(name, " ")
		n := usual
		if s.times > 0 {
			n = s.times
		}
		took := make([][]float64, len(all))
		for i := range n + 2 {
			for k, w := range all {
				path, body := s.make(w, i)
				began := time.Now()
				if refused := w.ask(method, path, body); refused != "" {
					panic(name + ": " + refused) // a request that is refused measures nothing
				}
				if i >= 2 { // the first find nothing at hand
					took[k] = append(took[k], float64(time.Since(began).Microseconds())/1000)
				}
			}
		}
		for _, t := range took {
			slices.Sort(t)
			out[name] = append(out[name], t[len(t)/2])
		}
	}
	return out
}

// ask makes a request, and says what it was refused with.
func (w *requests) ask(method, path string, body any) (refused string) {
	raw := must(json.Marshal(body))
	req := must(http.NewRequest(method, w.url+"/api/v1"+path, bytes.NewReader(raw)))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Ebbe-Token", w.token)
	res := must(w.client.Do(req))
	text := must(io.ReadAll(res.Body))
	_ = res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return fmt.Sprintf("%s: %s %s", path, res.Status, text)
	}
	return ""
}

// growth makes every request of the screens at two sizes of the archive, and
// prints by how much each grows.
func growth(dir string, sizes [2]int) {
	var all []*requests
	for _, n := range sizes {
		data := filepath.Join(dir, fmt.Sprint("growth", n))
		archive, box := data+".archive.mbox", data+".inbox.mbox"
		if _, err := os.Stat(data); err != nil {
			generate(archive, n-*undecided, 5, "a")
			importing(fmt.Sprintf("import of %d messages", n), n-*undecided, archive, "--place", "archived", "--data", data)
			generate(box, *undecided, 1, "i")
			importing("import of the inbox", *undecided, box, "--data", data)
			check(os.Remove(archive))
			check(os.Remove(box))
		}
		s := start(data)
		defer s.stop()
		s.signIn()
		s.todos(500)
		all = append(all, &requests{server: s, inbox: s.inbox(*undecided)})
	}
	took := asks(all)
	names := slices.Collect(maps.Keys(took))
	slices.SortFunc(names, func(a, b string) int {
		return cmp.Or(cmp.Compare(took[b][1]/took[b][0], took[a][1]/took[a][0]), strings.Compare(a, b))
	})
	fmt.Printf("%-48s %9d %9d  growth (median, ms; floor: GET /session)\n", "request", sizes[0], sizes[1])
	for _, name := range names {
		small, large := took[name][0], took[name][1]
		mark := ""
		if large > 1.5*small {
			mark = "  above 1.5"
		}
		fmt.Printf("%-48s %9.2f %9.2f  %5.2f%s\n", name, small, large, large/small, mark)
	}
}

// todos takes in n follow-ups that the requests are about.
func (s *server) todos(n int) {
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")
	for i := range n {
		fmt.Fprintf(&b, "BEGIN:VTODO\r\nUID:growth-%d@bench.example\r\nDTSTAMP:20250101T000000Z\r\nSUMMARY:Ring %d\r\nDUE:%s\r\nEND:VTODO\r\n", i, i, time.Now().Add(time.Duration(i)*time.Hour).UTC().Format("20060102T150405Z"))
	}
	b.WriteString("END:VCALENDAR\r\n")
	req := must(http.NewRequest("POST", s.url+"/api/v1/calendar/file", strings.NewReader(b.String())))
	req.Header.Set("Content-Type", "text/calendar")
	req.Header.Set("X-Ebbe-Token", s.token)
	res := must(s.client.Do(req))
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		panic(string(must(io.ReadAll(res.Body))))
	}
}
