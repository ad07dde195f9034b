package rules

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/weighing"
)

const (
	lastMessages = 1000  // that a rule is held against before it is saved
	mostMessages = 10000 // that it can be
	shownTouched = 200
	aWeek        = when.Instant(7 * 24 * 3_600_000) // for which a rule is tried
	undoAtOnce   = 500
)

// knownTo is what the words of a rule can name.
func knownTo(t store.Tx, who identity.Who, now when.Instant) (k sorting.Known, err error) {
	k = sorting.Known{Labels: map[string]int64{}, Week: who.Week, Now: now}
	labels, err := store.Labels(t).Labels(who.Box, false)
	if err != nil {
		return k, err
	}
	for _, l := range labelling.LabelViews(labels, nil) {
		k.Labels[l.Path] = l.ID
	}
	own, err := store.People(t).OwnAddresses(who.Box)
	if err != nil {
		return k, err
	}
	for _, a := range own {
		k.Own = append(k.Own, a.Address)
	}
	if k.People, err = store.Correspondents(t).Recent(who.Box, 500); err != nil {
		return k, err
	}
	p, err := store.People(t).PersonByID(who.Keeper())
	if err != nil {
		return k, err
	}
	k.Streams = p.Delivery
	if who.Team != 0 {
		fellows, err := membership.Membership(t).Fellows(who.Box)
		if err != nil {
			return k, err
		}
		k.Team = map[string]int64{}
		for _, f := range fellows {
			k.Team[f.Name] = f.PersonID
		}
	}
	k.Combos, k.Templates = map[string]string{}, map[string]int64{}
	for _, c := range p.Habits.Combos {
		if c.ByItself() {
			k.Combos[c.Name] = c.ID
		}
	}
	templates, err := drafting.Drafts(t).Templates(who.Keeper())
	if err != nil {
		return k, err
	}
	for _, x := range templates {
		k.Templates[x.Name] = x.ID
	}
	saved, err := store.Lists(t).SavedLists(who.Box, who.Keeper())
	if err != nil {
		return k, err
	}
	k.Saved = map[string]int64{}
	for _, l := range saved {
		k.Saved[l.Name] = l.ID
	}
	k.Lists, err = ruling.Rules(t).Lists(who.Box, 100)
	return k, err
}

// All gives the rules of a person's box in their order.
func (d *Desk) All(ctx context.Context, who identity.Who) (out []RuleView, err error) {
	out = []RuleView{}
	now := d.Journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		rules, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return err
		}
		counts, err := ruling.Rules(t).Counts(who.Box)
		if err != nil {
			return err
		}
		k, err := knownTo(t, who, now)
		if err != nil {
			return err
		}
		for _, r := range rules {
			if r.Lesson {
				continue // they stand with what was learned
			}
			read := sorting.ReadRule(r.Words, k)
			if r.Mode == sorting.Trying && r.Until <= now {
				r.Mode = sorting.Off
			}
			out = append(out, RuleView{Rule: r, Called: r.Called(), Pieces: read.Pieces, Doubt: read.Doubt, Did: counts[r.ID].Did, Would: counts[r.ID].Would})
		}
		return nil
	})
	return out, err
}

// Read reads a rule that is being written, and says what it would have done.
func (d *Desk) Read(ctx context.Context, who identity.Who, a Asked) (w Written, err error) {
	if a.Span == 0 {
		a.Span = lastMessages
	}
	a.Span = min(max(a.Span, 1), mostMessages)
	now := d.Journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		k, err := knownTo(t, who, now)
		if err != nil {
			return err
		}
		w.Reading = sorting.ReadRule(a.Words, k)
		w.Rule.ID = a.ID
		if w.Wrong = w.Doubt; w.Wrong == "" {
			if err := w.Rule.Valid(); err != nil {
				w.Wrong = say.Upper(err.Error()) + "."
			}
		}
		w.Proof, err = prove(t, who, w.Rule, a.Span)
		return err
	})
	return w, err
}

