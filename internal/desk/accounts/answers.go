package accounts

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/composing"
)

// AccountView is an account of the user.
type AccountView struct {
	ID        int64         `json:"id"`
	Name      string        `json:"name"`
	Address   string        `json:"address"`
	FullName  string        `json:"fullName"`
	Signature string        `json:"signature"`
	Mailbox   mail.Server   `json:"mailbox"`
	Sending   mail.Server   `json:"sending"`
	Login     string        `json:"login"`
	Token     bool          `json:"token"`
	Carries   inbox.Carries `json:"carries"`
	Paused    bool          `json:"paused"`
	EmptyDays int           `json:"emptyDays"` // after how many days what Ebbe put into bin and junk is removed; 0: never
	Synced    when.Instant  `json:"synced"`    // when all of it was last in step; 0: not yet
	Trouble   string        `json:"trouble"`   // why it is not, in a sentence
	Expected  int           `json:"expected"`
	Brought   int           `json:"brought"`
	Vanished  int           `json:"vanished"` // messages that vanished there in great numbers, about which the user is asked
}

// Accounts are the accounts of the user, and what their servers have not heard.
type Accounts struct {
	Accounts  []AccountView `json:"accounts"`
	Uncarried int           `json:"uncarried"` // decisions that could not be carried to a server yet
	Problem   string        `json:"problem"`   // why
}

// RestoredView is what waits for the user's word since Ebbe was restored from a
// backup.
type RestoredView struct {
	Resting   bool                   `json:"resting"` // the accounts have not been looked at yet
	Messages  []composing.OutboxLine `json:"messages"`
	Decisions []RestoredDecision     `json:"decisions"` // of which servers have not heard
	Reminders []string               `json:"reminders"` // titles of follow-ups and events
}

// RestoredDecision is a conversation about which a server has not heard.
type RestoredDecision struct {
	ID      int64       `json:"id"`
	Subject string      `json:"subject"`
	From    string      `json:"from"`
	Place   inbox.Place `json:"place"`
}

// ServersFound are the servers of an address.
type ServersFound struct {
	Mailbox   mail.Server `json:"mailbox"`
	Sending   mail.Server `json:"sending"`
	Announced bool        `json:"announced"` // its domain names them; else they are the usual names
}

// TestStep is one server tried.
type TestStep struct {
	Name   string `json:"name"` // "mailbox" or "sending"
	Server string `json:"server"`
	Fine   bool   `json:"fine"`
	Step   string `json:"step"` // which step failed
	Text   string `json:"text"` // why, and what to do

	Fingerprint string       `json:"fingerprint"` // of a certificate that can be trusted for this account, SHA-256 in hex
	Offer       *mail.Server `json:"offer"`       // what would be right in place of what was typed
}

// AccountTest is what came of trying an account.
type AccountTest struct {
	Fine    bool       `json:"fine"`
	Steps   []TestStep `json:"steps"`
	Folders []string   `json:"folders"`
}

// AccountDraft is what the user types about an account.
type AccountDraft struct {
	ID        int64         `json:"id"` // 0: a new one
	Name      string        `json:"name"`
	Address   string        `json:"address"`
	FullName  string        `json:"fullName"`
	Signature string        `json:"signature"`
	Mailbox   mail.Server   `json:"mailbox"`
	Sending   mail.Server   `json:"sending"`
	Login     string        `json:"login"`  // empty: the address
	Secret    string        `json:"secret"` // empty: as it was
	Token     bool          `json:"token"`  // the secret is a token
	Carries   inbox.Carries `json:"carries"`
	Paused    bool          `json:"paused"`
	EmptyDays int           `json:"emptyDays"` // after how many days what Ebbe put into bin and junk is removed; 0: never
}
