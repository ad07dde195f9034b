package finding

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/finding"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

const (
	firstPlaces = 20       // of which the place is shown at once
	width       = 150      // bytes of an excerpt
	readOf      = 96 << 10 // bytes of a message that are read for one
	mostCounts  = 5        // of one kind that stand beside what was found
	mostOthers  = 8
	mostDrafts  = 200 // that are looked through
	mostNear    = 3   // words that may have been meant
)

// Find finds what is asked for, the best or the newest first; all there is, if nothing is.
func (d *Desk) Find(ctx context.Context, who identity.Who, asked string, newest bool) (out FoundView, err error) {
	now := d.journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		k, labels, err := knownTo(t, who, now)
		if err != nil {
			return err
		}
		out = FoundView{Reading: search.Read(asked, k), Newest: newest, Terms: []search.Term{}, IDs: []int64{}, Slips: []queue.Slip{}, Places: []FoundIn{}, Others: []FoundOther{}, People: []FoundCount{}, Years: []FoundCount{}, Labels: []FoundCount{}, Kinds: []FoundCount{}, Instead: []Instead{}}
		if out.Covers.Unread, err = finding.Finding(t).CountUnread(who.Box, 1000); err != nil {
			return err
		}
		if out.Covers.Missing, err = finding.Finding(t).CountUnfolded(who.Box, 1000); err != nil {
			return err
		}
		accounts, err := mailboxes.Accounts(t).Accounts(who.Box)
		if err != nil {
			return err
		}
		out.Covers.Accounts = len(accounts)
		q := out.Reading.Query
		if q == (search.Query{}) && strings.TrimSpace(asked) != "" || q.Valid() != nil { // nothing of it can be looked for
			return nil
		}
		r, err := d.found(t, who, q, newest, now)
		if err != nil {
			return err
		}
		out.Count, out.More, out.Terms = r.Count, r.More, append(append([]search.Term{}, q.Terms()...), q.SubjectTerms()...)
		for _, f := range r.Found[:min(len(r.Found), finding.Shown)] {
			out.IDs = append(out.IDs, f.Conversation)
		}
		first := r.Found[:min(len(r.Found), firstPlaces)]
		if out.Slips, err = queue.SlipsBy(t, who, out.IDs[:len(first)], now); err != nil {
			return err
		}
		if q != (search.Query{}) {
			out.Places, err = places(t, who, q, first)
		}
		if err != nil {
			return err
		}
		if out.Others, err = d.others(t, who, q, r.Others); err != nil {
			return err
		}
		counts(&out, r.Found, labels, k)
		if out.Count == 0 && len(out.Others) == 0 {
			out.Instead, err = instead(t, who, asked, q, k)
		}
		return err
	})
	return out, err
}

// Places gives where what is asked for stands in the conversations found, from the one at
// from on.
func (d *Desk) Places(ctx context.Context, who identity.Who, asked string, newest bool, from int) (out []FoundIn, err error) {
	now := d.journal.Now()
	out = []FoundIn{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		k, _, err := knownTo(t, who, now)
		if err != nil {
			return err
		}
		q := search.Read(asked, k).Query
		if q == (search.Query{}) || q.Valid() != nil { // what is asked for nothing has no places
			return nil
		}
		r, err := d.found(t, who, q, newest, now)
		if err != nil || from < 0 || from >= len(r.Found) {
			return err
		}
		out, err = places(t, who, q, r.Found[from:min(len(r.Found), from+firstPlaces)])
		return err
	})
	return out, err
}