// prove holds a rule against the messages that came last.
func prove(t store.Tx, who identity.Who, r sorting.Rule, span int) (p Proof, err error) {
	p = Proof{Touched: []Touched{}, Quarrels: []string{}}
	all, err := ruling.Rules(t).Last(who.Box, who.Person, who.Week, span)
	if err != nil {
		return p, err
	}
	p.Of = len(all)
	if len(r.When) == 0 || slices.Contains(r.When, search.Query{}) {
		return p, nil
	}
	var about []ruling.Message
	var in []int64
	for _, m := range all {
		if r.Holds(m.Message) {
			about, in = append(about, m), append(in, m.Conversation)
		}
	}
	deeds, err := weighing.Weights(t).Deeds(who.Box, in)
	if err != nil {
		return p, err
	}
	rules, err := ruling.Rules(t).All(who.Box)
	if err != nil {
		return p, err
	}
	strokes := make([]byte, len(about))
	quarrels := map[int64]int{}
	for i, m := range about {
		did, as := decided(r, m, deeds[m.Conversation])
		x := Touched{Message: m.ID, Conversation: m.Conversation, From: mail.Address{Name: m.FromName, Address: m.From}, Subject: m.Subject, At: m.Came, Did: did, Otherwise: did != "" && !as, Before: did == "" && m.Place != inbox.Inbox}
		stroke := byte('u')
		switch {
		case x.Otherwise:
			p.Otherwise++
			stroke = 'o'
		case did != "":
			p.As++
			stroke = 'a'
		}
		strokes[len(about)-1-i] = stroke
		if len(p.Touched) < shownTouched {
			p.Touched = append(p.Touched, x)
		}
		for _, o := range rules {
			if o.ID != r.ID && o.Mode != sorting.Off && o.Holds(m.Message) {
				quarrels[o.ID]++
			}
		}
	}
	p.Count, p.Strokes = len(about), string(strokes)
	before := true // rules that stand before it; a new one comes last
	for _, o := range rules {
		if o.ID == r.ID {
			before = false
			continue
		}
		text := o.Quarrels(r)
		if !before && r.ID != 0 {
			text = r.Quarrels(o)
		}
		if n := quarrels[o.ID]; n > 0 && text != "" {
			p.Quarrels = append(p.Quarrels, fmt.Sprintf("Both are about %s. %s", say.Plural(n, "message"), text))
		}
	}
	return p, nil
}

// decided is what the user has decided about a message, and whether a rule would have
// done so: it puts the conversation where they put it, or does to it what they did.
func decided(r sorting.Rule, m ruling.Message, deeds []sorting.Deed) (did inbox.Kind, as bool) {
	for _, x := range deeds {
		if x.At < m.Came {
			continue
		}
		switch x.Kind {
		case inbox.ToBin, inbox.ToJunk, inbox.Archive, inbox.Snooze, inbox.MakeFollowUp, inbox.Combo, inbox.Rest, inbox.SendMail, inbox.Star:
			if did == "" || did == inbox.Star {
				did = x.Kind
			}
		}
		as = as || slices.ContainsFunc(r.Then, func(s inbox.ComboStep) bool {
			return s.Kind == x.Kind || s.Kind == inbox.Archive && x.Kind == inbox.Rest
		})
	}
	for _, s := range r.Then {
		if s.Kind == inbox.Label && len(s.Labels) > 0 && len(m.Labels.With(s.Labels...).Minus(m.Labels)) == 0 {
			as = true
			if did == "" {
				did = inbox.Label
			}
		}
	}
	if !r.Places() && did != "" && did != inbox.ToBin && did != inbox.ToJunk && !slices.ContainsFunc(r.Then, func(s inbox.ComboStep) bool { return s.Kind == inbox.MakeFollowUp }) {
		as = true // it only marks, and moves nothing that was decided
	}
	return did, as
}

// usual is how many messages like one are looked at for what is usually done with them.
const usual = 30

