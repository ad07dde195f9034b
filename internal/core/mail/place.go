package mail

// Place is where a conversation is; the places are those of package inbox.
type Place string

// Thrown says that a place is one of what was thrown away: the bin, and junk.
func (p Place) Thrown() bool { return p == "bin" || p == "junk" }
