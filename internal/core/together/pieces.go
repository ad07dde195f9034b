package together

import (
	"net/url"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	extended "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"
)

// PieceKind is what a piece of a comment is.
type PieceKind string

// The kinds of pieces: those that stand below each other, and those in a line.
const (
	Paragraph PieceKind = "paragraph"
	Bullets   PieceKind = "bullets"
	Numbers   PieceKind = "numbers"
	Item      PieceKind = "item"
	Quote     PieceKind = "quote"
	Block     PieceKind = "block" // as it was typed

	Plain   PieceKind = "plain"
	Strong  PieceKind = "strong"
	Stress  PieceKind = "stress"
	Struck  PieceKind = "struck"
	Code    PieceKind = "code"
	Link    PieceKind = "link"
	Called  PieceKind = "called" // somebody, with an @
	NewLine PieceKind = "line"
)

// Piece is a part of a comment as it is shown: a text, or pieces. It is no HTML, so nothing in
// a comment can become any.
type Piece struct {
	Kind   PieceKind `json:"kind"`
	Text   string    `json:"text,omitempty"`
	Href   string    `json:"href,omitempty"`   // of a link: http, https or mailto
	Person int64     `json:"person,omitempty"` // of one who is called
	Pieces []Piece   `json:"pieces,omitempty"`
}

// deepest is how deep pieces stand in each other; what is deeper is shown as it was typed.
const deepest = 8

// commented reads what is marked in comments as in letters (CommonMark), and links that stand
// there bare. There are no headings and no HTML: a comment is short.
var commented = goldmark.New(goldmark.WithParser(parser.NewParser(
	parser.WithBlockParsers(
		prioritized(parser.NewListParser(), 300), prioritized(parser.NewListItemParser(), 400), prioritized(parser.NewFencedCodeBlockParser(), 700),
		prioritized(parser.NewBlockquoteParser(), 800), prioritized(parser.NewParagraphParser(), 1000)),
	parser.WithInlineParsers(
		prioritized(parser.NewCodeSpanParser(), 100), prioritized(parser.NewLinkParser(), 200), prioritized(parser.NewAutoLinkParser(), 300), prioritized(parser.NewEmphasisParser(), 500)),
)), goldmark.WithExtensions(extension.Strikethrough, extension.Linkify))

// PiecesOf is a comment as it is shown, in which these people can be called.
func PiecesOf(comment string, people []Named) []Piece {
	r := reader{source: []byte(comment), people: people}
	return append([]Piece{}, r.below(commented.Parser().Parse(text.NewReader(r.source)), 1)...)
}

func prioritized(v any, priority int) util.PrioritizedValue { return util.Prioritized(v, priority) }

type reader struct {
	source []byte
	people []Named
}

func (r reader) below(n ast.Node, depth int) (out []Piece) {
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		out = append(out, r.piece(c, depth)...)
	}
	return joined(out, r.people)
}

func (r reader) piece(n ast.Node, depth int) []Piece {
	if depth > deepest {
		return []Piece{{Kind: Plain, Text: r.typed(n)}}
	}
	whole := func(k PieceKind) []Piece { return []Piece{{Kind: k, Pieces: r.below(n, depth+1)}} }
	switch n := n.(type) {
	case *ast.Text:
		out := []Piece{{Kind: Plain, Text: string(util.UnescapePunctuations(n.Segment.Value(r.source)))}}
		if n.SoftLineBreak() || n.HardLineBreak() { // a line ends where it was ended
			out = append(out, Piece{Kind: NewLine})
		}
		return out
	case *ast.String:
		return []Piece{{Kind: Plain, Text: string(n.Value)}}
	case *ast.Paragraph, *ast.TextBlock:
		return whole(Paragraph)
	case *ast.List:
		if n.IsOrdered() {
			return whole(Numbers)
		}
		return whole(Bullets)
	case *ast.ListItem:
		return whole(Item)
	case *ast.Blockquote:
		return whole(Quote)
	case *ast.FencedCodeBlock:
		return []Piece{{Kind: Block, Text: r.lines(n)}}
	case *ast.CodeSpan:
		return []Piece{{Kind: Code, Text: r.typed(n)}}
	case *ast.Emphasis:
		if n.Level > 1 {
			return whole(Strong)
		}
		return whole(Stress)
	case *extended.Strikethrough:
		return whole(Struck)
	case *ast.Link:
		return r.link(string(n.Destination), r.below(n, depth+1))
	case *ast.AutoLink:
		return r.link(string(n.URL(r.source)), []Piece{{Kind: Plain, Text: string(n.Label(r.source))}})
	default:
		return r.below(n, depth+1)
	}
}

