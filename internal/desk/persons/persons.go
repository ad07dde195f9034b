// Package persons is all between the reader and one other person: what each owes the
// other, how they answer, and what went to and fro.
package persons

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/about"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/finding"
	"ebbe/internal/store/phoning"
)

// How much is looked at and shown of what is between two people.
const (
	looked  = 1000 // messages that name them, the newest
	listed  = 300  // lines of each kind
	usual   = 200  // answers of each, of which it is said how long they usually take
	dots    = 30   // of those that are shown by themselves
	months  = 14
	waiting = 5
)

// Desk answers what is between the reader and somebody.
type Desk struct {
	store   *store.Store
	journal *journal.Journal
}

// New answers for a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{s, j} }

// Person gives all between the reader and whoever has an address. Somebody of whom nothing
// is known has an empty page.
func (d *Desk) Person(ctx context.Context, who identity.Who, address string) (v PersonView, err error) {
	v = PersonView{Address: address, Waits: []PersonLine{}, Lines: []PersonLine{}}
	now, loc := d.journal.Now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := store.Correspondents(t).Correspondent(who.Box, address)
		if err != nil {
			return err
		}
		v.Name, v.Since, v.Received, v.Sent = c.Name, c.FirstAt, c.Received, c.Sent
		if v.Along, err = phoning.Numbers(t).Along(who.Box, address); err != nil {
			return err
		}
		var mail []store.Message
		for _, a := range v.Along {
			some, err := finding.Finding(t).Exchanged(who.Box, a, looked)
			if err != nil {
				return err
			}
			mail = append(mail, some...)
			if a == address {
				continue
			}
			c, err := store.Correspondents(t).Correspondent(who.Box, a)
			if err != nil {
				return err
			}
			v.Received, v.Sent = v.Received+c.Received, v.Sent+c.Sent
			if c.FirstAt != 0 && (v.Since == 0 || c.FirstAt < v.Since) {
				v.Since = c.FirstAt
			}
		}
		slices.SortStableFunc(mail, func(a, b store.Message) int { return cmp.Or(cmp.Compare(b.Date, a.Date), cmp.Compare(b.ID, a.ID)) })
		mail = mail[:min(len(mail), looked)]
		v.More = len(mail) > 0 && v.Received+v.Sent > len(mail)
		if err := v.answers(t, who); err != nil {
			return err
		}
		remark, err := about.Remarks(t).Of(who.Box, v.Along)
		if err != nil {
			return err
		}
		v.Remark = remark.Text
		v.byMonth(mail, now, loc)
		if err := v.conversations(t, who, mail); err != nil {
			return err
		}
		with, err := v.others(t, who)
		if err != nil {
			return err
		}
		if err := v.owed(t, who, with); err != nil {
			return err
		}
		slices.SortStableFunc(v.Lines, func(a, b PersonLine) int { return cmp.Compare(b.At, a.At) })
		return nil
	})
	return v, err
}

// longestRemark is how long a note about somebody may be, in bytes.
const longestRemark = 10_000

// Note has the reader's note about whoever has an address be that; without a text there is none.
func (d *Desk) Note(ctx context.Context, who identity.Who, address, text string) error {
	text = strings.TrimSpace(text)
	switch {
	case !strings.Contains(address, "@") || len(address) > 320: // RFC 5321, section 4.5.3.1
		return problem.Invalid("address", "A note is about somebody with an address, and this is none.")
	case len(text) > longestRemark:
		return problem.Invalid("text", "That is too long for a note about somebody: up to about 10,000 letters are kept. What was there before stays.")
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		along, err := phoning.Numbers(t).Along(who.Box, strings.ToLower(address))
		if err != nil {
			return err
		}
		was, err := about.Remarks(t).Of(who.Box, along)
		if err != nil {
			return err
		}
		return about.Remarks(t).Put(about.Remark{BoxID: who.Box, Address: cmp.Or(was.Address, along[0]), Text: text, Changed: d.journal.Now()})
	})
}

// owed is what is open between the two, each way: in conversations in which they wrote, and
// whatever concerns them.
func (v *PersonView) owed(t store.Tx, who identity.Who, with map[string]store.FollowUp) error {
	var open []store.FollowUp
	for _, a := range v.Along {
		some, err := store.FollowUps(t).FollowUpsBetween(who.Box, a)
		if err != nil {
			return err
		}
		open = append(open, some...)
	}
	slices.SortStableFunc(open, func(a, b store.FollowUp) int { return cmp.Compare(a.UID, b.UID) })
	open = slices.CompactFunc(open, func(a, b store.FollowUp) bool { return a.UID == b.UID })
	for _, f := range with {
		if f.Data.Open() && !slices.ContainsFunc(open, func(o store.FollowUp) bool { return o.UID == f.UID }) {
			open = append(open, f)
		}
	}
	slices.SortStableFunc(open, func(a, b store.FollowUp) int { // the earliest due first, then what has no day
		return cmp.Or(cmp.Compare(cmp.Or(a.Data.Due.At, store.WhenSaid), cmp.Or(b.Data.Due.At, store.WhenSaid)), cmp.Compare(a.UID, b.UID))
	})
	v.Mine, v.Theirs = []followup.FollowUp{}, []followup.FollowUp{}
	for _, f := range open {
		if f.Data.Waiting() {
			v.Theirs = append(v.Theirs, f.Data)
		} else {
			v.Mine = append(v.Mine, f.Data)
		}
	}
	return nil
}

