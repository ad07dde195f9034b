package web

import (
	"context"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/reading"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	mailpost "ebbe/internal/post"
)

// Delivery over HTTP: what is wrong is said in a sentence and changes nothing,
// a repeated request does nothing more, and no list is ever null.
func TestDeliveryOverHTTP(t *testing.T) {
	v, d := visit(t)
	v.setUp()
	ask := func(method, path string, body any, into any, header ...string) (int, string) {
		t.Helper()
		res, text := v.do(method, "/api/v1"+path, body, header...)
		if into != nil && res.StatusCode == 200 {
			require.NoError(t, json.Unmarshal([]byte(text), into), text)
		}
		return res.StatusCode, text
	}
	_, text := ask("GET", "/delivery", nil, nil)
	for _, list := range []string{`"plans":[]`, `"through":[]`, `"people":[]`, `"coming":[{`, `"state":"open"`} {
		require.Contains(t, text, list)
	}

	shut := delivery.Plan{Name: "Shut", People: make([]delivery.Day, 7), Machines: make([]delivery.Day, 7)}
	var preview deliveries.PlanPreview
	code, text := ask("POST", "/delivery/preview", deliveries.PlanDraft{Plan: shut, Line: "mon 25"}, nil)
	require.Equal(t, 422, code)
	require.Contains(t, text, `"field":"line"`)
	code, _ = ask("POST", "/delivery/preview", deliveries.PlanDraft{Plan: shut, Line: "mon quiet after 18"}, &preview)
	require.Equal(t, 200, code)
	require.Equal(t, "open, quiet 18:00–24:00", preview.Texts["people"][1])

	use := func(p delivery.Plan) (int, string) {
		return ask("PUT", "/delivery/plans", map[string]any{"plan": p, "use": true}, nil)
	}
	six := shut
	six.People = shut.People[:6]
	code, text = use(six)
	require.Equal(t, 422, code)
	require.Contains(t, text, "Nothing was changed: the plan")
	code, _ = use(shut)
	require.Equal(t, 200, code)

	in := d.Intake.Begin(context.Background(), 1, intake.Options{Arrived: true})
	require.NoError(t, in.Add(mailpost.Item{Raw: []byte("From: a@x.example\nTo: solvei@m.example\nSubject: lorry\nMessage-ID: <a@x>\n\ntext\n")}))
	_, err := in.Close()
	require.NoError(t, err)
	_, text = ask("GET", "/inbox", nil, nil)
	require.Contains(t, text, `"left":0`)
	_, text = ask("GET", "/find?where=%7B%22place%22:%22held%22%7D", nil, nil)
	require.Contains(t, text, "could not read what to look for", "no address reaches what is held")

	var found deliveries.HeldFound
	for range 2 { // the same request, twice: one look
		code, text = ask("POST", "/delivery/look", map[string]string{"words": "lorry"}, &found, "Idempotency-Key", "look-1")
		require.Equal(t, 200, code, text)
		require.Len(t, found.Found, 1)
	}
	var out journal.Decided
	for range 2 {
		code, text = ask("POST", "/delivery/let-in", deliveries.LettingIn{Conversations: []int64{found.Found[0].ID}, Words: "lorry"}, &out, "Idempotency-Key", "let-1")
		require.Equal(t, 200, code, text)
		require.Equal(t, 1, out.Count)
	}
	var history reading.History
	ask("GET", "/history?actor=person", nil, &history)
	kinds := map[string]int{}
	for _, l := range history.Lines {
		kinds[string(l.Kind)]++
	}
	require.Equal(t, map[string]int{"plan": 1, "peek": 1, "let-in": 1}, kinds)

	code, text = ask("PUT", "/delivery/through", delivery.Exception{By: delivery.ByDomain, Value: "nowhere"}, nil)
	require.Equal(t, 422, code)
	require.Contains(t, text, "is no domain")
	code, text = ask("POST", "/delivery/hand", delivery.Hand{Mode: "push"}, nil)
	require.Equal(t, 422, code)
	require.Contains(t, text, "Nothing was changed")
	_, text = ask("GET", "/outbox", nil, nil)
	require.Contains(t, text, `"messages":[]`)
}
