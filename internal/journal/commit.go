package journal

import (
	"cmp"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Decided is what came of a decision.
type Decided struct {
	Entry int64  `json:"entry"`           // in the journal; 0 if nothing changed
	Count int    `json:"count"`           // conversations it changed
	Left  int    `json:"left"`            // left to decide afterwards
	Text  string `json:"text"`            // in a sentence
	First int64  `json:"first"`           // the first of the conversations, 0 if none
	Stale int    `json:"stale"`           // conversations passed over, as they are no longer where they were seen
	Draft int64  `json:"draft,omitempty"` // a message that was begun with it
	Named int64  `json:"named,omitempty"` // nothing was changed: this entry would be taken back if it is asked for again
}

// Commit stores changes of a box with their line in the journal, in the
// transaction t. sentence says what was done, given how many conversations it
// was done to.
func (j *Journal) Commit(t store.Tx, who identity.Who, e store.Entry, changes []inbox.Change, sentence func(n int) string) (out Decided, err error) {
	for _, c := range changes {
		e.Delta += c.Delta()
		e.Count++
	}
	if len(changes) > 0 || e.Ref != 0 || len(e.Touched) > 0 || e.Chosen != nil {
		e.Count = max(e.Count, len(e.Touched))
		if e.Text == "" {
			if e.ConversationID, e.Text, err = about(t, who.Box, changes); err != nil {
				return out, err
			}
		}
		e.BoxID, e.PersonID, e.Changes = who.Box, who.Person, changes
		e.Step, e.Quiet = j.kinds[e.Kind].Step, e.Quiet || !together.Told(e.Kind)
		if e.Actor == "" {
			e.Actor = store.ByPerson
		}
		if err := store.Journal(t).Record(&e); err != nil {
			return out, err
		}
		if err := store.Conversations(t).Apply(who.Box, who.Person, changes); err != nil {
			return out, err
		}
		out.Entry = e.ID
	}
	for _, c := range changes {
		if c.After != nil {
			if out.Count++; out.First == 0 {
				out.First = c.After.ID
			}
		}
	}
	if sentence != nil {
		out.Text = sentence(max(out.Count, 1))
	}
	out.Left, err = store.Conversations(t).Left(who.Box)
	return out, err
}

// about says, for the history, what an entry is about: the title of the
// follow-up or event, or the subject of the first conversation.
func about(t store.Tx, box int64, changes []inbox.Change) (conversation int64, text string, err error) {
	for _, c := range changes {
		f := c.FollowUpAfter
		if f == nil {
			f = c.FollowUpBefore
		}
		if f != nil {
			return f.Conversation, f.Title, nil
		}
		e := c.EventAfter
		if e == nil {
			e = c.EventBefore
		}
		if e != nil {
			return e.Conversation, e.Title, nil
		}
	}
	id := changes[0].Conversation()
	rows, err := store.Conversations(t).ConversationRows(box, []int64{id})
	if err != nil || rows[id] == nil {
		return id, "", err
	}
	return id, cmp.Or(rows[id].Title, rows[id].Subject), nil
}
