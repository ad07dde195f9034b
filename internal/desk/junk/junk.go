// Package junk is where junk is told from mail as it comes into view, where what one says
// of it is learned, and where one looks it through.
package junk

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/junking"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/weighing"
)

// Desk is where junk is dealt with.
type Desk struct {
	Journal   *journal.Journal
	Decisions *decide.Desk

	store *store.Store
}

// New makes a desk over a store, and tells the journal of what it writes there.
func New(s *store.Store, j *journal.Journal, d *decide.Desk) *Desk {
	k := &Desk{Journal: j, Decisions: d, store: s}
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.JunkFound: {Verb: "found to be junk", Step: true},
		inbox.Block:     {Verb: "blocked", Step: true, Named: true, Before: back},
	})
	return k
}

// Sort puts what is junk among messages that have come into view where junk lies, in the
// transaction in which they have, each with its line in the journal, and says what it has
// changed and which conversations those were. Only what begins a conversation is looked
// at: who writes in one that is known is no stranger.
func (d *Desk) Sort(t store.Tx, who identity.Who, p store.Person, messages []ruling.Message) (changes []inbox.Change, junk map[int64]bool, err error) {
	var ids []int64
	var from []string
	for _, m := range messages {
		if m.Alone && m.Place == inbox.Inbox {
			ids, from = append(ids, m.ID), append(from, m.From)
		}
	}
	if len(ids) == 0 {
		return nil, nil, nil
	}
	tests, err := junking.Tests(t).Of(who.Box, ids)
	if err != nil || len(tests) == 0 {
		return nil, nil, err
	}
	written, err := store.HeldMail(t).Written(who.Box, from)
	if err != nil {
		return nil, nil, err
	}
	junk = map[int64]bool{}
	for _, m := range messages {
		test := tests[m.ID]
		if test == nil {
			continue
		}
		is, why := sorting.JunkTest(p.Habits.Junk, factsOf(m, *test, written[m.From] > 0))
		if !is {
			continue
		}
		done, err := d.Decisions.Junk(t, who, []int64{m.Conversation})
		if err != nil {
			return nil, nil, err
		}
		e := store.Entry{Kind: inbox.JunkFound, Actor: store.ByRule, At: d.Journal.Now(), ConversationID: m.Conversation, Text: m.Subject}
		if _, err := d.Journal.Commit(t, who, e, done, nil); err != nil {
			return nil, nil, err
		}
		if err := junking.Tests(t).SetWhy(m.ID, why); err != nil {
			return nil, nil, err
		}
		changes, junk[m.Conversation] = append(changes, done...), true
	}
	return changes, junk, nil
}

// factsOf is what the junk test looks at in a message.
func factsOf(m ruling.Message, x junking.Test, known bool) sorting.JunkFacts {
	f := sorting.JunkFacts{From: mail.Address{Name: m.FromName, Address: m.From}, Score: float64(x.Score) / 1000, Found: x.Found, Language: m.Language, Script: x.Script, Seems: x.Seems,
		Known: known, Expected: m.Answers || m.Awaited}
	for _, w := range strings.Fields(x.Words) {
		f.Words = append(f.Words, strings.ReplaceAll(w, "_", " "))
	}
	for _, a := range slices.Concat(m.To, m.Cc) {
		f.To = append(f.To, a.Address)
	}
	return f
}

const (
	aDay       = when.Instant(24 * 3_600_000)
	oneSender  = 3   // messages of one sender a day from which junk is learned: who sends many teaches no more
	forgetOnce = 500 // messages of which the signs are let go at once
)

// Learn learns what the messages of conversations have turned out to be, in place of what
// was learned of them before.
func (d *Desk) Learn(t store.Tx, box int64, conversations []int64) error {
	tests, err := junking.Tests(t).Within(box, conversations)
	if err != nil || len(tests) == 0 {
		return err
	}
	deeds, err := weighing.Weights(t).DeedsOf(box, conversations, sorting.JunkDeeds())
	if err != nil {
		return err
	}
	var add sorting.JunkModel
	learned := false
	for _, x := range tests {
		was := sorting.WasJunk(deeds[x.ConversationID], x.Place)
		if x.Signs == nil || was == x.Was {
			continue
		}
		if was == 1 {
			n, err := junking.Tests(t).JunkFrom(box, x.FromAddr, x.Came-aDay)
			if err != nil {
				return err
			}
			if n >= oneSender {
				continue
			}
		}
		signs := sorting.ReadSigns(x.Signs)
		if x.Was != 0 {
			add.Learn(signs, x.Was == 1, -1)
		}
		if was != 0 {
			add.Learn(signs, was == 1, 1)
		}
		if err := junking.Tests(t).SetWas(x.MessageID, was); err != nil {
			return err
		}
		learned = true
	}
	if !learned {
		return nil
	}
	if err := junking.Tests(t).Learn(box, add); err != nil {
		return err
	}
	_, err = junking.Tests(t).Forget(d.Journal.Now()-intake.JunkLearned, forgetOnce)
	return err
}

