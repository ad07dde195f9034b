package mime

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/facts"
)

// What a message describes is read from either markup, in the same way.
func TestMarkup(t *testing.T) {
	const script = `<html><head><script type="application/ld+json">
	{"@context": "http://schema.org", "@type": "ParcelDelivery", "trackingNumber": "KP 7781",
	 "carrier": {"@type": "Organization", "name": "Kelp Parcels"}, "itemShipped": {"@type": "Product", "name": "Brass hooks"},
	 "expectedArrivalFrom": "2026-11-26T13:00:00+01:00", "expectedArrivalUntil": "2026-11-26T15:00:00+01:00"}
	</script></head><body>Your parcel is on its way.</body></html>`
	const scopes = `<div itemscope itemtype="http://schema.org/ParcelDelivery"><span itemprop="trackingNumber">KP 7781</span>
	<div itemprop="carrier" itemscope itemtype="http://schema.org/Organization"><b itemprop="name">Kelp Parcels</b></div>
	<p><i><span itemprop="itemShipped" itemscope itemtype="https://schema.org/Product"><meta itemprop="name" content="Brass hooks"></span></i></p>
	<time itemprop="expectedArrivalFrom" datetime="2026-11-26T13:00:00+01:00">at one</time><meta itemprop="expectedArrivalUntil" content="2026-11-26T15:00:00+01:00"></div>`
	loc, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	for _, source := range []string{script, scopes} {
		found := facts.FromMarkup(Markup(source), loc)
		require.Len(t, found, 1)
		f := found[0]
		require.Equal(t, []string{"parcel", "KP 7781", "Kelp Parcels", "Brass hooks", "2026-11-26T13:00", "2026-11-26T15:00"}, []string{string(f.Kind), f.Ref, f.By, f.Name, f.From.Local, f.Until.Local})
	}
	graph := Markup(`<script type="application/ld+json; charset=utf-8"><!--{"@graph":[{"@type":["Thing","Event"],"name":{"@value":"Opening"},"startDate":"2026-12-12"},[{"@type":"schema:Event"}]]}--></script>`)
	require.Len(t, graph, 2)
	require.Equal(t, "Opening", graph[0].Props["name"][0].Text)
	require.Equal(t, "Event", graph[1].Type)
	body := Read([]byte("From: a@b.example\nContent-Type: text/html\n\n" + script))
	require.Len(t, body.Markup(), 1, "of a message")
	require.Empty(t, Sanitise(script, false, false, func(string) string { return "" }).Remote, "and nothing of it is fetched")
	require.NotContains(t, Sanitise(script, false, false, func(string) string { return "" }).HTML, "KP 7781")
}

// Markup of any size, depth and form is read within limits.
func FuzzMarkup(f *testing.F) {
	f.Add(`<script type="application/ld+json">{"@type":"Order","a":[{"b":[1,true,null,{"@value":3}]}]}</script>`)
	f.Add(strings.Repeat(`<div itemscope itemtype=Event itemprop=location>`, 600))
	f.Add(`<script type="application/ld+json">` + strings.Repeat(`{"a":[`, 3000) + `</script>`)
	f.Add(`<script type="application/ld+json">` + strings.Repeat(`[`, 9000) + strings.Repeat(`]`, 9000) + `</script>`)
	f.Add(`<div itemscope>` + strings.Repeat(`<p itemprop="name startDate x:y">a`, 500))
	f.Fuzz(func(t *testing.T, source string) {
		items := Markup(source)
		n := 0
		var count func([]facts.Item, int)
		count = func(items []facts.Item, deep int) {
			require.LessOrEqual(t, deep, maxDeep+2)
			for _, i := range items {
				if n++; n > maxThings {
					t.Fatal("too many things")
				}
				for _, values := range i.Props {
					for _, v := range values {
						require.LessOrEqual(t, len(v.Text), maxSaid)
						if v.Item != nil {
							count([]facts.Item{*v.Item}, deep+1)
						}
					}
				}
			}
		}
		count(items, 0)
		for _, fact := range facts.FromMarkup(items, time.UTC) {
			require.NotEmpty(t, fact.Name+fact.By+fact.Ref+fact.Amount)
		}
	})
}