// found finds what q says. Without words or people there is nothing by which one would be
// better than another, so the newest come first.
func (d *Desk) found(t store.Tx, who identity.Who, q search.Query, newest bool, now when.Instant) (finding.Result, error) {
	terms := slices.Concat(q.Terms(), q.SubjectTerms())
	if search.Sought(terms) || q.Writer+q.To+q.With != "" {
		return finding.Finding(t).Find(who.Box, who.Person, q, newest || !search.Sought(terms), now)
	}
	rows, err := store.Search(t).Found(who.Box, who.Person, q, nil, finding.Shown)
	if err != nil {
		return finding.Result{}, err
	}
	r := finding.Result{Count: len(rows)}
	for _, c := range rows {
		r.Found = append(r.Found, finding.Found{Newest: c.LastAt, Place: finding.Place{
			Hit: search.Hit{At: c.LastAt, Importance: c.Importance}, Conversation: c.ID, From: mail.Address{Name: c.FromName, Address: c.FromAddr}, Own: c.OwnLast, MailKind: c.Kind, Labels: c.Labels}})
	}
	r.More = len(rows) == finding.Shown
	return r, nil
}

// knownTo is what a person's search can name.
func knownTo(t store.Tx, who identity.Who, now when.Instant) (k search.Known, paths map[int64]string, err error) {
	k = search.Known{Labels: map[string]int64{}, Streams: map[string]string{}, Week: who.Week, Now: now}
	labels, err := store.Labels(t).Labels(who.Box, false)
	if err != nil {
		return k, nil, err
	}
	paths = map[int64]string{}
	for _, l := range labelling.LabelViews(labels, nil) {
		k.Labels[l.Path], paths[l.ID] = l.ID, l.Path
	}
	own, err := store.People(t).OwnAddresses(who.Box)
	if err != nil {
		return k, nil, err
	}
	for _, a := range own {
		k.Own = append(k.Own, a.Address)
	}
	if k.Projects, err = store.FollowUps(t).Named(who.Box, "project"); err != nil {
		return k, nil, err
	}
	p, err := store.People(t).PersonByID(who.Keeper())
	if err != nil {
		return k, nil, err
	}
	for _, s := range p.Delivery.All() {
		k.Streams[strings.ToLower(p.Delivery.Name(s))] = string(s)
	}
	k.Find = func(name string) []mail.Address {
		people, err := store.Correspondents(t).Complete(who.Box, name, now, 40)
		if err != nil {
			return nil // then it is looked for as words
		}
		return search.Called(people, name)
	}
	return k, paths, nil
}

// places reads where in their conversations the words stand.
func places(t store.Tx, who identity.Who, q search.Query, found []finding.Found) ([]FoundIn, error) {
	terms := slices.Concat(q.Terms(), q.SubjectTerms())
	out := []FoundIn{}
	var documents []int64
	for _, f := range found {
		if f.Document > 0 {
			documents = append(documents, f.Document)
		}
	}
	texts, err := finding.Finding(t).Documents(who.Box, documents)
	if err != nil {
		return nil, err
	}
	for _, f := range found {
		p := FoundAt{Kind: cmp.Or(f.Kind, search.MessageDocument), Message: f.Message, File: -1, At: f.At, Places: f.Places, Excerpt: []search.Piece{}}
		if !f.Own {
			p.From = f.From.Short()
		}
		if doc, ok := texts[f.Document]; ok {
			p.Title, p.UID = doc.Title, doc.UID
			if doc.Kind == search.FileDocument {
				p.File = doc.Part
			}
			if p.Excerpt, p.Page = excerpt(doc.Text, terms); !marked(p.Excerpt) { // it is found by what it is called
				if called, _ := excerpt(doc.Title, terms); marked(called) {
					p.Excerpt = called
				}
			}
		} else if f.Message > 0 && len(terms) > 0 {
			raw, err := store.Messages(t).Beginning(f.Message, readOf)
			if err != nil {
				return nil, err
			}
			p.Excerpt, _ = excerpt(mime.Read(raw).Words(), terms)
		}
		out = append(out, FoundIn{f.Conversation, p})
	}
	return out, nil
}

func marked(pieces []search.Piece) bool {
	return slices.ContainsFunc(pieces, func(p search.Piece) bool { return p.Marked })
}

