package mime

import (
	"fmt"
	"image/color"
	"math"
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// readable is the least contrast that text has on what it stands on (WCAG 2.2,
// 1.4.3), whatever colours its sender chose; strong is as much as is looked for.
const (
	readable = 4.5
	strong   = 10
)

// paper is what a message is shown on, as the frame around it dresses it.
type paper struct{ ground, ink, link color.NRGBA }

var (
	lightPaper = paper{color.NRGBA{0xFD, 0xFC, 0xF9, 255}, color.NRGBA{0x13, 0x27, 0x2C, 255}, color.NRGBA{0x0E, 0x66, 0x70, 255}}
	darkPaper  = paper{color.NRGBA{0x12, 0x21, 0x1F, 255}, color.NRGBA{0xE6, 0xED, 0xEC, 255}, color.NRGBA{0x7C, 0xC4, 0xC3, 255}}
)

// stands is what the text of an element stands on, and in which ink; meant is the
// ground that its sender had in mind.
type stands struct{ ground, ink, meant color.NRGBA }

// recolour has the text of n and of all in it be readable on the paper: in the
// dark, light grounds become dark ones, and ink that cannot be read on its ground
// becomes lighter or darker, in its own hue.
func (p paper) recolour(n *html.Node, on stands) {
	if n.Type == html.ElementNode {
		on = p.dress(n, on)
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		p.recolour(c, on)
	}
}

// dress gives an element the colours in which it can be read.
func (p paper) dress(n *html.Node, on stands) stands {
	style := declared(attr(n, "style"))
	ground, grounded := colourOf(last(style, "background-color"), last(style, "background"), attr(n, "bgcolor"))
	ink, inked := colourOf(last(style, "color"), attr(n, "color"))
	if !inked && n.DataAtom == atom.A && attr(n, "href") != "" {
		ink = p.link
	} else if !inked {
		ink = on.ink
	}
	is := on
	if grounded {
		is.ground, is.meant = over(ground, on.ground), over(ground, on.meant)
		if p == darkPaper {
			is.ground = dimmed(is.ground)
		}
	}
	want := readable
	if inked && is.ground != is.meant { // what was black on white is not a faint grey in the dark
		want = min(max(contrast(over(ink, is.meant), is.meant), readable), strong)
	}
	is.ink = legible(over(ink, is.ground), is.ground, want)
	removeAttr(n, "bgcolor")
	removeAttr(n, "color")
	kept := style[:0]
	for _, d := range style {
		if d[0] != "color" && d[0] != "background" && d[0] != "background-color" {
			kept = append(kept, d)
		}
	}
	if grounded {
		kept = append(kept, [2]string{"background-color", hex(is.ground)})
	}
	if inked || is.ink != ink { // else the frame, or what it stands in, says it already
		kept = append(kept, [2]string{"color", hex(is.ink)})
	}
	said := make([]string, len(kept))
	for i, d := range kept {
		said[i] = d[0] + ": " + d[1]
	}
	if len(said) > 0 {
		setAttr(n, "style", strings.Join(said, "; "))
	} else {
		removeAttr(n, "style")
	}
	return is
}

// declared are the declarations of a style attribute that has been made safe.
func declared(style string) (out [][2]string) {
	for part := range strings.SplitSeq(style, ";") {
		if name, value, ok := strings.Cut(part, ":"); ok {
			value = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value), "!important"))
			out = append(out, [2]string{strings.ToLower(strings.TrimSpace(name)), value})
		}
	}
	return out
}

func last(style [][2]string, name string) (value string) {
	for _, d := range style {
		if d[0] == name {
			value = d[1]
		}
	}
	return value
}

var rgb = regexp.MustCompile(`^rgba?\(\s*([\d.]+)(%?)[\s,]+([\d.]+)%?[\s,]+([\d.]+)%?(?:[\s,/]+([\d.]+)(%?))?\s*\)$`)

// colourOf reads the first of these that names a colour, as CSS writes one.
func colourOf(said ...string) (c color.NRGBA, ok bool) {
	for _, s := range said {
		if c, ok = readColour(strings.ToLower(strings.TrimSpace(s))); ok {
			return c, true
		}
	}
	return c, false
}

