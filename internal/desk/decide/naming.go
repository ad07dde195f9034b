package decide

// What the user calls a conversation, and notes on it.
var (
	rename = decision{verb: "renamed", says: func(k taken) string {
		if k.req.Text == "" {
			return "It is called by its subject again."
		}
		return "Renamed. Answers still carry the subject it had."
	}}
	writeNote = decision{verb: "note written", says: func(k taken) string {
		if k.req.Text == "" {
			return "The note is gone."
		}
		return "The note is kept."
	}}
)
