package mime

import (
	"fmt"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// SafeHTML is the HTML of a message made safe to show: no scripts, forms,
// frames, plug-ins, style sheets, positioned boxes or foreign content. It is
// still to be shown in a sandboxed frame under a strict policy.
type SafeHTML struct {
	HTML   string
	Remote int // things on other machines that were left out, or let in
}

var policy = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "br", "hr", "div", "span", "h1", "h2", "h3", "h4", "h5", "h6", "blockquote", "pre", "code", "tt", "kbd", "samp",
		"b", "strong", "i", "em", "u", "s", "strike", "del", "ins", "sub", "sup", "small", "big", "center", "font", "q", "cite", "abbr", "mark",
		"ul", "ol", "li", "dl", "dt", "dd", "table", "caption", "thead", "tbody", "tfoot", "tr", "td", "th", "colgroup", "col", "img", "a",
		"figure", "figcaption", "section", "article", "header", "footer", "main", "address", "time", "wbr", "bdi", "bdo")
	p.AllowNoAttrs().OnElements("span", "font", "div", "a")
	p.AllowAttrs("href").OnElements("a")
	p.AllowAttrs("src", "alt").OnElements("img")
	size := regexp.MustCompile(`^\d{1,4}(px|%)?$`)
	p.AllowAttrs("width", "height").Matching(size).OnElements("img", "table", "td", "th", "col", "hr")
	p.AllowAttrs("cellpadding", "cellspacing", "border", "colspan", "rowspan", "start").Matching(size).OnElements("table", "td", "th", "img", "ol", "col")
	p.AllowAttrs("align", "valign").Matching(regexp.MustCompile(`(?i)^[a-z]{2,10}$`)).OnElements("table", "tr", "td", "th", "p", "div", "img", "h1", "h2", "h3", "center", "hr")
	color := regexp.MustCompile(`(?i)^(#[0-9a-f]{3,8}|[a-z]{3,20}|rgba?\([\d\s.,%/]{5,40}\))$`)
	p.AllowAttrs("bgcolor").Matching(color).OnElements("table", "tr", "td", "th")
	p.AllowAttrs("color").Matching(color).OnElements("font")
	p.AllowAttrs("size").Matching(regexp.MustCompile(`^[+-]?[1-7]$`)).OnElements("font")
	p.AllowAttrs("dir").Matching(regexp.MustCompile(`(?i)^(ltr|rtl|auto)$`)).Globally()
	p.AllowAttrs("lang").Matching(regexp.MustCompile(`^[A-Za-z-]{2,20}$`)).Globally()
	p.AllowAttrs("title").OnElements("abbr")
	p.AllowURLSchemes("http", "https", "mailto", "tel", "cid")
	p.AllowDataURIImages()
	p.RequireParseableURLs(true)
	p.AllowRelativeURLs(false)
	length := regexp.MustCompile(`(?i)^(-?0|\d{1,4}(\.\d+)?(px|pt|em|rem|ex|%)?|auto|thin|medium|thick|normal|inherit)(\s+(0|\d{1,4}(\.\d+)?(px|pt|em|rem|ex|%)?|auto)){0,3}$`)
	p.AllowStyles("color", "background-color", "background").Matching(color).Globally()
	p.AllowStyles("padding", "padding-top", "padding-right", "padding-bottom", "padding-left", "margin", "margin-top", "margin-right", "margin-bottom", "margin-left",
		"width", "max-width", "min-width", "height", "font-size", "line-height", "letter-spacing", "border-radius", "border-width", "border-spacing", "text-indent").Matching(length).Globally()
	p.AllowStyles("border", "border-top", "border-right", "border-bottom", "border-left").Matching(regexp.MustCompile(`(?i)^[\w\s#.%(),-]{1,60}$`)).Globally()
	word := regexp.MustCompile(`(?i)^[a-z0-9 -]{1,40}$`)
	p.AllowStyles("border-style", "border-color", "border-collapse", "font-style", "font-weight", "text-align", "text-decoration", "text-transform", "vertical-align",
		"white-space", "word-break", "overflow-wrap", "list-style-type", "direction", "float", "clear").Matching(word).Globally()
	p.AllowStyles("font-family").Matching(regexp.MustCompile(`(?i)^[\w\s,'"-]{1,120}$`)).Globally()
	p.AllowStyles("display").MatchingEnum("none", "block", "inline", "inline-block", "table", "table-row", "table-cell").Globally()
	return p
}()

// Sanitise makes the HTML of a message safe to show, and readable on light or dark
// paper whatever colours its sender chose. Images on other machines
// are left out, and counted, unless remote is set; inline says under which
// address an image that came with the message is fetched, "" for none.
func Sanitise(source string, dark, remote bool, inline func(contentID string) string) SafeHTML {
	return SanitiseQuoting(source, dark, remote, inline, func(string) bool { return false })
}

