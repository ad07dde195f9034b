package decide

import (
	"errors"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/whereabouts"
)

// MoveSomeday lets what waits for someday come back on the day chosen now.
func MoveSomeday(t store.Tx, who identity.Who, w when.Week, h inbox.Habits, now when.Instant) error {
	ids, err := whereabouts.Whereabouts(t).SomedayIDs(who.Box)
	if err != nil {
		return err
	}
	m := w.MonthDay(h.SomedayOn(), now)
	for _, id := range ids {
		if err := store.Agenda(t).MoveReturn(who.Box, id, m); err != nil {
			return err
		}
	}
	return nil
}

// snooze has conversations come back: at a time, when somebody answers or has not
// answered by then, when the user is at a place, or someday.
var snooze = decision{
	verb: "snoozed", step: true,
	does: func(a asked) ([]act, error) {
		switch a.req.Until {
		case inbox.UntilSite:
			sites, err := whereabouts.Whereabouts(a.t).Sites(a.who.Person, false)
			if err != nil {
				return nil, err
			}
			if !slices.ContainsFunc(sites, func(s whereabouts.Site) bool { return s.ID == a.req.Site }) {
				return nil, problem.Invalid("site", "That place has been deleted meanwhile, so nothing was snoozed. Choose another.")
			}
		case inbox.UntilSomeday:
			p, err := store.People(a.t).PersonByID(a.who.Person)
			if err != nil {
				return nil, err
			}
			a.req.Return = a.who.Week.MonthDay(p.Habits.SomedayOn(), a.now)
		}
		return snoozing(a, inbox.Sleep{Until: a.req.Until, Return: a.req.Return, Site: a.req.Site}), nil
	},
	says: func(k taken) string {
		many := k.many()
		if k.n > 1 {
			many = " all" + many
		}
		switch k.req.Until {
		case inbox.UntilAnswer:
			return "Back" + many + " when somebody answers."
		case inbox.UntilSite:
			return "Back" + many + " when you are there."
		case inbox.UntilSomeday:
			return "Someday. Looked through" + many + " " + k.w.Say(k.req.Return, k.now) + "."
		case inbox.UntilUnanswered:
			return "Back" + many + " " + k.w.Say(k.req.Return, k.now) + ", if nobody has answered by then."
		case inbox.UntilArrival:
			return "Back" + many + " when it has arrived, at the latest " + k.w.Say(k.req.Return, k.now) + "."
		}
		return "Back" + many + " " + k.w.Say(k.req.Return, k.now) + "."
	},
	then: func(a asked, changes []inbox.Change, out *journal.Decided) error { // a word to whoever wrote it
		if strings.TrimSpace(a.req.Text) == "" || len(changes) != 1 {
			return nil
		}
		return a.d.Writing.Word(a.t, a.who, *changes[0].After, a.req.Text, out, a.now)
	},
}

// snoozing is what has conversations sleep, each to the day that was asked for if
// one was.
func snoozing(a asked, s inbox.Sleep) []act {
	return []act{{changes: func(c inbox.Conversation) (inbox.Conversation, error) {
		if a.req.Day != nil {
			s.Until, s.Return = c.Until, a.who.Week.OnDay(c.Return, *a.req.Day, a.now)
			if s.Until != inbox.UntilUnanswered {
				s.Until = inbox.UntilTime
			}
			a.req.Return, a.req.Until = s.Return, s.Until // for the sentence
		}
		c, err := c.Snoozed(s, a.now)
		switch {
		case errors.Is(err, inbox.ErrPast):
			err = problem.Invalid("return", "That time has passed, so nothing was snoozed. Choose one that is still ahead.")
		case err != nil:
			err = problem.Invalid("until", "Nothing was snoozed: "+err.Error()+".")
		}
		return c, err
	}}}
}