// Like gives the words of a rule for messages like the newest of a conversation: of its
// list, or else from its sender, and what the user has mostly done with those. Where
// nothing is usual the words end with the colon.
func (d *Desk) Like(ctx context.Context, who identity.Who, conversation int64) (s Suggested, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := store.Conversations(t).RowByID(who.Box, who.Person, conversation)
		if err != nil {
			return err
		}
		list, err := ruling.Rules(t).ListOf(who.Box, conversation)
		if err != nil {
			return err
		}
		about := search.Query{From: row.FromAddr}
		s.Words = "from " + row.FromAddr
		if list != "" {
			about, s.Words = search.Query{List: list}, "list "+list
		}
		s.Words += ": "
		all, err := ruling.Rules(t).Last(who.Box, who.Person, who.Week, lastMessages)
		if err != nil {
			return err
		}
		all = slices.DeleteFunc(all, func(m ruling.Message) bool { return !about.Holds(m.Message) })
		all = all[:min(len(all), usual)]
		var in []int64
		for _, m := range all {
			in = append(in, m.Conversation)
		}
		deeds, err := weighing.Weights(t).Deeds(who.Box, in)
		if err != nil {
			return err
		}
		labels, err := store.Labels(t).Labels(who.Box, false)
		if err != nil {
			return err
		}
		s.Words += strings.Join(usually(all, deeds, labelling.LabelViews(labels, nil)), ", ")
		return nil
	})
	return s, err
}

// usually are the actions, in words, that were taken for more than half of the messages.
func usually(all []ruling.Message, deeds map[int64][]sorting.Deed, labels []labelling.LabelView) (out []string) {
	kinds := map[inbox.Kind]int{}
	with := map[int64]int{}
	for _, m := range all {
		seen := map[inbox.Kind]bool{}
		for _, x := range deeds[m.Conversation] {
			if x.At >= m.Came && !seen[x.Kind] {
				seen[x.Kind] = true
				kinds[x.Kind]++
			}
		}
		for _, l := range m.Labels.IDs() {
			with[l]++
		}
	}
	for _, l := range labels {
		if 2*with[l.ID] > len(all) {
			out = append(out, "label "+l.Path)
		}
	}
	for _, k := range []struct {
		kind  inbox.Kind
		words string
	}{{inbox.Star, "star"}, {inbox.MakeFollowUp, "follow up"}, {inbox.Archive, "archive"}, {inbox.ToBin, "bin"}} {
		if 2*kinds[k.kind] > len(all) {
			out = append(out, k.words)
		}
	}
	return out
}

// Save stores a rule, new or changed. The key makes it safe to repeat.
func (d *Desk) Save(ctx context.Context, who identity.Who, key string, s Saving) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	now := d.Journal.Now()
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (journal.Decided, error) {
		k, err := knownTo(t, who, now)
		if err != nil {
			return journal.Decided{}, err
		}
		read := sorting.ReadRule(s.Words, k)
		if read.Doubt != "" {
			return journal.Decided{}, problem.Invalid("words", "The rule was not saved. "+read.Doubt)
		}
		r := read.Rule
		r.ID, r.Name, r.Mode = s.ID, strings.TrimSpace(s.Name), s.Mode
		for i, step := range r.Then {
			if sorting.NewLabel(step) {
				names := labelling.LabelNames(step.Text)
				if names == nil || len(names) > labelling.MaxNested {
					return journal.Decided{}, problem.Invalid("words", fmt.Sprintf("“%s” cannot be the name of a label, so the rule was not saved. A label has a short name, such as “loans” or “loans / leg two”.", step.Text))
				}
				l, err := labelling.MakeLabel(t, who.Box, names)
				if err != nil {
					return journal.Decided{}, err
				}
				r.Then[i] = inbox.ComboStep{Kind: inbox.Label, Labels: []int64{l.ID}}
			}
		}
		if err := r.Valid(); err != nil {
			return journal.Decided{}, problem.Invalid("words", "The rule was not saved: "+err.Error()+".")
		}
		var was *sorting.Rule
		if s.ID != 0 {
			old, gone, err := ruling.Rules(t).Rule(who.Box, s.ID)
			if err != nil || gone {
				return journal.Decided{}, problem.Invalid("id", "That rule has been deleted meanwhile, so nothing was saved. What you wrote is still in the field; save it as a new one.")
			}
			was, r.Rank, r.Until = &old, old.Rank, old.Until
		} else {
			all, err := ruling.Rules(t).All(who.Box)
			if err != nil {
				return journal.Decided{}, err
			}
			if len(all) >= sorting.MaxRules {
				return journal.Decided{}, problem.Invalid("words", fmt.Sprintf("There is room for %d rules. Delete one you no longer use; nothing was saved.", sorting.MaxRules))
			}
		}
		if s.Offer != 0 {
			if err := ruling.Rules(t).SetOffer(who.Box, s.Offer, ruling.OfferTaken); err != nil && !errors.Is(err, store.ErrNotFound) {
				return journal.Decided{}, err
			}
		}
		if r.Mode == sorting.Trying && (was == nil || was.Mode != sorting.Trying || was.Until <= now) {
			r.Until = now + aWeek
		}
		return d.put(t, who, was, &r)
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules, journal.TopicLabels}, Key: key})
	}
	return out, err
}