// firstSlips is of how many of them the slips come along.
const firstSlips = 40

// shown is how much of what lies in junk is shown at once.
const shown = 500

// All gives what lies in junk of a person's box, to be looked through: what is least
// certain first, and of that the newest.
func (d *Desk) All(ctx context.Context, who identity.Who) (v Lying, err error) {
	v = Lying{Groups: []Heap{{Key: "perhaps", IDs: []int64{}}, {Key: "likely", IDs: []int64{}}, {Key: "certain", IDs: []int64{}}}, Why: map[int64]string{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, err := junking.Tests(t).Listed(who.Box, shown)
		for _, x := range all {
			i := 2 // by the user's own word, or another program's; by who it is from; or without doubt
			switch {
			case sorting.ByWords(x.Why) && x.Score < 995:
				i = 0
			case sorting.ByWords(x.Why) && x.Score < 1000:
				i = 1
			}
			v.Groups[i].IDs = append(v.Groups[i].IDs, x.ID)
			if v.Count++; x.Why != "" {
				v.Why[x.ID] = x.Why
			}
		}
		if err != nil {
			return err
		}
		var first []int64
		for _, g := range v.Groups {
			first = append(first, g.IDs...)
		}
		v.Slips, err = queue.SlipsBy(t, who, first[:min(len(first), firstSlips)], d.Journal.Now())
		return err
	})
	v.Groups = slices.DeleteFunc(v.Groups, func(g Heap) bool { return len(g.IDs) == 0 })
	return v, err
}

const (
	aMonth    = 30 * aDay
	mostTests = 5000
)

// Figures says what each degree would have done with the mail of the last month, by how
// much it looked like junk as it came, and what was learned.
func (d *Desk) Figures(ctx context.Context, who identity.Who) (v Figures, err error) {
	v.Degrees = []DegreeView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		model, err := junking.Tests(t).Model(who.Box, nil)
		if err != nil {
			return err
		}
		v.Junk, v.Kept, v.Knows = model.Junk, model.Good, model.Knows()
		last, err := junking.Tests(t).Last(who.Box, d.Journal.Now()-aMonth, mostTests)
		if err != nil {
			return err
		}
		var ids []int64
		var from []string
		tests := map[int64]junking.Test{}
		for _, x := range last {
			ids, from, tests[x.MessageID] = append(ids, x.MessageID), append(from, x.FromAddr), x
		}
		v.Of = len(last)
		messages, err := ruling.Rules(t).Messages(who.Box, who.Person, who.Week, ids, nil)
		if err != nil {
			return err
		}
		written, err := store.HeldMail(t).Written(who.Box, from)
		if err != nil {
			return err
		}
		for _, degree := range []inbox.JunkDegree{inbox.JunkOff, inbox.JunkCareful, inbox.JunkStrict} {
			w := p.Habits.Junk
			w.Degree = degree
			x := DegreeView{Degree: degree, Wrongly: []Wrongly{}}
			for _, m := range messages {
				test := tests[m.ID]
				called, _ := sorting.JunkTest(w, factsOf(m, test, written[m.From] > 0))
				switch {
				case called && test.Was < 0:
					if x.Kept++; len(x.Wrongly) < 3 {
						x.Wrongly = append(x.Wrongly, Wrongly{m.Conversation, mail.Address{Name: m.FromName, Address: m.From}, m.Subject})
					}
					x.Called++
				case called:
					x.Called++
				case test.Was > 0:
					x.Missed++
				}
			}
			v.Degrees = append(v.Degrees, x)
		}
		return nil
	})
	return v, err
}

// Blocking says whom blocking the sender of a conversation would hit, and whom blocking
// all of their domain.
func (d *Desk) Blocking(ctx context.Context, who identity.Who, conversation int64) (v Blocking, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := store.Conversations(t).RowByID(who.Box, who.Person, conversation)
		if err != nil {
			return err
		}
		_, domain, _ := strings.Cut(row.FromAddr, "@")
		hit, err := junking.Tests(t).Hits(who.Box, domain)
		v = Blocking{Address: row.FromAddr, Domain: domain, People: hit.People, Written: hit.Written}
		return err
	})
	return v, err
}