// answers is how they answer each other, of the newest answers.
func (v *PersonView) answers(t store.Tx, who identity.Who) error {
	own, err := counting.Answers(t).With(who.Box, v.Along, true, usual)
	if err != nil {
		return err
	}
	theirs, err := counting.Answers(t).With(who.Box, v.Along, false, usual)
	if err != nil {
		return err
	}
	took := func(all []numbers.Answer) (shown []AnswerTime, middle when.Instant) {
		var took []when.Instant
		shown = []AnswerTime{}
		for i, a := range all {
			if took = append(took, a.Took()); i < dots {
				shown = append(shown, AnswerTime{a.Answered, a.Took()})
			}
		}
		return shown, numbers.Usual(took)
	}
	v.Answers.Own, v.Answers.OwnUsual = took(own)
	v.Answers.Theirs, v.Answers.TheirsUsual = took(theirs)
	v.Answers.Hours = make([]int, 24)
	for _, a := range theirs {
		v.Answers.Hours[a.Answered.In(who.Week.Location()).Hour()]++
	}
	return nil
}

// byMonth counts the messages of the last months.
func (v *PersonView) byMonth(mail []store.Message, now when.Instant, loc *time.Location) {
	today := now.In(loc)
	first := time.Date(today.Year(), today.Month()-months+1, 1, 0, 0, 0, 0, loc)
	for i := range months {
		v.Months = append(v.Months, PersonMonth{Name: first.AddDate(0, i, 0).Format("Jan 2006")})
	}
	for _, m := range mail {
		at := m.Date.In(loc)
		i := (at.Year()-first.Year())*12 + int(at.Month()) - int(first.Month())
		if i < 0 || i >= months {
			continue
		}
		if m.Own {
			v.Months[i].Sent++
		} else {
			v.Months[i].Received++
		}
	}
}

// conversations are those of the mail, as the newest message of each has them.
func (v *PersonView) conversations(t store.Tx, who identity.Who, mail []store.Message) error {
	at := map[int64]int{} // lines by their conversation
	for _, m := range mail {
		i, ok := at[m.ConversationID]
		if !ok {
			if len(at) == listed {
				v.More = true
				continue
			}
			i = len(v.Lines)
			at[m.ConversationID] = i
			v.Lines = append(v.Lines, PersonLine{Kind: search.MessageDocument, At: m.Date, Own: m.Own, Conversation: m.ConversationID})
		}
		v.Lines[i].Files += len(m.Files)
		v.Files += len(m.Files)
		for _, f := range m.Files {
			v.Bytes += int64(f.Size)
		}
	}
	ids := make([]int64, 0, len(at))
	for id := range at {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	rows, err := store.Conversations(t).ConversationRows(who.Box, ids)
	if err != nil {
		return err
	}
	for i, l := range v.Lines {
		if row := rows[l.Conversation]; row != nil {
			v.Lines[i].Title, v.Lines[i].Place = cmp.Or(row.Title, row.Subject, "(no subject)"), row.Place
			if row.Place == inbox.Inbox && !l.Own && len(v.Waits) < waiting {
				v.Waits = append(v.Waits, v.Lines[i])
			}
		}
	}
	return nil
}

// others are follow-ups and events with them; it gives the follow-ups by their UIDs.
func (v *PersonView) others(t store.Tx, who identity.Who) (map[string]store.FollowUp, error) {
	docs, err := finding.Finding(t).DocumentsWith(who.Box, v.Address, listed, search.FollowUpDocument, search.EventDocument)
	if err != nil {
		return nil, err
	}
	var uids []string
	for _, doc := range docs {
		if doc.Kind == search.FollowUpDocument {
			uids = append(uids, doc.UID)
		}
	}
	followUps, err := finding.Finding(t).FollowUps(who.Box, uids)
	if err != nil {
		return nil, err
	}
	for _, f := range followUps {
		v.Moved += f.Data.Moved
	}
	for _, doc := range docs {
		l := PersonLine{Kind: doc.Kind, At: doc.At, Title: doc.Title, Conversation: doc.ConversationID, UID: doc.UID}
		if f, ok := followUps[doc.UID]; ok && doc.Kind == search.FollowUpDocument {
			l.Done, l.Waits = !f.Data.Open(), f.Data.Waiting()
		}
		v.Lines = append(v.Lines, l)
	}
	return followUps, nil
}