// put stores a rule as it is now, nil: it is gone, with its line in the journal.
func (d *Desk) put(t store.Tx, who identity.Who, was, is *sorting.Rule) (journal.Decided, error) {
	says := func(int) string { return "Saved." }
	r := is
	if is == nil {
		r = was
		says = func(int) string { return "Deleted: “" + was.Called() + "”. What it has done stays." }
	} else if is.Mode == sorting.Trying {
		says = func(int) string {
			return "Saved. It only writes down what it would do, until " + who.Week.Say(when.Moment{At: is.Until}, d.Journal.Now()) + "."
		}
	}
	if err := ruling.Rules(t).Put(who.Box, r, is == nil); err != nil {
		return journal.Decided{}, err
	}
	chosen, err := store.Choose(was, is)
	if err != nil {
		return journal.Decided{}, err
	}
	return d.Journal.Commit(t, who, store.Entry{Kind: inbox.ChangeRule, At: d.Journal.Now(), Ref: r.ID, Text: r.Called(), Chosen: chosen}, nil, says)
}

// back puts a rule back as it was, or as it was made.
func back(t store.Tx, s *journal.Step) error {
	switch {
	case s.Done.Chosen == nil: // the rule was there before
		return nil
	case s.Done.Ref == 0:
		return orderBack(t, s)
	}
	var was, is *sorting.Rule
	if err := s.Done.Chosen.Read(&was, &is); err != nil {
		return err
	}
	now, gone, err := ruling.Rules(t).Rule(s.Who.Box, s.Done.Ref)
	if err != nil {
		return err
	}
	if (is == nil) != gone || is != nil && !now.Same(*is) {
		if s.Entry.Chosen, s.Entry.Ref = nil, 0; s.Root.Kind == inbox.ChangeRule {
			s.Nothing()
		}
		return nil
	}
	s.Topics = append(s.Topics, journal.TopicRules)
	if was == nil {
		return ruling.Rules(t).Put(s.Who.Box, is, true)
	}
	return ruling.Rules(t).Put(s.Who.Box, was, false)
}

// Drop deletes a rule. What it has done stays.
func (d *Desk) Drop(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (journal.Decided, error) {
		r, gone, err := ruling.Rules(t).Rule(who.Box, id)
		if err == nil && gone {
			err = store.ErrNotFound
		}
		if err != nil {
			return journal.Decided{}, err
		}
		return d.put(t, who, &r, nil)
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules}, Key: key})
	}
	return out, err
}

