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

	// The roles of the folders that Ebbe keeps on a server of its own, where the user wants
	// them: what is moved into one from any mail program is done; RoleSnoozed is where Ebbe
	// puts what is snoozed, and RoleWas one that is emptied and removed, as it is wanted no
	// more. Those of streams are RoleStream with the ID of a delivery.Stream behind it.
	RoleRoot     Role = "kept/root" // what they stand in
	RoleSnoozed  Role = "kept/snoozed"
	RoleTomorrow Role = "kept/tomorrow"
	RoleEvening  Role = "kept/this-evening"
	RoleNextWeek Role = "kept/next-week"
	RoleFollowUp Role = "kept/follow-up"
	RoleWaiting  Role = "kept/waiting"
	RoleNever    Role = "kept/never-again"
	RoleStream   Role = "kept/stream/"
	RoleWas      Role = "kept/was"
)

// KeptRoles lists those that have a name of their own.
var KeptRoles = []Role{RoleTomorrow, RoleEvening, RoleNextWeek, RoleFollowUp, RoleWaiting, RoleNever, RoleSnoozed}

// Kept says that a folder is one that Ebbe keeps.
func (r Role) Kept() bool { return strings.HasPrefix(string(r), "kept/") }

// Asks says that what is moved into such a folder is to be decided about. In the one of
// the snoozed lies what Ebbe has put there, too.
func (r Role) Asks() bool { return r.Kept() && r != RoleRoot && r != RoleWas }
