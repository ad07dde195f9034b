package decide

import (
	"cmp"
	"fmt"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// makeFollowUp makes a follow-up of each conversation.
var makeFollowUp = decision{
	verb: "follow-up made", named: true, step: true,
	does: func(a asked) ([]act, error) {
		if a.req.FollowUp == nil {
			return nil, problem.Invalid("followUp", "Nothing was said about the follow-up, so none was made. Give it a title.")
		}
		place := inbox.Archived
		if a.req.FollowUp.Keep {
			place = inbox.Inbox
		}
		acts, err := to(place)(a)
		return append(acts, act{make: a.req.FollowUp}), err
	},
	says: func(k taken) string {
		if k.n > 1 {
			return fmt.Sprintf("%d follow-ups made.", k.n)
		}
		if k.req.FollowUp != nil && !k.req.FollowUp.Due.IsZero() {
			return "Follow-up made, due " + k.w.Say(k.req.FollowUp.Due, k.now) + "."
		}
		return "Follow-up made."
	},
}

// maker gathers the follow-ups that a decision makes and finishes.
type maker struct {
	t      store.Tx
	who    identity.Who
	now    when.Instant
	make   []wanted
	finish []int64 // conversations whose open ones are finished
	give   []given // those that are given to somebody
	taken  int     // of these, those that somebody else has by now
}

// wanted is a follow-up that a conversation gets.
type wanted struct {
	conversation int64
	followups.NewFollowUp
	owner *giving // who of a team has it from the beginning; nil: nobody
}

func (b *maker) want(conversation int64, a act) {
	if a.make != nil {
		b.make = append(b.make, wanted{conversation, *a.make, nil})
	}
	if a.finish {
		b.finish = append(b.finish, conversation)
	}
	if a.give != nil {
		b.give = append(b.give, given{conversation, *a.give})
	}
}

// followUps are the changes to follow-ups, those finished before those made.
func (b *maker) followUps() (changes []inbox.Change, err error) {
	open, err := store.FollowUps(b.t).FollowUpsOf(b.who.Box, b.finish)
	if err != nil {
		return nil, err
	}
	for _, id := range b.finish {
		for _, f := range open[id] {
			before, after := f.Data, f.Data.Finish(b.now)
			changes = append(changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		}
	}
	handed, err := b.handOver()
	if err != nil {
		return nil, err
	}
	changes = append(changes, handed...)
	if len(b.make) == 0 {
		return changes, nil
	}
	var ids []int64
	for _, n := range b.make {
		ids = append(ids, n.conversation)
	}
	originals, err := store.Messages(b.t).Originals(ids)
	if err != nil {
		return nil, err
	}
	rows, err := store.Conversations(b.t).ConversationRows(b.who.Box, ids)
	if err != nil {
		return nil, err
	}
	p, err := store.People(b.t).PersonByID(b.who.Keeper())
	if err != nil {
		return nil, err
	}
	for _, n := range b.make {
		id := n.conversation
		f := followup.FollowUp{Status: followup.NeedsAction, Conversation: id, Made: b.now, Message: originals[id]}
		if row := rows[id]; row != nil && !row.Kind.Machine() {
			f.With = mail.Address{Name: row.FromName, Address: row.FromAddr}
		}
		if row := rows[id]; n.Title == "" && n.Waits.Only && row != nil { // it was handed over
			n.Title = fmt.Sprintf("Answer from %s about “%s”", n.With.Short(), cmp.Or(row.Title, mail.Title(row.Subject)))
		}
		if n.Title == "" {
			letter, _, err := received.Source(b.t, b.who, id)
			if err != nil {
				return nil, err
			}
			n.Title = followup.Propose(letter, b.who.Week).Title
		}
		if f, err = n.Write(f, p.FollowUp, b.who.Week, b.now); err != nil {
			return nil, err
		}
		f.UID = uuid.NewString()
		if n.owner != nil {
			f = f.Give(n.owner.to, n.owner.by(b.who), n.owner.why, b.now)
		}
		changes = append(changes, inbox.Change{FollowUpAfter: &f})
	}
	return changes, nil
}