// SanitiseQuoting is the same; alone says of the text of a quotation that it stands in no
// other message, so that it is not folded away.
func SanitiseQuoting(source string, dark, remote bool, inline func(contentID string) string, alone func(quoted string) bool) SafeHTML {
	var out SafeHTML
	body := tree(policy.Sanitize(onItsGround(source)))
	var walk func(*html.Node)
	walk = func(n *html.Node) {
		if n.Type == html.ElementNode {
			switch n.DataAtom {
			case atom.Img:
				out.image(n, remote, inline)
			case atom.A:
				link(n)
			}
			shrinkable(n)
		}
		for c := n.FirstChild; c != nil; {
			next := c.NextSibling
			walk(c)
			if isPixel(c) {
				n.RemoveChild(c)
				c = next
				continue
			}
			if c.DataAtom == atom.Blockquote && !within(n, atom.Blockquote) {
				fold(n, c, alone)
			}
			if c.DataAtom == atom.Table && !within(n, atom.Table) {
				aside(n, c)
			}
			c = next
		}
	}
	walk(body)
	on := lightPaper
	if dark {
		on = darkPaper
	}
	on.recolour(body, stands{on.ground, on.ink, lightPaper.ground})
	var b strings.Builder
	for c := body.FirstChild; c != nil; c = c.NextSibling {
		_ = html.Render(&b, c) // a builder takes all
	}
	out.HTML = b.String()
	return out
}

func within(n *html.Node, a atom.Atom) bool {
	for ; n != nil; n = n.Parent {
		if n.DataAtom == a {
			return true
		}
	}
	return false
}

// fold hides a quotation behind a line that opens it, open already if it stands alone.
func fold(parent, quote *html.Node, alone func(quoted string) bool) {
	details := &html.Node{Type: html.ElementNode, Data: "details", DataAtom: atom.Details}
	var text strings.Builder
	_ = html.Render(&text, quote) // a builder takes all
	if alone(TextOf(text.String())) {
		details.Attr = []html.Attribute{{Key: "open"}}
	}
	summary := &html.Node{Type: html.ElementNode, Data: "summary", DataAtom: atom.Summary}
	summary.AppendChild(&html.Node{Type: html.TextNode, Data: "Quoted text"})
	parent.InsertBefore(details, quote)
	parent.RemoveChild(quote)
	details.AppendChild(summary)
	details.AppendChild(quote)
}

// aside puts a table into a box of its own, which is scrolled where the table is
// wider than the column, and not all that stands around it.
func aside(parent, table *html.Node) {
	box := &html.Node{Type: html.ElementNode, Data: "div", DataAtom: atom.Div, Attr: []html.Attribute{{Key: "class", Val: "wide"}}}
	parent.InsertBefore(box, table)
	parent.RemoveChild(table)
	box.AppendChild(table)
}

// onItsGround keeps the dark ground that the page of a message was given, and its
// ink: what stands on it was made for that. A light one is that of the paper.
func onItsGround(source string) string {
	z := html.NewTokenizer(strings.NewReader(source))
	for range 2000 { // a body begins before that, or there is none
		switch z.Next() {
		case html.ErrorToken:
			return source
		case html.StartTagToken:
			t := z.Token()
			if t.DataAtom != atom.Body {
				continue
			}
			n := &html.Node{Type: html.ElementNode, Attr: t.Attr}
			style := declared(attr(n, "style"))
			ground, ok := colourOf(last(style, "background-color"), last(style, "background"), attr(n, "bgcolor"))
			if !ok || ground.A < 128 || luminance(ground) > 0.4 {
				return source
			}
			ink, ok := colourOf(last(style, "color"), attr(n, "text"))
			if !ok {
				ink = lightPaper.ink
			}
			return fmt.Sprintf(`<div style="background-color: %s; color: %s; padding: 14px">%s</div>`, hex(ground), hex(ink), source)
		}
	}
	return source
}

// pictureData is an image within an address (RFC 2397) that cannot hold code.
var pictureData = regexp.MustCompile(`^data:image/(png|jpeg|gif|webp);base64,`)

func (out *SafeHTML) image(n *html.Node, remote bool, inline func(string) string) {
	src := attr(n, "src")
	u, err := url.Parse(src)
	switch {
	case err != nil || src == "":
		removeAttr(n, "src")
	case u.Scheme == "cid":
		id, _ := url.PathUnescape(u.Opaque)
		if at := inline(id); at != "" {
			setAttr(n, "src", at)
		} else {
			removeAttr(n, "src")
		}
	case u.Scheme == "data" && !pictureData.MatchString(src):
		removeAttr(n, "src")
	case u.Scheme == "http" || u.Scheme == "https":
		out.Remote++
		if !remote {
			removeAttr(n, "src")
			setAttr(n, "class", "left-out")
		} else {
			setAttr(n, "referrerpolicy", "no-referrer")
		}
	}
}

