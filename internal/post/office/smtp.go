package office

import (
	"io"
	"strings"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
)

// Largest is the size of the largest message the office takes, in bytes.
const Largest = 35 << 20

// counter is one SMTP connection.
type counter struct {
	o    *Office
	conn *smtp.Conn
	user *user
	from string
	to   []string
}

func (c *counter) AuthMechanisms() []string { return []string{"PLAIN", "LOGIN", "XOAUTH2"} }

func (c *counter) Auth(mech string) (sasl.Server, error) {
	admit := func(name, password string) (err error) {
		if c.user, err = c.o.admit(name, password); err != nil {
			return smtp.ErrAuthFailed
		}
		return nil
	}
	switch mech {
	case "PLAIN":
		return sasl.NewPlainServer(func(_, name, password string) error { return admit(name, password) }), nil
	case "LOGIN":
		return &loginServer{admit: admit}, nil
	case "XOAUTH2":
		return tokenServer(admit), nil
	}
	return nil, smtp.ErrAuthUnknownMechanism
}

// loginServer is the server's side of LOGIN: a name, then a password.
type loginServer struct {
	admit func(name, password string) error
	name  *string
}

func (l *loginServer) Next(response []byte) ([]byte, bool, error) {
	switch {
	case response == nil:
		return []byte("Username:"), false, nil
	case l.name == nil:
		name := string(response)
		l.name = &name
		return []byte("Password:"), false, nil
	}
	return nil, true, l.admit(*l.name, string(response))
}

func (c *counter) Reset()        { c.from, c.to = "", nil }
func (c *counter) Logout() error { return nil }

func (c *counter) Mail(from string, _ *smtp.MailOptions) error {
	if c.user == nil {
		return smtp.ErrAuthRequired
	}
	if c.o.strikes(func(f Faults) float64 { return f.Busy }) {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 2}, Message: "Too busy just now, come back later"}
	}
	c.from, c.to = from, nil
	return nil
}

// Rcpt refuses those who live nowhere: any address that begins with "nobody".
func (c *counter) Rcpt(to string, _ *smtp.RcptOptions) error {
	switch {
	case strings.HasPrefix(to, "nobody"):
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "There is nobody of that name here"}
	case strings.HasPrefix(to, "full"):
		return &smtp.SMTPError{Code: 452, EnhancedCode: smtp.EnhancedCode{4, 2, 2}, Message: "That mailbox is full"}
	}
	c.to = append(c.to, to)
	return nil
}

func (c *counter) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	c.o.take(Accepted{c.from, c.to, raw}, c.o.strikes(func(f Faults) float64 { return f.Twice }))
	if c.o.strikes(func(f Faults) float64 { return f.Mute }) {
		return c.conn.Conn().Close()
	}
	return nil
}
