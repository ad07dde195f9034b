package decide

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	talks "ebbe/internal/store/talk"
)

// giving is to whom of a team something is given; to 0: back to nobody.
type giving struct {
	to  int64
	was *int64 // who had it as it was seen; nil: whoever it is
	why string

	turn together.Turn // by which whoever gets it is chosen; "": to
	rule bool          // by one: only what nobody has, and to nobody who is away
}

// by is who gives it; 0: a rule.
func (g giving) by(who identity.Who) int64 {
	if g.rule {
		return 0
	}
	return who.Person
}

// given is a conversation that is given to somebody.
type given struct {
	conversation int64
	giving
}

// give has somebody of the team see to conversations: the follow-up of each is given to them,
// or one is made. A conversation stays where it is.
var give = decision{verb: "given", step: true, says: done("Given"), // then says to whom
	does: func(a asked) ([]act, error) {
		if _, err := followups.Receiver(a.t, a.who, a.req.Owner); err != nil {
			return nil, err
		}
		why := strings.Join(strings.Fields(a.req.Text), " ")
		if len(why) > followup.LongestWhy {
			return nil, problem.Invalid("text", fmt.Sprintf("Nothing was changed: there is room for %d letters that say why.", followup.LongestWhy))
		}
		if a.req.Turn != "" {
			if !slices.Contains(together.Turns, a.req.Turn) {
				return nil, problem.Invalid("turn", "Ebbe knows the next in turn, and whoever has the least to do. Nothing was changed.")
			}
			return []act{{give: &giving{turn: a.req.Turn, was: a.req.Was, why: why}}}, nil
		}
		return []act{{give: &giving{to: a.req.Owner, was: a.req.Was, why: why}}}, nil
	},
	about: func(a asked, changes []inbox.Change) (int64, string, error) {
		names, err := membership.Membership(a.t).Names(a.who.Box)
		if err != nil {
			return 0, "", err
		}
		id := changes[0].Conversation()
		what, err := whatIsGiven(a, changes)
		if err != nil {
			return id, "", err
		}
		if a.req.Turn != "" {
			return id, what + " in turn to " + say.List(givenTo(changes, names)), nil
		}
		switch a.req.Owner {
		case 0:
			return id, what + " back", nil
		case a.who.Person:
			return id, what + " to themselves", nil
		}
		return id, what + " to " + names[a.req.Owner], nil
	},
	then: func(a asked, changes []inbox.Change, out *journal.Decided) error {
		names, err := membership.Membership(a.t).Names(a.who.Box)
		if err != nil || len(changes) == 0 {
			return err
		}
		n, it := "", "it"
		if len(changes) > 1 {
			n, it = fmt.Sprintf(" %d", len(changes)), "them"
		}
		if a.req.Turn != "" {
			out.Text = "Given" + n + " to " + say.List(givenTo(changes, names)) + "."
			return tellGiven(a, changes)
		}
		switch a.req.Owner {
		case 0:
			out.Text = "Given back" + n + ": nobody has " + it + " now."
		case a.who.Person:
			out.Text = "Taken" + n + ": you have " + it + " now."
		default:
			out.Text = "Given" + n + " to " + names[a.req.Owner] + "."
			return tellGiven(a, changes)
		}
		return nil
	},
}

// ownersOf gives what each member has by these changes.
func ownersOf(changes []inbox.Change) (order []int64, each map[int64][]inbox.Change) {
	each = map[int64][]inbox.Change{}
	for _, c := range changes {
		if c.FollowUpAfter == nil {
			continue
		}
		to := c.FollowUpAfter.Owner.Person
		if each[to] == nil {
			order = append(order, to)
		}
		each[to] = append(each[to], c)
	}
	return order, each
}

// givenTo names them, those of several with how much.
func givenTo(changes []inbox.Change, names map[int64]string) (out []string) {
	order, each := ownersOf(changes)
	for _, to := range order {
		name := names[to]
		if len(changes) > 1 {
			name += fmt.Sprintf(" (%d)", len(each[to]))
		}
		out = append(out, name)
	}
	return out
}

// tellGiven has each who was given something hear of it.
func tellGiven(a asked, changes []inbox.Change) error {
	order, each := ownersOf(changes)
	for _, to := range order {
		what, err := whatIsGiven(a, each[to])
		if err != nil {
			return err
		}
		text := what + " is yours now"
		if a.req.Text != "" {
			text += ": " + a.req.Text
		}
		calls, err := talk.CallsFor(a.t, a.who, []int64{to}, each[to][0].Conversation(), text, a.now)
		if err != nil {
			return err
		}
		*a.calls = append(*a.calls, calls...)
	}
	return nil
}

