// Package problem is what a user is told when something cannot be done: what
// happened, what was kept, what to do. On the wire it is a problem of RFC 9457.
package problem

// Error is an error whose text is a sentence for the user. Field names the input
// that is at fault, if one is.
type Error struct {
	Type  string // stable, for programs
	Text  string
	Field string
}

func (e *Error) Error() string { return e.Text }

// Invalid is the error about an input that cannot be taken as it is.
func Invalid(field, text string) error { return &Error{Type: "invalid", Text: text, Field: field} }
