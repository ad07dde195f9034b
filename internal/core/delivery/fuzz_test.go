package delivery

import "testing"

// Whatever is typed into a plan: it is read or refused, and what is read can be
// laid on a week.
func FuzzPlanLine(f *testing.F) {
	for _, s := range []string{"mon–fri 9, 14, 16:30", "quiet after 18", "tue writing 10–12", "every day 9", "", "sun 25:00", "mon-mon 9-9", "8 8 8 8"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		l, err := ReadLine(text, nil)
		if err != nil {
			return
		}
		if days := l.On(make([]Day, 7)); len(days) != 7 {
			t.Fatalf("%d days", len(days))
		}
	})
}