// link is a link, or what would be one where it leads nowhere that one can go.
func (r reader) link(to string, shown []Piece) []Piece {
	u, err := url.Parse(to)
	if err != nil || !slices.Contains([]string{"http", "https", "mailto"}, strings.ToLower(u.Scheme)) {
		return shown
	}
	return []Piece{{Kind: Link, Href: to, Pieces: shown}}
}

// typed is the text below a node.
func (r reader) typed(n ast.Node) string {
	var b strings.Builder
	_ = ast.Walk(n, func(n ast.Node, entering bool) (ast.WalkStatus, error) { // never fails
		if t, ok := n.(*ast.Text); ok && entering {
			b.Write(t.Segment.Value(r.source))
			if t.SoftLineBreak() || t.HardLineBreak() {
				b.WriteByte(' ')
			}
		} else if c, ok := n.(*ast.FencedCodeBlock); ok && entering {
			b.WriteString(r.lines(c))
		}
		return ast.WalkContinue, nil
	})
	return b.String()
}

func (r reader) lines(n ast.Node) string {
	var b strings.Builder
	for i := range n.Lines().Len() {
		line := n.Lines().At(i)
		b.Write(line.Value(r.source))
	}
	return strings.TrimSuffix(b.String(), "\n")
}

// joined are pieces with the plain ones that stand beside each other as one, and in those
// whoever is called.
func joined(in []Piece, people []Named) (out []Piece) {
	for i := 0; i < len(in); i++ {
		if in[i].Kind != Plain {
			out = append(out, in[i])
			continue
		}
		text := in[i].Text
		for i+1 < len(in) && in[i+1].Kind == Plain {
			i++
			text += in[i].Text
		}
		at := 0
		for _, m := range Mentions(text, people) {
			if m.Begin > at {
				out = append(out, Piece{Kind: Plain, Text: text[at:m.Begin]})
			}
			out = append(out, Piece{Kind: Called, Text: text[m.Begin:m.End], Person: m.Person})
			at = m.End
		}
		if at < len(text) {
			out = append(out, Piece{Kind: Plain, Text: text[at:]})
		}
	}
	return out
}

// said is the text of pieces in one line, as a notification says it.
func said(in []Piece, b *strings.Builder) {
	for _, p := range in {
		switch p.Kind {
		case Paragraph, Item, Block, Quote, NewLine:
			if b.Len() > 0 {
				b.WriteByte(' ')
			}
		}
		b.WriteString(p.Text)
		said(p.Pieces, b)
	}
}

// Line is a comment in one line without what marks it, at most so many characters of it.
func Line(pieces []Piece, most int) string {
	var b strings.Builder
	said(pieces, &b)
	line := []rune(strings.Join(strings.Fields(b.String()), " "))
	if len(line) > most {
		return strings.TrimSpace(string(line[:most-1])) + "…"
	}
	return string(line)
}

// CalledIn are those who are called in a comment, each once, in the order in which they are.
func CalledIn(pieces []Piece) (ids []int64) {
	for _, p := range pieces {
		for _, id := range append([]int64{p.Person}, CalledIn(p.Pieces)...) {
			if id != 0 && !slices.Contains(ids, id) {
				ids = append(ids, id)
			}
		}
	}
	return ids
}
