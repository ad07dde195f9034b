package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// fontsOf are the fonts in which an element is drawn.
func fontsOf(t *testing.T, p *rod.Page, e *rod.Element) string {
	t.Helper()
	_, err := proto.DOMGetDocument{}.Call(p)
	require.NoError(t, err)
	require.NoError(t, proto.CSSEnable{}.Call(p))
	node, err := proto.DOMRequestNode{ObjectID: e.Object.ObjectID}.Call(p)
	require.NoError(t, err)
	used, err := proto.CSSGetPlatformFontsForNode{NodeID: node.NodeID}.Call(p)
	require.NoError(t, err)
	var names []string
	for _, f := range used.Fonts {
		names = append(names, f.FamilyName)
	}
	return strings.Join(names, ", ")
}

// Mail is read in a font for reading whatever its letters, as text and as HTML: in the one
// that ships with Ebbe, or in one of the system; from the right where it is written so.
func TestMailIsReadableInAnyLetters(t *testing.T) {
	t.Parallel()
	s := demo(t)
	letters := []struct{ name, text, font, way string }{
		{"Polish", "Żółć i źdźbło", "Literata", "ltr"},
		{"Greek", "Αγαπητή κυρία, ο χάρτης είναι έτοιμος", "Literata", "ltr"},
		{"Russian", "Дорогая Сольвей, карта готова", "Literata", "ltr"},
		{"Japanese", "潮汐計算機の写真をお送りします", "IPAMincho", "ltr"},
		{"Arabic", "الخريطة جاهزة للإعارة", "Amiri", "rtl"},
		{"Hebrew", "המפה מוכנה להשאלה", "David CLM", "rtl"},
	}
	for i, l := range letters {
		for _, kind := range []string{"plain", "html"} {
			text := l.text
			if kind == "html" {
				text = "<p>" + text + "</p>"
			}
			s.takesIn(fmt.Sprintf("From: Letters <letters@type.example>\r\nTo: solvei@skagvikmuseum.example\r\nSubject: %s as %s\r\nMessage-ID: <%d%s@type.example>\r\nContent-Type: text/%s; charset=utf-8\r\n\r\n%s\r\n", l.name, kind, i, kind, kind, text))
		}
	}
	p := open(t, s.url, 1280, 800).enter()
	for _, l := range letters {
		p.visit("/find")
		p.ask(l.name + " letters")
		p.until("document.querySelectorAll('[data-slip]').length === 2")
		for _, kind := range []string{"plain", "html"} {
			p.presses("[data-slip]", l.name+" as "+kind)
			p.reads("[data-testid=subject]", l.name+" as "+kind)
			in := p.Page
			var words *rod.Element
			if kind == "plain" {
				words = p.see("[data-testid=body] p")
			} else {
				p.until("document.querySelector('[data-testid=frame]')?.contentDocument?.querySelector('p')?.textContent.length > 5")
				in = p.MustElement("[data-testid=frame]").MustFrame()
				words = in.MustElement("p")
			}
			words.MustEval("() => document.fonts.ready.then(() => true)")
			require.Contains(t, fontsOf(t, in, words), l.font, "%s as %s", l.name, kind)
			require.Equal(t, l.way, words.MustEval("() => getComputedStyle(this).direction").Str(), "%s as %s", l.name, kind)
		}
	}
}