// excerpt is the part of a text that says the terms, and on which page, if it has several.
func excerpt(text string, terms []search.Term) (pieces []search.Piece, page int) {
	pieces, has := search.Excerpt(text, terms, width)
	pieces = append([]search.Piece{}, pieces...) // never null
	if has == 0 || !strings.Contains(text, "\f") {
		return pieces, 0
	}
	best := 0
	for i, p := range strings.Split(text, "\f") {
		if _, n := search.Excerpt(p, terms, width); n > best {
			best, page = n, i+1
		}
	}
	return pieces, page
}

// others are what was found besides conversations: follow-ups and events that are about
// none, drafts, and what waits to go.
func (d *Desk) others(t store.Tx, who identity.Who, q search.Query, found []finding.Place) ([]FoundOther, error) {
	out := []FoundOther{}
	terms := q.Terms()
	var ids []int64
	for _, p := range found[:min(len(found), mostOthers)] {
		ids = append(ids, p.Document)
	}
	texts, err := finding.Finding(t).Documents(who.Box, ids)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		doc := texts[id]
		kind := OtherFollowUp
		if doc.Kind == search.EventDocument {
			kind = OtherEvent
		}
		pieces, _ := search.Excerpt(doc.Text, terms, width)
		out = append(out, FoundOther{Kind: kind, UID: doc.UID, Title: doc.Title, At: doc.At, Excerpt: append([]search.Piece{}, pieces...)})
	}
	if !search.Sought(terms) || (q != search.Query{Words: q.Words}) {
		return out, nil
	}
	drafts, err := drafting.Drafts(t).DraftsOf(who.Box, who.Person, mostDrafts)
	if err != nil {
		return nil, err
	}
	for _, x := range drafts {
		if len(out) < 2*mostOthers && x.OutgoingID == 0 && search.Saying(x.Subject, named(slices.Concat(x.To, x.Cc, x.Bcc)), x.Text)(terms, false) {
			pieces, _ := search.Excerpt(x.Text, terms, width)
			out = append(out, FoundOther{Kind: OtherDraft, ID: x.ID, Title: cmp.Or(x.Subject, "(no subject)"), At: x.Changed, Excerpt: append([]search.Piece{}, pieces...)})
		}
	}
	leaving, err := sending.Outbox(t).Outbox(who.Box, 0, mostDrafts)
	if err != nil {
		return nil, err
	}
	for _, x := range leaving {
		var to strings.Builder
		for _, r := range x.To {
			to.WriteString(r.Address + " ")
		}
		if len(out) < 3*mostOthers && !x.Quiet && search.Saying(x.Subject, x.Name+" "+x.Address+" "+to.String(), x.Text)(terms, false) {
			pieces, _ := search.Excerpt(x.Text, terms, width)
			out = append(out, FoundOther{Kind: OtherLeaving, ID: x.ID, Title: cmp.Or(x.Subject, "(no subject)"), At: x.At, Excerpt: append([]search.Piece{}, pieces...)})
		}
	}
	return out, nil
}

func named(people []mail.Address) string {
	var b strings.Builder
	for _, a := range people {
		b.WriteString(a.Name + " " + a.Address + " ")
	}
	return b.String()
}