func readColour(s string) (c color.NRGBA, ok bool) {
	if named, is := colornames.Map[s]; is {
		return color.NRGBA(named), true
	}
	if digits, is := strings.CutPrefix(s, "#"); is {
		if len(digits) == 3 || len(digits) == 4 {
			var double strings.Builder
			for _, d := range digits {
				double.WriteRune(d)
				double.WriteRune(d)
			}
			digits = double.String()
		}
		if len(digits) == 6 {
			digits += "ff"
		}
		v, err := strconv.ParseUint(digits, 16, 32)
		return color.NRGBA{uint8(v >> 24), uint8(v >> 16), uint8(v >> 8), uint8(v)}, err == nil && len(digits) == 8 //nolint:gosec // a byte each
	}
	m := rgb.FindStringSubmatch(s)
	if m == nil {
		return c, false
	}
	part := func(text, percent string, whole float64) uint8 {
		v, _ := strconv.ParseFloat(text, 64)
		if percent != "" {
			v *= whole / 100
		}
		return uint8(min(255, math.Round(v*255/whole)))
	}
	c = color.NRGBA{part(m[1], m[2], 255), part(m[3], m[2], 255), part(m[4], m[2], 255), 255}
	if m[5] != "" {
		c.A = part(m[5], m[6], 1)
	}
	return c, true
}

func hex(c color.NRGBA) string { return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B) }

// over is a colour on a ground that shines through it.
func over(c, ground color.NRGBA) color.NRGBA {
	mix := func(a, b uint8) uint8 { return uint8((int(a)*int(c.A) + int(b)*(255-int(c.A)) + 127) / 255) } //nolint:gosec // a mean of two bytes
	return color.NRGBA{mix(c.R, ground.R), mix(c.G, ground.G), mix(c.B, ground.B), 255}
}

// luminance is the relative luminance of a colour (WCAG 2.2).
func luminance(c color.NRGBA) float64 {
	part := func(v uint8) float64 {
		if s := float64(v) / 255; s > 0.04045 {
			return math.Pow((s+0.055)/1.055, 2.4)
		} else {
			return s / 12.92
		}
	}
	return 0.2126*part(c.R) + 0.7152*part(c.G) + 0.0722*part(c.B)
}

// contrast is the contrast ratio of two colours (WCAG 2.2), from 1 to 21.
func contrast(a, b color.NRGBA) float64 {
	x, y := luminance(a)+0.05, luminance(b)+0.05
	return max(x, y) / min(x, y)
}

// dimmed is the ground that stands in the dark where a light one stood: its
// lightness is turned around, its hue stays. What is dark or strong already stays.
func dimmed(c color.NRGBA) color.NRGBA {
	if luminance(c) < 0.4 {
		return c
	}
	h, s, l := hsl(c)
	return ofHSL(h, min(s, 0.35), 0.10+(1-l)*0.5)
}

// legible is the ink nearest to c, in its own hue, that has that contrast on the
// ground, or as much as can be had.
func legible(c, ground color.NRGBA, want float64) color.NRGBA {
	if contrast(c, ground) >= want {
		return c
	}
	h, s, l := hsl(c)
	step := 0.04
	if contrast(color.NRGBA{0, 0, 0, 255}, ground) > contrast(color.NRGBA{255, 255, 255, 255}, ground) {
		step = -step
	}
	for l += step; l > 0 && l < 1; l += step {
		if better := ofHSL(h, s, l); contrast(better, ground) >= want {
			return better
		}
	}
	return ofHSL(0, 0, math.Round(min(max(l, 0), 1)))
}

func hsl(c color.NRGBA) (h, s, l float64) {
	r, g, b := float64(c.R)/255, float64(c.G)/255, float64(c.B)/255
	top, low := max(r, g, b), min(r, g, b)
	l = (top + low) / 2
	d := top - low
	if d == 0 {
		return 0, 0, l
	}
	s = d / (1 - math.Abs(2*l-1))
	switch top {
	case r:
		h = math.Mod((g-b)/d+6, 6)
	case g:
		h = (b-r)/d + 2
	default:
		h = (r-g)/d + 4
	}
	return h * 60, s, l
}

func ofHSL(h, s, l float64) color.NRGBA {
	part := func(n float64) uint8 {
		k := math.Mod(n+h/30, 12)
		v := l - s*min(l, 1-l)*max(-1, min(k-3, 9-k, 1))
		return uint8(math.Round(255 * min(1, max(0, v))))
	}
	return color.NRGBA{part(0), part(8), part(4), 255}
}
