package talk

import (
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// CallsFor are what some of the team are told at once, in whichever box they are, by whoever is at
// work there, of a conversation. Whoever wants to hear nothing now, by the plan of their own box,
// hears of it afterwards.
func CallsFor(t store.Tx, who identity.Who, people []int64, conversation int64, text string, now when.Instant) (out []journal.Notice, err error) {
	if len(people) == 0 {
		return nil, nil
	}
	names, err := membership.Membership(t).Names(who.Box)
	if err != nil {
		return nil, err
	}
	in, err := membership.Membership(t).In(who.Person, who.Box)
	if err != nil {
		return nil, err
	}
	for _, person := range people {
		if person == who.Person {
			continue
		}
		notice, err := journal.Quietly(t, person, journal.Notice{Text: names[who.Person] + ", " + in.Name + ": " + text, Conversation: conversation, Box: who.Box}, now)
		if err != nil {
			return nil, err
		}
		out = append(out, notice)
	}
	return out, nil
}
