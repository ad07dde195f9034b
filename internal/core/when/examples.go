package when

// Example is a phrase that is understood, with what it means at some instant.
type Example struct {
	Phrase string `json:"phrase"`
	Means  string `json:"means"` // in words
}

// examples are phrases for whoever wants to know what can be written; each stands
// in docs/times.md.
var examples = []string{
	"tomorrow 8", "tonight", "fri 14:30", "fri after lunch", "fri noon", "half past two", "quarter to five", "14 uhr",
	"in 2 h", "for 90 min", "1.5 hours", "in 3 days", "in a fortnight", "in 5 working days",
	"next fri", "wed next week", "end of next week", "before the weekend",
	"next month 15", "end of next month", "first monday", "last day of november", "w51",
	"fri in a week", "24 dec", "24.12.", "2027-01-05 9:00",
}

// Examples are phrases that are understood, and what they mean at now.
func (w Week) Examples(now Instant) []Example {
	out := make([]Example, 0, len(examples))
	for _, phrase := range examples {
		if read := w.Read(phrase, now); !read.Moment.IsZero() {
			out = append(out, Example{phrase, w.Say(read.Moment, now)})
		}
	}
	return out
}
