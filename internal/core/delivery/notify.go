package delivery

import (
	"slices"
	"strings"
)

// Remind says which reminders notify.
type Remind string

// Which reminders notify.
const (
	RemindAll    Remind = "all"
	RemindUrgent Remind = "urgent" // those of high priority and above
	RemindNone   Remind = "none"
)

// Notify says of what the user wants to be notified. Without On, of nothing.
type Notify struct {
	On        bool     `json:"on"`
	Rounds    bool     `json:"rounds"`    // when a delivery brings something in
	Reminders Remind   `json:"reminders"` // which
	People    []string `json:"people"`    // when one of these addresses writes; @domain for all of a domain
	Important bool     `json:"important"` // when something very important comes in
}

// Reminder says that the reminder of a follow-up with that priority (RFC 5545,
// section 3.8.1.9: 1 is the highest) notifies.
func (n Notify) Reminder(priority int) bool {
	return n.On && (n.Reminders == RemindAll || n.Reminders == RemindUrgent && priority >= 1 && priority <= 3)
}

// From says that mail from the address notifies, which is very important or is not.
func (n Notify) From(address string, important bool) bool {
	_, domain, _ := strings.Cut(address, "@")
	return n.On && (n.Important && important || slices.Contains(n.People, address) || slices.Contains(n.People, "@"+domain))
}
