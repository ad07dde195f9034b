package mime

import (
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/when"
)

// Limits on what is read of the markup of a message. What is beyond them is left out.
const (
	maxMarkup = 128 << 10 // bytes of one script
	maxThings = 400       // of a message, whatever they are part of
	maxDeep   = 12        // things within things
	maxSaid   = 500       // bytes of one text
)

// Markup reads what the HTML of a message describes in open markup: JSON-LD in scripts of
// its own (JSON-LD 1.1, section 7, without contexts) and microdata (HTML, section 5.2).
// Nothing is fetched for it; what cannot be read is left out.
func Markup(source string) (out []facts.Item) {
	if !strings.Contains(source, "ld+json") && !strings.Contains(source, "itemscope") {
		return nil
	}
	doc, err := html.Parse(strings.NewReader(source))
	if err != nil {
		return nil
	}
	r := &markup{left: maxThings}
	var walk func(*html.Node, int)
	walk = func(n *html.Node, deep int) {
		if deep > maxNested || r.left <= 0 {
			return
		}
		if n.Type == html.ElementNode {
			if kind, _, _ := strings.Cut(attr(n, "type"), ";"); n.DataAtom == atom.Script && strings.EqualFold(strings.TrimSpace(kind), "application/ld+json") {
				out = append(out, r.script(n)...)
				return
			}
			if has(n, "itemscope") && !has(n, "itemprop") {
				out = append(out, r.scope(n, 0))
				return
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, deep+1)
		}
	}
	walk(doc, 0)
	return out
}

// maxNested is how deep elements may lie within each other before what is below them is
// left out.
const maxNested = 300

type markup struct{ left int }

func (r *markup) script(n *html.Node) []facts.Item {
	if n.FirstChild == nil || len(n.FirstChild.Data) > maxMarkup {
		return nil
	}
	text := strings.TrimSpace(n.FirstChild.Data)
	text = strings.TrimSuffix(strings.TrimPrefix(text, "<!--"), "-->")
	d := json.NewDecoder(strings.NewReader(text))
	d.UseNumber()
	var v any
	if d.Decode(&v) != nil {
		return nil
	}
	return r.things(v, 0)
}

// things are those of a document of JSON-LD: one, several, or those of a graph.
func (r *markup) things(v any, deep int) (out []facts.Item) {
	switch v := v.(type) {
	case []any:
		for _, one := range v {
			if deep < maxDeep {
				out = append(out, r.things(one, deep+1)...)
			}
		}
	case map[string]any:
		if graph, ok := v["@graph"]; ok && deep < maxDeep {
			return r.things(graph, deep+1)
		}
		if i := r.thing(v, deep); i != nil {
			out = append(out, *i)
		}
	}
	return out
}

func (r *markup) thing(v map[string]any, deep int) *facts.Item {
	if r.left--; r.left < 0 || deep > maxDeep {
		return nil
	}
	i := &facts.Item{Props: map[string][]facts.Value{}}
	for _, t := range list(v["@type"]) {
		if t, ok := t.(string); ok && i.Type == "" {
			i.Type = typeName(t)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(v)) {
		if name == "@type" || name == "@context" {
			continue
		}
		for _, one := range list(v[name]) {
			if got, ok := r.value(one, deep); ok && len(i.Props[typeName(name)]) < 20 {
				i.Props[typeName(name)] = append(i.Props[typeName(name)], got)
			}
		}
	}
	return i
}

func (r *markup) value(v any, deep int) (facts.Value, bool) {
	switch v := v.(type) {
	case string:
		return facts.Value{Text: short(v)}, true
	case json.Number:
		return facts.Value{Text: short(v.String())}, true
	case bool:
		return facts.Value{Text: strconv.FormatBool(v)}, true
	case map[string]any:
		if text, ok := v["@value"].(string); ok {
			return facts.Value{Text: short(text)}, true
		}
		if i := r.thing(v, deep+1); i != nil {
			return facts.Value{Item: i}, true
		}
	}
	return facts.Value{}, false
}

func list(v any) []any {
	if l, ok := v.([]any); ok {
		return l
	}
	return []any{v}
}

// typeName is a name without where it is defined.
func typeName(name string) string { return name[strings.LastIndexAny(name, "/#:")+1:] }

func short(t string) string {
	if len(t) > maxSaid {
		t = strings.ToValidUTF8(t[:maxSaid], "")
	}
	return t
}

// scope is a thing of microdata.
func (r *markup) scope(n *html.Node, deep int) facts.Item {
	r.left--
	i := facts.Item{Type: typeName(strings.TrimSpace(attr(n, "itemtype"))), Props: map[string][]facts.Value{}}
	var walk func(*html.Node, int)
	walk = func(n *html.Node, nested int) {
		if nested > maxNested || deep > maxDeep || r.left <= 0 {
			return
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			inner := c.Type == html.ElementNode && has(c, "itemscope")
			if names := strings.Fields(attr(c, "itemprop")); len(names) > 0 {
				v := facts.Value{Text: short(said(c))}
				if inner {
					of := r.scope(c, deep+1)
					v = facts.Value{Item: &of}
				}
				for _, name := range names {
					if len(i.Props[typeName(name)]) < 20 {
						i.Props[typeName(name)] = append(i.Props[typeName(name)], v)
					}
				}
			}
			if !inner {
				walk(c, nested+1)
			}
		}
	}
	walk(n, 0)
	return i
}

// valueIn is the attribute in which an element of that name has its value (HTML, section
// 5.2.4); that of any other is its text, or its content, which schema.org lets any have.
var valueIn = map[atom.Atom]string{atom.Time: "datetime", atom.A: "href", atom.Area: "href", atom.Link: "href", atom.Img: "src", atom.Audio: "src", atom.Video: "src", atom.Source: "src",
	atom.Object: "data", atom.Data: "value", atom.Meter: "value"}

// said is the value of a property.
func said(n *html.Node) string {
	for _, name := range []string{"content", valueIn[n.DataAtom]} {
		if v := attr(n, name); v != "" {
			return v
		}
	}
	var b strings.Builder
	var walk func(*html.Node, int)
	walk = func(n *html.Node, deep int) {
		if deep > maxNested || b.Len() > maxSaid {
			return
		}
		if n.Type == html.TextNode {
			b.WriteString(n.Data)
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, deep+1)
		}
	}
	walk(n, 0)
	return strings.TrimSpace(b.String())
}

func has(n *html.Node, name string) bool {
	return slices.ContainsFunc(n.Attr, func(a html.Attribute) bool { return a.Key == name })
}

// Markup is what a message describes in open markup.
func (b Body) Markup() []facts.Item {
	if b.Raw {
		return nil
	}
	return Markup(b.HTML)
}

// Facts are what a message that describes these things says of parcels, bills and the like,
// to a reader with the week w.
func (b Body) Facts(markup []facts.Item, language when.Language, w when.Week) []facts.Fact {
	return facts.Of(facts.Message{From: b.From, Kind: b.Kind, Subject: b.Subject, Text: b.Text, Language: language, Written: b.Date, Markup: markup}, w)
}
