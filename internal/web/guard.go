package web

import (
	"mime"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe/internal/identity"
)

// bodyWithin is how long the body of a request may take to come in; one with a
// file has more.
const bodyWithin = 30 * time.Second

// contentPolicy is what pages of Ebbe itself may do (Content Security Policy).
const contentPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; " +
	"frame-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// noncePlace stands in the built page where the nonce of its answer goes: the style
// elements of the interface carry it, those of anybody else cannot know it (CSP
// level 3, section 2.3.1).
const noncePlace = "{{nonce}}"

// secure says whether the browser asks by TLS.
func (s *server) secure(c *gin.Context) bool {
	return c.Request.TLS != nil || s.behind(c) && strings.EqualFold(c.GetHeader("X-Forwarded-Proto"), "https")
}

// site is at what address a browser asks.
func (s *server) site(c *gin.Context) identity.Site {
	scheme := "http"
	if s.secure(c) {
		scheme = "https"
	}
	return identity.Site{Host: hostOf(c), Origin: scheme + "://" + c.Request.Host}
}

// hostOf is the name or the address that was asked, without the port.
func hostOf(c *gin.Context) string {
	host := strings.ToLower(c.Request.Host)
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	return strings.TrimSuffix(strings.Trim(host, "[]"), ".")
}

// behind says whether one of the proxies asks, whose word is taken.
func (s *server) behind(c *gin.Context) bool {
	at, err := netip.ParseAddrPort(c.Request.RemoteAddr)
	return err == nil && slices.ContainsFunc(s.Behind, func(p netip.Prefix) bool { return p.Contains(at.Addr().Unmap()) })
}

// tlsFor is how long browsers ask by TLS alone once they have (RFC 6797).
const tlsFor = "max-age=31536000"

func (s *server) securityHeaders(c *gin.Context) {
	h := c.Writer.Header()
	if s.secure(c) {
		h.Set("Strict-Transport-Security", tlsFor)
	}
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	h.Set("Cache-Control", "no-store")
}

func limitBody(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxRequest)
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(bodyWithin))
	}
}

// rightHost refuses requests that were made to another name: a page elsewhere
// can have its name stand for this machine (DNS rebinding), but not say so.
// Addresses stand for themselves.
func (s *server) rightHost(c *gin.Context) {
	host := hostOf(c)
	if net.ParseIP(host) != nil || host == "localhost" || strings.HasSuffix(host, ".localhost") || slices.Contains(s.Hosts, host) {
		return
	}
	refuse(c, http.StatusMisdirectedRequest, "other-name", "Ebbe does not answer at this name. Start it with --host and the name, if it is yours.", "")
}

// sameOrigin refuses requests that change something and that a page of another
// origin has caused.
func sameOrigin(c *gin.Context) {
	if c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead {
		return
	}
	site, origin := c.GetHeader("Sec-Fetch-Site"), c.GetHeader("Origin")
	u, err := url.Parse(origin)
	other := origin != "" && (err != nil || !strings.EqualFold(u.Host, c.Request.Host))
	if other || site != "" && site != "same-origin" && site != "none" {
		refuse(c, http.StatusForbidden, "other-site", "This request did not come from Ebbe itself, so nothing was done.", "")
	}
}

// onlyJSON refuses bodies of another type, which pages of other sites could send.
func onlyJSON(c *gin.Context) {
	if c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead {
		return
	}
	if kind, _, err := mime.ParseMediaType(c.GetHeader("Content-Type")); err != nil || kind != "application/json" {
		refuse(c, http.StatusForbidden, "other-site", "This request did not come from Ebbe itself, so nothing was done.", "")
	}
}