var wideStyle = regexp.MustCompile(`(?i)(^|;)\s*(?:min-)?width:\s*(\d{3,4})px`)

// shrinkable turns the fixed widths of a layout made for a wide page into
// limits, so that it fits the column it is read in.
func shrinkable(n *html.Node) {
	if style := attr(n, "style"); style != "" {
		setAttr(n, "style", wideStyle.ReplaceAllString(style, "$1 max-width: ${2}px"))
	}
	width, err := strconv.Atoi(strings.TrimSuffix(attr(n, "width"), "px"))
	if err != nil || width < 300 {
		return
	}
	removeAttr(n, "width")
	limit := fmt.Sprintf("%s; width: 100%%; max-width: %dpx", attr(n, "style"), width)
	if n.DataAtom == atom.Img {
		removeAttr(n, "height")
		limit += "; height: auto"
	}
	setAttr(n, "style", strings.TrimPrefix(limit, "; "))
}

// isPixel says that n is an image too small to be seen, which only tells its
// sender that somebody looked.
func isPixel(n *html.Node) bool {
	small := func(s string) bool { v, err := strconv.Atoi(s); return err == nil && v <= 2 }
	return n.DataAtom == atom.Img && small(attr(n, "width")) && small(attr(n, "height"))
}

// link makes a link open elsewhere and say where it goes.
func link(n *html.Node) {
	href := attr(n, "href")
	if href == "" {
		return
	}
	setAttr(n, "title", href)
	setAttr(n, "target", "_blank")
	setAttr(n, "rel", "noopener noreferrer nofollow")
}

func attr(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key {
			return a.Val
		}
	}
	return ""
}

func removeAttr(n *html.Node, key string) {
	kept := n.Attr[:0]
	for _, a := range n.Attr {
		if a.Key != key {
			kept = append(kept, a)
		}
	}
	n.Attr = kept
}

func setAttr(n *html.Node, key, value string) {
	removeAttr(n, key)
	n.Attr = append(n.Attr, html.Attribute{Key: key, Val: value})
}

// TextOf is the readable text of HTML, for the index and for what is proposed
// from a message. Of a head only what no reader sees is left out, so that one
// that is never ended hides nothing.
func TextOf(source string) string { return textOf(source, false) }

// QuotedTextOf is the same, with “> ” before each line of what it quotes.
func QuotedTextOf(source string) string { return textOf(source, true) }

// maxQuoted is how many quotations within each other are marked.
const maxQuoted = 12

func textOf(source string, quotes bool) string {
	z := html.NewTokenizer(strings.NewReader(source))
	var b strings.Builder
	skip, depth := 0, 0
	line, space := false, false // the line that is being written has words; a space stands before the next
	end := func() {
		if line {
			b.WriteByte('\n')
		}
		line, space = false, false
	}
	for {
		kind := z.Next()
		switch kind {
		case html.ErrorToken:
			return strings.TrimSpace(b.String())
		case html.TextToken:
			if skip > 0 {
				continue
			}
			for _, r := range string(z.Text()) {
				if unicode.IsSpace(r) && r != '\u00a0' {
					space = true
					continue
				}
				if !line && quotes && depth > 0 {
					b.WriteString(strings.Repeat(">", min(depth, maxQuoted)) + " ")
				}
				if space && line {
					b.WriteByte(' ')
				}
				b.WriteRune(r)
				line, space = true, false
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			switch string(name) {
			case "script", "style", "title":
				if kind == html.StartTagToken {
					skip++
				}
			case "blockquote":
				end()
				depth++
			case "br":
				if !line {
					b.WriteByte('\n')
				}
				end()
			case "p", "div", "tr", "li", "h1", "h2", "h3", "table", "ul", "ol", "pre":
				end()
			case "td", "th":
				space = true
			}
		case html.EndTagToken:
			name, _ := z.TagName()
			switch string(name) {
			case "script", "style", "title":
				skip = max(0, skip-1)
			case "blockquote":
				end()
				depth = max(0, depth-1)
			case "p", "div", "tr", "li", "h1", "h2", "h3", "table", "ul", "ol", "pre":
				end()
			}
		}
	}
}

// PlainHTML shows a plain text as HTML, line by line.
func PlainHTML(text string) string {
	return "<pre style=\"font:inherit;white-space:pre-wrap;margin:0\">" + html.EscapeString(text) + "</pre>"
}