// Order puts the rules of a box into an order: those named first, in theirs, and the
// others after them as they stand. It is a step like any other.
func (d *Desk) Order(ctx context.Context, who identity.Who, key string, ids []int64) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		all, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return out, err
		}
		was := idsOf(all)
		slices.SortStableFunc(all, func(a, b sorting.Rule) int { return place(ids, a.ID) - place(ids, b.ID) })
		is := idsOf(all)
		if slices.Equal(was, is) {
			return out, nil
		}
		if err := putOrder(t, who.Box, all); err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.ChangeRule, At: d.Journal.Now(), Text: "their order"}
		if e.Chosen, err = store.Choose(&was, &is); err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, e, nil, func(int) string { return "Moved." })
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules}, Key: key})
	}
	return out, err
}

func idsOf(rules []sorting.Rule) []int64 {
	ids := make([]int64, len(rules))
	for i, r := range rules {
		ids[i] = r.ID
	}
	return ids
}

// putOrder stores the rules of a box as they stand.
func putOrder(t store.Tx, box int64, rules []sorting.Rule) error {
	for i, r := range rules {
		if r.Rank != i+1 {
			r.Rank = i + 1
			if err := ruling.Rules(t).Put(box, &r, false); err != nil {
				return err
			}
		}
	}
	return nil
}

// orderBack puts rules back into the order they had, if they still stand as they were
// put; one that was made or deleted since stays where it is or gone.
func orderBack(t store.Tx, s *journal.Step) error {
	var was, is *[]int64
	if err := s.Done.Chosen.Read(&was, &is); err != nil || was == nil || is == nil {
		return err
	}
	all, err := ruling.Rules(t).All(s.Who.Box)
	if err != nil {
		return err
	}
	here := idsOf(all)
	known := func(ids []int64) []int64 {
		return slices.DeleteFunc(slices.Clone(ids), func(id int64) bool { return !slices.Contains(here, id) })
	}
	if !slices.Equal(slices.DeleteFunc(slices.Clone(here), func(id int64) bool { return !slices.Contains(*is, id) }), known(*is)) {
		s.Nothing()
		return nil
	}
	slices.SortStableFunc(all, func(a, b sorting.Rule) int { return place(*was, a.ID) - place(*was, b.ID) })
	s.Topics = append(s.Topics, journal.TopicRules)
	return putOrder(t, s.Who.Box, all)
}

func place(ids []int64, id int64) int {
	if i := slices.Index(ids, id); i >= 0 {
		return i
	}
	return len(ids)
}

// Did gives what a rule has done and would have, the newest first, before the one named.
func (d *Desk) Did(ctx context.Context, who identity.Who, rule, before int64) (out []DidView, err error) {
	out = []DidView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := ruling.Rules(t).Did(who.Box, rule, before, 50)
		for _, r := range rows {
			out = append(out, DidView{ID: r.ID, Entry: r.EntryID, Conversation: r.ConversationID, From: mail.Address{Name: r.FromName, Address: r.FromAddr}, Subject: mail.Title(r.Subject), At: r.At, Did: r.Run.Did, TakenBack: r.TakenBack})
		}
		return err
	})
	return out, err
}

// Undo takes back all that a rule has done and that nothing has changed since, the
// newest first, and says how much.
func (d *Desk) Undo(ctx context.Context, who identity.Who, rule int64) (out journal.Decided, err error) {
	if err := who.May(together.Serve); err != nil {
		return out, err
	}
	var entries []int64
	err = d.store.Read(ctx, func(t store.Tx) error {
		entries, err = ruling.Rules(t).Standing(who.Box, rule, undoAtOnce)
		return err
	})
	if err != nil {
		return out, err
	}
	done, left := 0, 0
	for _, e := range entries {
		one, err := d.Journal.TakeBackStep(ctx, who, "", e)
		var cannot *problem.Error
		switch {
		case errors.As(err, &cannot):
			left++
		case err != nil:
			return out, err
		default:
			done++
			out.Left = one.Left
		}
	}
	out.Count, out.Text = done, fmt.Sprintf("Taken back: %s.", say.Plural(done, "thing"))
	if left > 0 {
		out.Text += fmt.Sprintf(" %d have been changed since and stay.", left)
	}
	if done == 0 && left == 0 {
		out.Text = "There is nothing left to take back of this rule."
	}
	return out, nil
}
