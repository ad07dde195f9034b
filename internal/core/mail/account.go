package mail

import "strings"

// Security is how the line to a server is kept private.
type Security string

// The securities. What is spoken in the clear is allowed to this machine only.
const (
	TLS      Security = "tls"      // from the first byte (RFC 8314)
	StartTLS Security = "starttls" // after asking for it
	Clear    Security = "none"
)

// Server is where a service of an account is.
type Server struct {
	Host     string   `json:"host"`
	Port     int      `json:"port"`
	Security Security `json:"security"`
	Trust    string   `json:"trust,omitempty"` // SHA-256 of the one certificate that is trusted there, in hex, whoever signed it; empty: those this machine trusts
}

// Riskier says that a secret which was stored for the server before must not be
// sent to s without being typed again: it is another host, its line is less
// private, or another certificate is trusted there.
func (s Server) Riskier(before Server) bool {
	private := map[Security]int{Clear: 0, StartTLS: 1, TLS: 2}
	return !strings.EqualFold(s.Host, before.Host) || private[s.Security] < private[before.Security] || s.Trust != before.Trust && s.Trust != ""
}

// Role is what a folder of an account is for.
type Role string

// The roles. The ones besides the inbox are said by special use (RFC 6154), or
// else by the name.
const (
	RoleInbox   Role = "inbox"
	RoleArchive Role = "archive"
	RoleSent    Role = "sent"
	RoleDrafts  Role = "drafts"
	RoleJunk    Role = "junk"
	RoleBin     Role = "bin"
	RoleOther   Role = "other"
)
