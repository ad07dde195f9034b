package desk

import (
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// snooze has conversations come back: at a time, when somebody answers or has not
// answered by then, when the user is at a place, or someday.
var snooze = decision{
	verb: "snoozed",
	needs: func(a asked) error {
		switch a.req.Until {
		case inbox.UntilSite:
			sites, err := a.t.Sites(a.who.Person, false)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(sites, func(s store.Site) bool { return s.ID == a.req.Site }) {
				return problem.Invalid("site", "That place has been deleted meanwhile, so nothing was snoozed. Choose another.")
			}
		case inbox.UntilSomeday:
			p, err := a.t.PersonByID(a.who.Person)
			if err != nil {
				return err
			}
			a.req.Return = a.who.Week.MonthDay(somedayOf(p.Habits), a.now)
		}
		return nil
	},
	each: func(a asked, before inbox.Conversation, s *act) {
		if a.req.Day == nil {
			return
		}
		s.Until, s.Return = before.Until, a.who.Week.OnDay(before.Return, *a.req.Day, a.now)
		if s.Until != inbox.UntilUnanswered {
			s.Until = inbox.UntilTime
		}
		a.req.Return, a.req.Until = s.Return, s.Until
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
		}
		return "Back" + many + " " + k.w.Say(k.req.Return, k.now) + "."
	},
	then: func(a asked, changes []inbox.Change, out *journal.Decided) error { // a word to whoever wrote it
		if strings.TrimSpace(a.req.Text) == "" || len(changes) != 1 {
			return nil
		}
		return a.d.word(a.t, a.who, *changes[0].After, a.req.Text, out, a.now)
	},
}
