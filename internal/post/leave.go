package post

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"syscall"
	"time"
)

// public refuses addresses that are not on the open internet, so that nobody
// can have Ebbe send requests to what stands beside it.
func public(_, address string, _ syscall.RawConn) error {
	host, _, err := net.SplitHostPort(address)
	ip := net.ParseIP(host)
	if err != nil || ip == nil || ip.IsLoopback() || ip.IsPrivate() || ip.IsLinkLocalUnicast() || ip.IsUnspecified() || ip.IsMulticast() {
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
		return fmt.Errorf("its address cannot be read (%s)", reason(err))
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := client.Do(r)
	if err != nil {
		return fmt.Errorf("%s does not answer (%s)", r.URL.Host, reason(err))
	}
	defer res.Body.Close()
	if res.StatusCode < 200 || res.StatusCode > 299 {
		return fmt.Errorf("%s did not do it (it said %d)", r.URL.Host, res.StatusCode)
	}
	return nil
}
