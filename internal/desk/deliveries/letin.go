package deliveries

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/holding"
)

// maxFoundHeld is how many held conversations looking for one thing shows.
const maxFoundHeld = 20

// LookFor searches what is held for a sender or words. That is written down as
// an early look.
func (d *Desk) LookFor(ctx context.Context, who identity.Who, key, words string) (v HeldFound, err error) {
	words = strings.TrimSpace(words)
	q := search.Query{Words: words}
	address := ""
	if strings.Contains(words, "@") && !strings.ContainsAny(words, " ") {
		address = strings.ToLower(words)
	}
	if !search.Sought(q.Terms()) {
		return v, problem.Invalid("words", "Name a sender or a word: only what is looked for can be let in.")
	}
	if err := q.Valid(); err != nil {
		return v, problem.Invalid("words", say.Upper(err.Error())+".")
	}
	v, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v HeldFound, err error) {
		said := words
		if address != "" {
			said = ""
		}
		rows, err := holding.Held(t).Matching(who.Box, said, address, maxFoundHeld)
		if err != nil {
			return v, err
		}
		v.Found = []HeldSlip{}
		for _, r := range rows {
			v.Found = append(v.Found, HeldSlip{ID: r.ID, From: mail.Address{Name: r.FromName, Address: r.FromAddr}.Short(), Subject: cmp.Or(r.Subject, "(no subject)"), At: r.At, Messages: r.Messages})
		}
		return v, store.Journal(t).Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: inbox.Peek, At: d.Journal.Now(), Count: len(rows), Text: words})
	})
	return v, err
}

// LetIn lets held conversations in before their time; all of them, if none is
// named.
func (d *Desk) LetIn(ctx context.Context, who identity.Who, key string, q LettingIn) (journal.Decided, error) {
	now := d.Journal.Now()
	var got intake.CameIn
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		k, err := intake.GateOf(t, who.Box, now, d.Sort)
		if err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.LetOneIn, Step: true, Actor: store.ByPerson, PersonID: who.Person, At: now, Text: cmp.Or(strings.TrimSpace(q.Words), "one thing")}
		ids := q.Conversations
		if q.All {
			e.Kind, e.Text, ids = inbox.LetAllIn, "all that was held", nil
			heaps, err := holding.Held(t).Heaps(who.Box)
			if err != nil {
				return out, err
			}
			for _, s := range slices.Sorted(maps.Keys(heaps)) {
				more, err := store.HeldMail(t).HeldUntil(who.Box, s, now)
				if err != nil {
					return out, err
				}
				ids = append(ids, more...)
			}
		} else if ids, err = store.HeldMail(t).HeldAmong(who.Box, ids); err != nil {
			return out, err
		}
		if got, err = k.ComeIn(ids, inbox.Arrival{At: now, Why: inbox.LetIn}, e); err != nil {
			return out, err
		}
		out = journal.Decided{Entry: got.Entry, Count: got.Count, Text: "Let in: " + say.Plural(got.Count, "conversation") + "."}
		if len(ids) > 0 {
			out.First = ids[0]
		}
		if got.Count == 0 {
			out.Text = "Nothing is held that could be let in."
		}
		out.Left, err = store.Conversations(t).Left(who.Box)
		return out, err
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail, journal.TopicDelivery}, Key: key})
		d.Journal.Notify(who.Box, got.Calls)
	}
	return out, err
}

// LetBack takes back a letting in, or does it again, and says by how much that
// moves the number left to decide besides the changes of the entry.
func (d *Desk) LetBack(t store.Tx, s *journal.Step) error {
	box := s.Who.Box
	s.Topics = append(s.Topics, journal.TopicMail, journal.TopicDelivery)
	k, err := intake.GateOf(t, box, d.Journal.Now(), nil)
	if err != nil {
		return err
	}
	ids, err := store.HeldMail(t).LetInWith(box, s.Root.ID, !s.Back)
	if err != nil {
		return err
	}
	if !s.Back {
		shown, err := store.HeldMail(t).InView(box, ids)
		if err != nil {
			return err
		}
		s.Entry.Touched = ids
		if s.Entry.Delta, err = store.HeldMail(t).ComeIn(box, ids, inbox.Position{Reason: inbox.LetIn, Since: s.Root.At}, s.Root.ID); err != nil {
			return err
		}
		return k.Recount(shown)
	}
	if ids, err = store.HeldMail(t).Standing(box, ids, s.Root.At); err != nil {
		return err
	}
	away, err := store.HeldMail(t).HoldAgain(box, ids, s.Root)
	if err != nil {
		return err
	}
	gone := make(map[int64]bool, len(away))
	for _, id := range away {
		gone[id] = true
	}
	s.Entry.Touched, s.Entry.Delta = ids, -len(away)
	return k.Recount(slices.DeleteFunc(slices.Clone(ids), func(id int64) bool { return gone[id] }))
}