// Block blocks the sender of a conversation, or all of their domain, and puts the
// conversation into junk. It is one step, which is taken back as one.
func (d *Desk) Block(ctx context.Context, who identity.Who, key string, conversation int64, domain bool) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		row, err := store.Conversations(t).RowByID(who.Box, who.Person, conversation)
		if err != nil {
			return out, err
		}
		own, err := intake.OwnAddresses(t, who.Box)
		if err != nil {
			return out, err
		}
		what := row.FromAddr
		if domain {
			what = what[strings.LastIndexByte(what, '@'):]
		}
		for a := range own {
			if a == what || domain && strings.HasSuffix(a, what) {
				return out, problem.Invalid("conversation", "That is an address of your own, so nothing was blocked.")
			}
		}
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		was := p.Habits.Junk
		is := was
		if is.Never = slices.DeleteFunc(slices.Clone(was.Never), func(s string) bool { return s == what }); !slices.Contains(was.Blocked, what) {
			is.Blocked = append(slices.Clone(was.Blocked), what)
		}
		if err := is.Valid(); err != nil {
			return out, problem.Invalid("conversation", "Nothing was blocked: "+err.Error()+".")
		}
		if changes, err = d.Decisions.Junk(t, who, []int64{conversation}); err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.Block, At: d.Journal.Now(), ConversationID: conversation, Text: what}
		if e.Chosen, err = store.Choose(&was, &is); err != nil {
			return out, err
		}
		p.Habits.Junk = is
		if err := store.People(t).PutPerson(&p, who.Box, nil); err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, e, changes, func(int) string {
			text := "Blocked: " + what + "."
			if domain {
				text = "Blocked: everybody at " + what[1:] + "."
			}
			return text + " What comes from there goes to junk; what answers you comes in all the same."
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicPerson}, Key: key})
	}
	return out, err
}

// back takes back a blocking, or does it again, as far as nobody has changed it since.
func back(t store.Tx, s *journal.Step) error {
	if s.Done.Chosen == nil {
		return nil
	}
	var was, is *inbox.JunkWishes
	if err := s.Done.Chosen.Read(&was, &is); err != nil || was == nil || is == nil {
		return err
	}
	p, err := store.People(t).PersonByID(s.Who.Keeper())
	if err != nil {
		return err
	}
	now := p.Habits.Junk
	now.Blocked = instead(now.Blocked, is.Blocked, was.Blocked)
	now.Never = instead(now.Never, is.Never, was.Never)
	if now.Valid() != nil {
		return nil
	}
	p.Habits.Junk = now
	s.Topics = append(s.Topics, journal.TopicPerson)
	return store.People(t).PutPerson(&p, s.Who.Box, nil)
}

// instead is a list as it is now, without what led from was to is.
func instead(now, is, was []string) (out []string) {
	for _, s := range now {
		if slices.Contains(was, s) || !slices.Contains(is, s) {
			out = append(out, s)
		}
	}
	for _, s := range was {
		if !slices.Contains(is, s) && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}

// Why says, for each message of a conversation of which there is something to say, why it
// was put into junk and for whom its sender may be taken.
func Why(t store.Tx, box int64, messages []store.Message) (why, seems map[int64]string, err error) {
	var ids []int64
	from := map[int64]mail.Address{}
	for _, m := range messages {
		if !m.Own {
			ids, from[m.ID] = append(ids, m.ID), mail.Address{Name: m.FromName, Address: m.FromAddr}
		}
	}
	tests, err := junking.Tests(t).Of(box, ids)
	why, seems = map[int64]string{}, map[int64]string{}
	for id, x := range tests {
		why[id] = x.Why
		switch {
		case strings.HasPrefix(x.Seems, "@"):
			seems[id] = fmt.Sprintf("%s looks like %s, which you know, and is another place.", from[id].Address[strings.LastIndexByte(from[id].Address, '@')+1:], x.Seems[1:])
		case x.Seems != "":
			seems[id] = fmt.Sprintf("You know %s by another address, %s. This one is %s.", from[id].Short(), x.Seems, from[id].Address)
		case x.Found.Sender == "fail":
			seems[id] = say.Upper("the server of your account says that this does not come from who it says it does.")
		}
	}
	return why, seems, err
}
