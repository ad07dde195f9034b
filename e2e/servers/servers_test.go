// Package servers drives Ebbe against servers that nobody here wrote: a mailbox
// server and a transfer agent as Debian ships them. Where they are not installed
// its tests say so in one line and are left out.
package servers

import (
	"bufio"
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/mime"
)

const (
	domain = "skagvik.example"
	me     = "solvei@" + domain
	secret = "low-tide-at-nine"
)

// host is a mailbox server and a transfer agent, running on the loopback.
type host struct {
	dir       string
	roots     *x509.CertPool
	imap, tls int // ports
	smtp      int
	elsewhere int // where all other domains are: a server that knows nobody
	said      map[string]*log
}

// log is what a server has said, which a test that waited in vain for it shows.
type log struct {
	mu   sync.Mutex
	text bytes.Buffer
}

func (l *log) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(b)
}

func (l *log) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

var (
	served *host // of all tests; nil where the servers are not installed
	why    string
)

func TestMain(m *testing.M) {
	var stop func()
	served, stop, why = start()
	code := m.Run()
	if stop != nil {
		stop()
	}
	os.Exit(code)
}

// standing gives the servers, or leaves the test out.
func standing(t *testing.T) *host {
	t.Helper()
	if served == nil {
		if os.Getenv("CI") != "" {
			t.Fatal("the servers are missing: " + why)
		}
		t.Skip("left out: " + why + " (make servers)")
	}
	return served
}

// start starts the servers in a folder of their own.
func start() (h *host, stop func(), why string) {
	for _, program := range []string{"dovecot", "postfix"} {
		if _, err := exec.LookPath(program); err != nil {
			return nil, nil, program + " is not installed"
		}
	}
	if os.Getuid() != 0 {
		return nil, nil, "they can be started by root alone"
	}
	dir, err := os.MkdirTemp("/tmp", "ebbe-mta") // the paths of their sockets have to be short
	if err != nil {
		return nil, nil, err.Error()
	}
	h = &host{dir: dir, said: map[string]*log{}}
	var ends []func()
	stop = func() {
		for _, end := range ends {
			end()
		}
		os.RemoveAll(dir)
	}
	for _, begin := range []func() (func(), error){h.certificate, h.nobodyElsewhere, h.mailboxes, h.transfer} {
		end, err := begin()
		if end != nil {
			ends = append(ends, end)
		}
		if err != nil {
			stop()
			return nil, nil, err.Error()
		}
	}
	return h, stop, ""
}

func (h *host) path(name string) string { return filepath.Join(h.dir, name) }

func (h *host) write(name, content string) error {
	return os.WriteFile(h.path(name), []byte(content), 0o644)
}

// certificate makes one that only the tests trust.
func (h *host) certificate() (func(), error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, err
	}
	c := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "localhost"}, DNSNames: []string{"localhost"}, IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
		NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(24 * time.Hour), IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &key.PublicKey, key)
	if err != nil {
		return nil, err
	}
	raw, err := x509.MarshalECPrivateKey(key)
	if err != nil {
		return nil, err
	}
	h.roots = x509.NewCertPool()
	parsed, err := x509.ParseCertificate(der)
	if err != nil {
		return nil, err
	}
	h.roots.AddCert(parsed)
	return nil, errors.Join(os.Chmod(h.dir, 0o755), h.write("cert.pem", string(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}))),
		h.write("key.pem", string(pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: raw}))))
}

// port gives a port that is free.
func port() int {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port
}

// answers waits until something listens at a port.
func answers(p int, over <-chan error) error {
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); {
		if c, err := net.DialTimeout("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(p)), time.Second); err == nil {
			return c.Close()
		}
		select {
		case err := <-over:
			return fmt.Errorf("it ended: %w", err)
		case <-time.After(20 * time.Millisecond): // looked for again, as nothing tells
		}
	}
	return errors.New("it does not listen")
}

// run runs a server until its end is called.
func (h *host) run(ready int, name string, args ...string) (func(), error) {
	said := &log{}
	h.said[name] = said
	cmd := exec.Command(name, args...)
	cmd.Stdout, cmd.Stderr = said, said
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	over := make(chan error, 1)
	go func() { over <- cmd.Wait() }()
	end := func() {
		_ = cmd.Process.Signal(syscall.SIGTERM)
		select {
		case <-over:
		case <-time.After(10 * time.Second):
			_ = syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL)
		}
	}
	if err := answers(ready, over); err != nil {
		end()
		return nil, fmt.Errorf("%s could not be started: %w: %s", name, err, said.String())
	}
	return end, nil
}

