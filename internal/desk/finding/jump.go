package finding

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/finding"
)

const (
	leastJump = 2 // letters for which somebody or something is looked for
	eachJump  = 4 // of one kind that are given
)

// Jump gives whom and what a few letters may mean: people, conversations, follow-ups and
// labels, the most likely of each first.
func (d *Desk) Jump(ctx context.Context, who identity.Who, letters string) (out []Jump, err error) {
	letters = strings.TrimSpace(letters)
	out = []Jump{}
	if utf8.RuneCountInString(letters) < leastJump || len(letters) > search.MaxAsked {
		return out, nil
	}
	now := d.journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		k, paths, err := knownTo(t, who, now)
		if err != nil {
			return err
		}
		people := k.Find(letters)
		for _, a := range people[:min(len(people), eachJump)] {
			out = append(out, Jump{Kind: JumpPerson, Name: a.Short(), Note: a.Address, Key: a.Address})
		}
		labels := []Jump{}
		words := strings.Fields(search.Fold(letters))
		for id, path := range paths {
			if f := search.Fold(path); !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(f, w) }) {
				labels = append(labels, Jump{Kind: JumpLabel, Name: path, Key: strconv.FormatInt(id, 10)})
			}
		}
		slices.SortFunc(labels, func(a, b Jump) int { return cmp.Compare(a.Name, b.Name) })
		out = append(out, labels[:min(len(labels), eachJump)]...)
		q := search.Query{Words: letters}
		if !search.Sought(q.Terms()) || q.Valid() != nil {
			return nil
		}
		work := q
		work.Within = search.FollowUpDocument
		tracked, err := finding.Finding(t).Find(who.Box, who.Person, work, false, now)
		if err != nil {
			return err
		}
		var ids []int64
		for _, f := range tracked.Found[:min(len(tracked.Found), eachJump)] {
			ids = append(ids, f.Document)
		}
		for _, p := range tracked.Others[:min(len(tracked.Others), eachJump)] {
			if p.Kind == search.FollowUpDocument {
				ids = append(ids, p.Document)
			}
		}
		texts, err := finding.Finding(t).Documents(who.Box, ids)
		if err != nil {
			return err
		}
		for _, id := range ids[:min(len(ids), eachJump)] {
			out = append(out, Jump{Kind: JumpFollowUp, Name: texts[id].Title, Key: texts[id].UID})
		}
		r, err := finding.Finding(t).Find(who.Box, who.Person, q, false, now)
		if err != nil {
			return err
		}
		ids = nil
		for _, f := range r.Found[:min(len(r.Found), eachJump)] {
			ids = append(ids, f.Conversation)
		}
		rows, err := store.Search(t).Rows(who.Box, who.Person, ids)
		for _, c := range rows {
			out = append(out, Jump{Kind: JumpConversation, Name: cmp.Or(c.Title, mail.Title(c.Subject)), Note: mail.Address{Name: c.FromName, Address: c.FromAddr}.Short(), Key: strconv.FormatInt(c.ID, 10)})
		}
		return err
	})
	return out, err
}
