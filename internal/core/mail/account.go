package mail

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