// nobodyElsewhere is the server of all other domains: it takes mail for nobody.
func (h *host) nobodyElsewhere() (func(), error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	h.elsewhere = l.Addr().(*net.TCPAddr).Port
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				fmt.Fprint(c, "220 elsewhere\r\n")
				for in := bufio.NewScanner(c); in.Scan(); {
					answer := "250 ok"
					if strings.HasPrefix(strings.ToUpper(in.Text()), "RCPT") {
						answer = "550 5.1.1 nobody of that name lives here"
					}
					fmt.Fprint(c, answer+"\r\n")
				}
			}()
		}
	}()
	return func() { _ = l.Close() }, nil
}

// mailboxes starts the mailbox server.
func (h *host) mailboxes() (func(), error) {
	h.imap, h.tls = port(), port()
	nobody, err := user.Lookup("nobody")
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(h.path("mail"), 0o777); err != nil {
		return nil, err
	}
	if err := os.Chmod(h.path("mail"), 0o777); err != nil {
		return nil, err
	}
	conf := fmt.Sprintf(`
protocols = imap
listen = 127.0.0.1
base_dir = %[1]s/run
state_dir = %[1]s/run
log_path = %[1]s/mailboxes.log
ssl = yes
ssl_cert = <%[1]s/cert.pem
ssl_key = <%[1]s/key.pem
disable_plaintext_auth = no
auth_mechanisms = plain login
first_valid_uid = 1
mail_location = maildir:%[1]s/mail/%%u
mail_max_userip_connections = 100
passdb {
  driver = static
  args = password=%[2]s
}
userdb {
  driver = static
  args = uid=%[3]s gid=%[4]s home=%[1]s/mail/%%u
}
service imap-login {
  inet_listener imap {
    port = %[5]d
  }
  inet_listener imaps {
    port = %[6]d
    ssl = yes
  }
}
service auth {
  unix_listener %[1]s/auth {
    mode = 0666
  }
}
namespace inbox {
  inbox = yes
  separator = /
  mailbox Archive {
    auto = subscribe
    special_use = \Archive
  }
  mailbox Drafts {
    auto = subscribe
    special_use = \Drafts
  }
  mailbox Junk {
    auto = subscribe
    special_use = \Junk
  }
  mailbox Sent {
    auto = subscribe
    special_use = \Sent
  }
  mailbox Trash {
    auto = subscribe
    special_use = \Trash
  }
}
`, h.dir, secret, nobody.Uid, nobody.Gid, h.imap, h.tls)
	if err := h.write("mailboxes.conf", conf); err != nil {
		return nil, err
	}
	return h.run(h.tls, "dovecot", "-F", "-c", h.path("mailboxes.conf"))
}

// transfer starts the transfer agent: it takes mail from those who sign in,
// brings what is for the domain into its mailboxes, refuses who is nobody there,
// and reports of what is for any other domain that it cannot be delivered.
func (h *host) transfer() (func(), error) {
	h.smtp = port()
	nobody, err := user.Lookup("nobody")
	if err != nil {
		return nil, err
	}
	conf, queue, data := h.path("transfer"), h.path("queue"), h.path("data")
	for _, d := range []string{conf, queue, data} {
		if err := os.MkdirAll(d, 0o755); err != nil {
			return nil, err
		}
	}
	if owner, err := user.Lookup("postfix"); err == nil {
		uid, _ := strconv.Atoi(owner.Uid)
		if err := os.Chown(data, uid, 0); err != nil {
			return nil, err
		}
	}
	main := fmt.Sprintf(`
compatibility_level = 3.6
queue_directory = %[1]s/queue
data_directory = %[1]s/data
command_directory = /usr/sbin
daemon_directory = /usr/lib/postfix/sbin
inet_interfaces = 127.0.0.1
inet_protocols = ipv4
myhostname = post.%[2]s
mydestination =
mynetworks =
maillog_file = /dev/stdout
smtpd_tls_cert_file = %[1]s/cert.pem
smtpd_tls_key_file = %[1]s/key.pem
smtpd_tls_security_level = may
smtpd_sasl_auth_enable = yes
smtpd_sasl_type = dovecot
smtpd_sasl_path = %[1]s/auth
smtpd_relay_restrictions = permit_sasl_authenticated, reject
smtpd_recipient_restrictions = reject_unlisted_recipient, permit_sasl_authenticated, reject
virtual_mailbox_domains = %[2]s
virtual_mailbox_base = %[1]s/mail
virtual_mailbox_maps = texthash:%[1]s/people
virtual_uid_maps = static:%[3]s
virtual_gid_maps = static:%[4]s
virtual_minimum_uid = 1
default_transport = smtp:[127.0.0.1]:%[5]d
bounce_queue_lifetime = 1h
smtputf8_enable = yes
`, h.dir, domain, nobody.Uid, nobody.Gid, h.elsewhere)
	master := fmt.Sprintf(`127.0.0.1:%d inet n - n - - smtpd
pickup unix n - n 60 1 pickup
cleanup unix n - n - 0 cleanup
qmgr unix n - n 300 1 qmgr
tlsmgr unix - - n 1000? 1 tlsmgr
rewrite unix - - n - - trivial-rewrite
bounce unix - - n - 0 bounce
defer unix - - n - 0 bounce
trace unix - - n - 0 bounce
verify unix - - n - 1 verify
flush unix n - n 1000? 0 flush
proxymap unix - - n - - proxymap
smtp unix - - n - - smtp
showq unix n - n - - showq
error unix - - n - - error
retry unix - - n - - error
discard unix - - n - - discard
virtual unix - n n - - virtual
anvil unix - - n - 1 anvil
scache unix - - n - 1 scache
postlog unix-dgram n - n - 1 postlogd
`, h.smtp)
	people := ""
	for _, who := range []string{"solvei", "jonas"} {
		people += fmt.Sprintf("%s@%s %s@%s/\n", who, domain, who, domain)
	}
	if err := errors.Join(h.write("transfer/main.cf", main), h.write("transfer/master.cf", master), h.write("people", people)); err != nil {
		return nil, err
	}
	end, err := h.run(h.smtp, "postfix", "-c", conf, "start-fg")
	return func() {
		_ = exec.Command("postfix", "-c", conf, "stop").Run()
		if end != nil {
			end()
		}
	}, err
}

