package mime

import (
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// deepest is how many elements may lie within each other. Deeper ones are left
// out, and what is in them stays: no reader sees a difference, and browsers give
// up at 512.
const deepest = 120

// tree builds the nodes of HTML in one walk over it, well nested, whatever the
// source is. Unlike the algorithm of the standard (HTML, section 13.2.6) it
// never puts marks that were left open around what follows a second time, which
// is what makes a small message large; an element that is left open ends with
// the one around it.
func tree(source string) *html.Node {
	root := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	stack := []*html.Node{root}
	passed := map[atom.Atom]int{} // elements that were left out and are open
	top := func() *html.Node { return stack[len(stack)-1] }
	z := html.NewTokenizer(strings.NewReader(source))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return root
		case html.TextToken:
			if text := string(z.Text()); text != "" {
				top().AppendChild(&html.Node{Type: html.TextNode, Data: text})
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			stack = implied(stack, t.DataAtom)
			if len(stack) > deepest {
				if !void[t.DataAtom] {
					passed[t.DataAtom]++
				}
				continue
			}
			n := &html.Node{Type: html.ElementNode, Data: t.Data, DataAtom: t.DataAtom, Attr: t.Attr}
			top().AppendChild(n)
			if !void[t.DataAtom] {
				stack = append(stack, n)
			}
		case html.EndTagToken:
			t := z.Token()
			if passed[t.DataAtom] > 0 {
				passed[t.DataAtom]--
				continue
			}
			for i := len(stack) - 1; i > 0; i-- {
				if stack[i].DataAtom == t.DataAtom && stack[i].Data == t.Data {
					stack = stack[:i]
					break
				}
				if borders[stack[i].DataAtom] && !borders[t.DataAtom] { // a cell is not ended by what ends within it
					break
				}
			}
		}
	}
}

var void = map[atom.Atom]bool{atom.Br: true, atom.Hr: true, atom.Img: true, atom.Col: true, atom.Wbr: true, atom.Area: true, atom.Base: true, atom.Embed: true, atom.Input: true, atom.Link: true, atom.Meta: true, atom.Source: true, atom.Track: true}

// borders are what an end tag within does not reach beyond.
var borders = map[atom.Atom]bool{atom.Table: true, atom.Td: true, atom.Th: true, atom.Caption: true, atom.Tr: true, atom.Tbody: true, atom.Thead: true, atom.Tfoot: true}

// ends says which open elements a start tag ends (HTML, section 13.1.2.4), up to
// which it looks for them.
var ends = map[atom.Atom]struct{ these, within []atom.Atom }{
	atom.Li: {[]atom.Atom{atom.Li}, []atom.Atom{atom.Ul, atom.Ol, atom.Table}},
	atom.Dt: {[]atom.Atom{atom.Dt, atom.Dd}, []atom.Atom{atom.Dl, atom.Table}},
	atom.Dd: {[]atom.Atom{atom.Dt, atom.Dd}, []atom.Atom{atom.Dl, atom.Table}},
	atom.Td: {[]atom.Atom{atom.Td, atom.Th}, []atom.Atom{atom.Table, atom.Tr}},
	atom.Th: {[]atom.Atom{atom.Td, atom.Th}, []atom.Atom{atom.Table, atom.Tr}},
	atom.Tr: {[]atom.Atom{atom.Tr}, []atom.Atom{atom.Table}},
}

func init() {
	for _, a := range []atom.Atom{atom.Tbody, atom.Thead, atom.Tfoot} {
		ends[a] = struct{ these, within []atom.Atom }{[]atom.Atom{atom.Tbody, atom.Thead, atom.Tfoot}, []atom.Atom{atom.Table}}
	}
	for _, a := range []atom.Atom{atom.P, atom.Div, atom.Ul, atom.Ol, atom.Dl, atom.Table, atom.Blockquote, atom.Pre, atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6, atom.Hr, atom.Center, atom.Section, atom.Article, atom.Address, atom.Figure, atom.Header, atom.Footer, atom.Main} {
		ends[a] = struct{ these, within []atom.Atom }{[]atom.Atom{atom.P}, []atom.Atom{atom.Table, atom.Td, atom.Th, atom.Caption}}
	}
}

// implied ends the elements that end where an element of the kind a begins.
func implied(stack []*html.Node, a atom.Atom) []*html.Node {
	rule, ok := ends[a]
	if !ok {
		return stack
	}
	for i := len(stack) - 1; i > 0; i-- {
		switch here := stack[i].DataAtom; {
		case slices.Contains(rule.these, here):
			return stack[:i]
		case slices.Contains(rule.within, here):
			return stack
		}
	}
	return stack
}