// counts counts what the conversations found have in common, by what narrows them.
func counts(out *FoundView, found []finding.Found, labels map[int64]string, k search.Known) {
	people, names, years, of, kinds := map[string]int{}, map[string]string{}, map[string]int{}, map[string]int{}, map[search.DocumentKind]int{}
	loc := k.Week.Location()
	for _, f := range found {
		if a := f.From.Address; a != "" && !f.Own {
			people[a]++
			names[a] = cmp.Or(f.From.Name, names[a], a)
		}
		years[strconv.Itoa(f.Newest.In(loc).Year())]++
		kinds[cmp.Or(f.Kind, search.MessageDocument)]++
		for _, l := range f.Labels.IDs() {
			if path := labels[l]; path != "" {
				of[path]++
			}
		}
	}
	q := out.Reading.Query
	if q.Writer == "" {
		for _, a := range most(people) {
			out.People = append(out.People, FoundCount{names[a], "from " + a, people[a]})
		}
	}
	if q.Since == 0 && q.Until == 0 && len(years) > 1 {
		for _, y := range slices.Sorted(maps.Keys(years)) {
			out.Years = append(out.Years, FoundCount{y, "in " + y, years[y]})
		}
	}
	if q.Label == 0 {
		for _, path := range most(of) {
			out.Labels = append(out.Labels, FoundCount{path, "label “" + path + "”", of[path]})
		}
	}
	if q.Within == "" && len(kinds) > 1 {
		for _, x := range []struct {
			kind        search.DocumentKind
			name, words string
		}{{search.MessageDocument, "messages", "in messages"}, {search.FileDocument, "files", "in files"}, {search.FollowUpDocument, "follow-ups", "in follow-ups"}, {search.NameDocument, "names and notes", "in notes"}, {search.EventDocument, "events", "in events"}, {search.CommentDocument, "comments", "in comments"}} {
			if kinds[x.kind] > 0 {
				out.Kinds = append(out.Kinds, FoundCount{x.name, x.words, kinds[x.kind]})
			}
		}
	}
}

// most are the keys that count most, in order.
func most(counts map[string]int) []string {
	keys := slices.SortedFunc(maps.Keys(counts), func(a, b string) int {
		return cmp.Or(cmp.Compare(counts[b], counts[a]), cmp.Compare(a, b))
	})
	return keys[:min(len(keys), mostCounts)]
}

// instead are searches that may have been meant, where nothing was found: a word that
// stands in no message with one letter otherwise.
func instead(t store.Tx, who identity.Who, asked string, q search.Query, k search.Known) ([]Instead, error) {
	out := []Instead{}
	for _, term := range q.Terms() {
		if term.Not || len(term.Words) != 1 {
			continue
		}
		if time := "in " + term.Text; search.Read(time, k).Query.OfMessage() { // a time that was meant as one
			if out, err := offered(t, who, out, k, time, strings.Replace(asked, term.Text, time, 1)); err != nil || len(out) > 0 {
				return out, err
			}
		}
		n, err := store.Search(t).Count(who.Box, who.Person, search.Query{Words: term.Text}, 1)
		if err != nil {
			return nil, err
		}
		if n > 0 {
			continue
		}
		known, err := finding.Finding(t).Knows(search.Near(term.Words[0]), 200)
		if err != nil {
			return nil, err
		}
		for _, w := range most(known) {
			if out, err = offered(t, who, out, k, w, strings.Replace(asked, term.Text, w, 1)); err != nil {
				return nil, err
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Instead) int { return cmp.Compare(b.Count, a.Count) })
	return out[:min(len(out), mostNear)], nil
}

// offered adds what else could be asked, if that finds something.
func offered(t store.Tx, who identity.Who, to []Instead, k search.Known, word, asked string) ([]Instead, error) {
	n, err := store.Search(t).Count(who.Box, who.Person, search.Read(asked, k).Query, 1000)
	if err == nil && n > 0 {
		to = append(to, Instead{word, asked, n})
	}
	return to, err
}

// Recent gives what a person has looked for last, the newest first.
func (d *Desk) Recent(ctx context.Context, who identity.Who) (asked []string, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error { asked, err = finding.Finding(t).Recent(who.Person); return err })
	return asked, err
}

// Note notes what a person has looked for and opened something of; nothing forgets all.
func (d *Desk) Note(ctx context.Context, who identity.Who, asked string) error {
	asked = strings.TrimSpace(asked)
	if len(asked) > search.MaxAsked {
		return nil
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		if asked == "" {
			return finding.Finding(t).ForgetSearches(who.Person)
		}
		return finding.Finding(t).NoteSearch(who.Person, asked, d.journal.Now())
	})
}
