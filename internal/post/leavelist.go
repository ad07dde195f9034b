package post

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"syscall"
	"time"
)

// notPublic are the ranges that are not on the open internet besides those that
// package net knows: what providers share behind one address (RFC 6598), what
// stands for an IPv4 address, which may be any (RFC 6052, RFC 3056), and what is
// for documents and tests.
var notPublic = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"), netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"),
	netip.MustParsePrefix("64:ff9b::/96"), netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("2001::/32"), netip.MustParsePrefix("2001:db8::/32"),
}

// public refuses addresses that are not on the open internet, so that nobody
// can have Ebbe send requests to what stands beside it.
func public(_, address string, _ syscall.RawConn) error {
	host, _, err := net.SplitHostPort(address)
	ip := net.ParseIP(host)
	a, aerr := netip.ParseAddr(host)
	if aerr == nil {
		for _, p := range notPublic {
			if p.Contains(a.Unmap()) {
				return errors.New("it is no address on the open internet")
			}
		}
	}
	if err != nil || aerr != nil || ip == nil || ip.IsLoopback() || ip.IsPrivate() || ip.IsLinkLocalUnicast() || ip.IsUnspecified() || ip.IsMulticast() {
		return errors.New("it is no address on the open internet")
	}
	return nil
}

// LeaveList sends the one request that leaves a list (RFC 8058, section 3.2):
// without cookies, following nowhere. The error says in words what went wrong.
func (n Network) LeaveList(ctx context.Context, address string) error {
	ctx, cancel := context.WithTimeout(ctx, n.Patience)
	defer cancel()
	dial := n.Dial
	if n.Web != nil {
		dial = n.Web
	}
	client := &http.Client{
		Transport:     &http.Transport{DialContext: dial, TLSClientConfig: &tls.Config{RootCAs: n.Roots, MinVersion: tls.VersionTLS12}, DisableKeepAlives: true, TLSHandshakeTimeout: 15 * time.Second},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, address, strings.NewReader("List-Unsubscribe=One-Click"))
	if err != nil {
		return fmt.Errorf("its address cannot be read (%s)", Reason(err))
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := client.Do(r)
	if err != nil {
		return fmt.Errorf("%s does not answer (%s)", r.URL.Host, Reason(err))
	}
	defer res.Body.Close()
	if res.StatusCode < 200 || res.StatusCode > 299 {
		return fmt.Errorf("%s did not do it (it said %d)", r.URL.Host, res.StatusCode)
	}
	return nil
}