// whatIsGiven is that in words.
func whatIsGiven(a asked, changes []inbox.Change) (string, error) {
	if len(changes) > 1 {
		return fmt.Sprintf("%d conversations", len(changes)), nil
	}
	id := changes[0].Conversation()
	rows, err := store.Conversations(a.t).ConversationRows(a.who.Box, []int64{id})
	if err != nil || rows[id] == nil {
		return "", err
	}
	return "“" + cmp.Or(rows[id].Title, rows[id].Subject) + "”", nil
}

// handOver are the changes to follow-ups by which conversations are given; those without one
// are to get one.
func (b *maker) handOver() (changes []inbox.Change, err error) {
	ids := make([]int64, len(b.give))
	for i, g := range b.give {
		ids[i] = g.conversation
	}
	open, err := store.FollowUps(b.t).FollowUpsOf(b.who.Box, ids)
	if err != nil {
		return nil, err
	}
	new := map[int64][]int64{}       // what each has now
	last := map[int64]when.Instant{} // when each was given the last of it
	at := b.now
	var hands []together.Hand
	if slices.ContainsFunc(b.give, func(g given) bool { return g.turn != "" || g.rule }) {
		if hands, err = b.hands(); err != nil {
			return nil, err
		}
	}
	for _, h := range hands { // of two given at once the one was given later
		at = max(at, h.Given+1)
	}
	for _, g := range b.give {
		all := make([]followup.FollowUp, len(open[g.conversation]))
		for i, f := range open[g.conversation] {
			all[i] = f.Data
		}
		has := followup.OwnerOf(all)
		if g.rule && has.Person != 0 {
			continue
		}
		if g.turn != "" {
			if g.to = g.turn.Choose(hands); g.to == 0 && !g.rule {
				return nil, problem.Invalid("turn", "All of the team are away. Nothing was changed; give it to one of them by name.")
			}
		}
		if i := slices.IndexFunc(hands, func(h together.Hand) bool { return h.Person == g.to }); i >= 0 {
			if g.rule && hands[i].Away {
				continue
			}
			hands[i].Given, hands[i].Minutes = at, hands[i].Minutes+usualMinutes
		} else if g.rule && g.turn == "" {
			return nil, problem.Invalid("rule", "Whoever it gives to is not in this team any more.")
		}
		switch {
		case has.Person == g.to:
			continue
		case g.was != nil && *g.was != has.Person && len(b.give) == 1:
			return nil, b.hasIt(has)
		case g.was != nil && *g.was != has.Person:
			b.taken++
			continue
		}
		if g.to != 0 {
			last[g.to], at = at, at+1
		}
		if new[g.to] = append(new[g.to], g.conversation); len(all) == 0 {
			if i := slices.IndexFunc(b.make, func(w wanted) bool { return w.conversation == g.conversation && w.owner == nil }); i >= 0 {
				b.make[i].owner = &g.giving
				continue
			}
			b.make = append(b.make, wanted{g.conversation, followups.NewFollowUp{Keep: true}, &g.giving})
			continue
		}
		before := all[0]
		for _, f := range all {
			if f.Owner == has {
				before = f
				break
			}
		}
		after := before.Give(g.to, g.by(b.who), g.why, b.now)
		changes = append(changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
	}
	if err := membership.Membership(b.t).Give(b.who.Box, last); err != nil {
		return nil, err
	}
	for to, conversations := range new { // whoever has something hears of it
		if to == 0 {
			continue
		}
		if err := talks.Talk(b.t).Follow(b.who.Box, to, conversations, true, b.now); err != nil {
			return nil, err
		}
	}
	return changes, nil
}

// usualMinutes are those of something that is given, as long as nobody has said how much it is.
const usualMinutes = 15

// hands are the members of the team as turns look at them.
func (b *maker) hands() (out []together.Hand, err error) {
	all, err := membership.Membership(b.t).Hands(b.who.Box)
	for _, h := range all {
		_, away := h.Delivery.Away(b.now)
		out = append(out, together.Hand{Person: h.PersonID, Away: away, Minutes: h.Minutes, Given: h.Given})
	}
	return out, err
}

// hasIt is why something is not given: somebody else has been given it meanwhile.
func (b *maker) hasIt(o followup.Owner) error {
	if o.Person == 0 {
		return &problem.Error{Type: "given", Text: "It was given back meanwhile, so nobody has it. Nothing was changed; look, and take or give it once more."}
	}
	names, err := membership.Membership(b.t).Names(b.who.Box)
	if err != nil {
		return err
	}
	return &problem.Error{Type: "given", Text: fmt.Sprintf("%s has it since %s. Nothing was changed; look, and take or give it once more if it is to be otherwise.", names[o.Person], b.who.Week.Say(when.Moment{At: o.At}, b.now))}
}
