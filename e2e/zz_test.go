//go:build shots

package e2e

import "testing"

func TestZZ(t *testing.T) {
	s := demo(t)
	s.takesIn("From: Letters <letters@type.example>\r\nTo: solvei@skagvikmuseum.example\r\nSubject: Polish as plain\r\nMessage-ID: <1@type.example>\r\nContent-Type: text/html; charset=utf-8\r\n\r\n<p>Żółć i źdźbło</p>\r\n")
	p := open(t, s.url, 1280, 800).enter()
	p.visit("/find")
	p.MustElement("#find").MustSelectAllText()
	p.MustEval("() => { window.errs = []; const o = console.error; console.error = (...a) => { window.errs.push(a.map(x => x?.stack ?? String(x)).join(` | `)); o(...a) } }")
	p.write("Polish letters")
	p.until("document.body.innerText.includes('could not be shown')")
	t.Log(p.MustEval("() => window.errs.join(`\n`).slice(0, 1500)").Str())
}