func (h *host) network() post.Network {
	return post.Network{Dial: (&net.Dialer{}).DialContext, Roots: h.roots, Patience: 20 * time.Second}
}

func (h *host) mailbox() mail.Server {
	return mail.Server{Host: "localhost", Port: h.tls, Security: mail.TLS}
}

func (h *host) sending() mail.Server {
	return mail.Server{Host: "localhost", Port: h.smtp, Security: mail.StartTLS}
}

// folder is where the mailbox server keeps a folder of a person on the disk.
func (h *host) folder(who, name string) string {
	if name == "INBOX" {
		return filepath.Join(h.dir, "mail", who+"@"+domain)
	}
	return filepath.Join(h.dir, "mail", who+"@"+domain, "."+name)
}

// count is how many messages lie on the disk in a folder.
func (h *host) count(t *testing.T, who, name string) (n int) {
	t.Helper()
	for _, sub := range []string{"new", "cur"} {
		entries, err := os.ReadDir(filepath.Join(h.folder(who, name), sub))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			require.NoError(t, err)
		}
		n += len(entries)
	}
	return n
}

// has says that a message of that subject lies in a person's inbox.
func (h *host) has(t *testing.T, who, subject string) bool {
	t.Helper()
	for _, sub := range []string{"new", "cur"} {
		files, err := filepath.Glob(filepath.Join(h.folder(who, "INBOX"), sub, "*"))
		require.NoError(t, err)
		for _, f := range files {
			raw, err := os.ReadFile(f)
			require.NoError(t, err)
			if mime.Read(raw).Subject == subject {
				return true
			}
		}
	}
	return false
}

// put lays messages into a person's folder, as other programs would have.
func (h *host) put(t *testing.T, who, name string, raws ...[]byte) {
	t.Helper()
	m, err := imap.Open(t.Context(), h.network(), h.mailbox(), post.Login{Name: who + "@" + domain, Secret: secret})
	require.NoError(t, err)
	defer m.Close()
	for _, raw := range raws {
		require.NoError(t, m.Lay(name, raw, time.Now(), false))
	}
}

// people are made anew for each test, so that none finds another's mail.
func (h *host) fresh(t *testing.T, who string) {
	t.Helper()
	require.NoError(t, os.RemoveAll(h.folder(who, "INBOX")))
	_ = exec.Command("doveadm", "-c", h.path("mailboxes.conf"), "kick", who+"@"+domain).Run()
}

func letter(id, from, subject string, refs ...string) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "From: %s\r\nTo: %s\r\nSubject: %s\r\nDate: %s\r\nMessage-ID: <%s>\r\n", from, me, subject, time.Now().Format(time.RFC1123Z), id)
	if len(refs) > 0 {
		fmt.Fprintf(&b, "References: <%s>\r\n", strings.Join(refs, "> <"))
	}
	return []byte(b.String() + "\r\nbody of " + id + "\r\n")
}

var ctx = context.Background()
