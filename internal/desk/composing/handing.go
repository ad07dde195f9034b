package composing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/membership"
	talks "ebbe/internal/store/talk"
)

// Hand gives a draft to another member of the team, who goes on with it, sends it or gives it back;
// whoever began it can take it back by giving it to themselves. It returns store.ErrNotFound and
// *problem.Error.
func (d *Desk) Hand(ctx context.Context, who identity.Who, key string, id int64, h Handed) (journal.Decided, error) {
	h.Why = strings.Join(strings.Fields(h.Why), " ")
	if len(h.Why) > followup.LongestWhy {
		return journal.Decided{}, problem.Invalid("why", fmt.Sprintf("The draft was not given: there is room for %d letters that say what is asked. It is kept as it is.", followup.LongestWhy))
	}
	var calls []journal.Notice
	var draft drafting.Draft
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		to, err := followups.Receiver(t, who, h.To)
		if err != nil || h.To == 0 {
			return out, cmp.Or(err, error(problem.Invalid("to", "The draft was not given: say to whom.")))
		}
		draft, err = drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
		back := errors.Is(err, store.ErrNotFound) && h.To == who.Person
		if back {
			draft, err = drafting.Drafts(t).DraftBegunBy(who.Box, who.Person, id)
		}
		if errors.Is(err, store.ErrNotFound) {
			return out, &problem.Error{Type: "sent-elsewhere", Text: "This draft has been sent, deleted or given to somebody else, so nothing was done now."}
		}
		if err != nil {
			return out, err
		}
		if draft.PersonID == h.To {
			return out, problem.Invalid("to", "The draft is with you already. Choose somebody else.")
		}
		files, err := drafting.Drafts(t).DraftFiles(id)
		if err != nil {
			return out, err
		}
		if strings.TrimSpace(draft.Text) == "" && len(files) == 0 {
			return out, problem.Invalid("text", "There is nothing in the draft yet, so it was not given. Write something, or give the conversation itself.")
		}
		if err := makeRoom(t, draft, h.To, to); err != nil {
			return out, err
		}
		now, from := d.Journal.Now(), draft.PersonID
		draft.Trail = draft.Trail.And(together.Handing{By: who.Person, To: h.To, At: now, Why: h.Why})
		draft.BegunBy, draft.PersonID = cmp.Or(draft.BegunBy, draft.PersonID), h.To
		draft.Version, draft.Writer, draft.Turn = draft.Version+1, "", 0
		if err := drafting.Drafts(t).PutDraft(&draft); err != nil {
			return out, err
		}
		if draft.ConversationID != 0 {
			for _, person := range []int64{who.Person, h.To} {
				if err := talks.Talk(t).Follow(who.Box, person, []int64{draft.ConversationID}, true, now); err != nil {
					return out, err
				}
			}
		}
		what := "“" + cmp.Or(draft.Subject, "without a subject") + "”"
		e := store.Entry{Kind: inbox.HandDraft, At: now, Ref: id, ConversationID: draft.ConversationID, Text: what + " to " + to}
		says, tells := "The draft is with "+to+" now.", "gave you the draft "+what
		if back {
			e.Text, says, tells = what+" back", "The draft is with you again.", "took back the draft "+what
		}
		if h.Why != "" {
			tells += ": " + h.Why
		}
		if out, err = d.Journal.Commit(t, who, e, nil, func(int) string { return says }); err != nil {
			return out, err
		}
		calls, err = talk.CallsFor(t, who, []int64{cmp.Or(otherThan(who.Person, h.To), from)}, draft.ConversationID, tells, now)
		return out, err
	})
	if fresh {
		d.announceDraft(who, key, draft.ConversationID, true)
		d.Journal.Notify(who.Box, calls)
	}
	return out, err
}

// otherThan is a person, unless it is that one; then 0.
func otherThan(one, person int64) int64 {
	if one == person {
		return 0
	}
	return person
}

// makeRoom has somebody be able to get a draft: an answer of their own that they have begun in the
// same conversation is not thrown away for it, unless nothing is in it.
func makeRoom(t store.Tx, draft drafting.Draft, to int64, name string) error {
	if draft.ConversationID == 0 {
		return nil
	}
	has, err := drafting.Drafts(t).Draft(to, draft.ConversationID)
	if err != nil || has.ID == 0 {
		return err
	}
	files, err := drafting.Drafts(t).DraftFiles(has.ID)
	if err != nil {
		return err
	}
	if strings.TrimSpace(has.Text) != "" || len(files) > 0 {
		return problem.Invalid("to", fmt.Sprintf("%s has begun a message about this already, so the draft was not given. It is kept; say in a comment what you want to say.", name))
	}
	return drafting.Drafts(t).DropDraft(has.ID)
}

// handed shows drafts with through whose hands they have gone, and with whom they are if not with
// whoever looks.
func handed(t store.Tx, who identity.Who, drafts []drafting.Draft, views []DraftView) error {
	var names map[int64]string
	var err error
	for i, draft := range drafts {
		if len(draft.Trail) == 0 {
			continue
		}
		if names == nil {
			if names, err = membership.Membership(t).Names(who.Box); err != nil {
				return err
			}
		}
		views[i].gone(who, draft, names)
	}
	return nil
}

func (v *DraftView) gone(who identity.Who, draft drafting.Draft, names map[int64]string) {
	for _, h := range draft.Trail {
		v.Trail = append(v.Trail, HandingView{By: names[h.By], ByID: h.By, To: names[h.To], At: h.At, Why: h.Why})
	}
	if draft.PersonID != who.Person {
		v.With = cmp.Or(names[draft.PersonID], "somebody who left")
	}
}
