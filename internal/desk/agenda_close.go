package desk

import (
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/journal"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// callToClose is what happens when a day is to be closed: if anything is left of
// it, and it is still that day, the user is called for. The next such time is
// noted.
func callToClose(b *runner.Box, things []store.Thing) error {
	p, at := b.Person, things[len(things)-1].At
	n, err := store.FollowUps(b.T).CountFollowUps(b.ID, 1, when.DayStart(b.Now, p.Week.Location(), 1))
	if err != nil {
		return err
	}
	if p.FollowUp.Called = 0; n > 0 && at >= when.DayStart(b.Now, p.Week.Location(), 0) {
		p.FollowUp.Called = b.Now
		if err := hear(b, journal.Notice{Text: "Time to close the day: " + say.Plural(n, "follow-up") + " left of it."}); err != nil {
			return err
		}
	}
	if err := store.People(b.T).PutPerson(&p, b.ID, nil); err != nil {
		return err
	}
	b.Topics = append(b.Topics, journal.TopicCards)
	return followups.CallForClosing(b.T, b.ID, p, b.Now)
}
