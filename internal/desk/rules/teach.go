package rules

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// Scope is of what a move to another stream is a lesson.
type Scope string

// The scopes.
const (
	ThisOne Scope = "one"    // of this conversation alone, and what comes in it
	Sender  Scope = "sender" // of all from its sender
	List    Scope = "list"   // of all of its list
	Domain  Scope = "domain" // of all from the domain of its sender
	Such    Scope = "such"   // of all that is such, in words
)

// moving is a conversation that may be put into another stream.
type moving struct {
	row     *store.Row
	list    string
	known   sorting.Known
	streams delivery.Settings
}

func (d *Desk) moving(t store.Tx, who identity.Who, conversation int64) (m moving, err error) {
	row, err := store.Conversations(t).RowByID(who.Box, who.Person, conversation)
	if err != nil {
		return m, err
	}
	m.row = &row
	if m.known, err = knownTo(t, who, d.Journal.Now()); err != nil {
		return m, err
	}
	m.streams = m.known.Streams
	m.list, err = ruling.Rules(t).ListOf(who.Box, conversation)
	return m, err
}

// stream is the stream it is in.
func (m moving) stream() delivery.Stream {
	return cmp.Or(delivery.Stream(m.row.Stream), delivery.StreamOf(m.row.Kind))
}

func (m moving) from() mail.Address {
	return mail.Address{Name: m.row.FromName, Address: m.row.FromAddr}
}

// such are words for what is like it: its sender and what its subject begins with.
func (m moving) such() string {
	words := "from " + m.row.FromAddr
	if m.list != "" {
		words = "list " + m.list
	}
	var first []string
	for _, w := range strings.FieldsFunc(mail.Title(m.row.Subject), func(r rune) bool { return strings.ContainsRune(" \t\"“”„«»,;:", r) }) {
		if first = append(first, w); len(first) == 2 {
			break
		}
	}
	if len(first) > 0 {
		words += " subject “" + strings.Join(first, " ") + "”"
	}
	return words
}

// lesson is the rule that follows from a move, or why none does, in a sentence.
func (m moving) lesson(s Scope, words string, into delivery.Stream) (r sorting.Rule, doubt string) {
	about := ""
	switch {
	case s == Sender:
		about = "from " + m.row.FromAddr
	case s == List && m.list != "":
		about = "list " + m.list
	case s == List:
		return r, "That was not sent by a list."
	case s == Domain:
		about = "from " + m.row.FromAddr[strings.LastIndexByte(m.row.FromAddr, '@'):]
	case s == Such:
		about = strings.TrimSuffix(strings.TrimSpace(words), ":")
	default:
		return r, "Say what else is to come in that stream, or only this one."
	}
	read := sorting.ReadRule(about+": star", m.known) // what is done with it is known already
	if read.Doubt != "" {
		return r, read.Doubt
	}
	r = read.Rule
	r.Words, r.Lesson, r.Mode = about, true, sorting.On
	r.Then = []inbox.ComboStep{{Kind: inbox.ToStream, Stream: string(into)}}
	if err := r.Valid(); err != nil {
		return r, say.Upper(err.Error()) + "."
	}
	return r, ""
}

// means is in words what a lesson is about: “is from a@b.example and has files”.
func (m moving) means(r sorting.Rule) (out string) {
	for i, p := range sorting.ReadRule(r.Words+": star", m.known).Pieces {
		switch {
		case p.Side == sorting.SideThen:
			continue
		case p.Side == sorting.SideExcept:
			out += ", but not what "
		case p.Or:
			out += " or "
		case i > 0:
			out += " and "
		}
		out += p.Means
	}
	return out
}

// Moving says what putting a conversation into another stream would teach.
func (d *Desk) Moving(ctx context.Context, who identity.Who, a Moving) (v MoveView, err error) {
	now := d.Journal.Now()
	err = d.store.Read(ctx, func(t store.Tx) error {
		m, err := d.moving(t, who, a.Conversation)
		if err != nil {
			return err
		}
		v = MoveView{Stream: m.stream(), Kept: m.row.Kept, Such: m.such(), Scopes: []ScopeView{}, Streams: []StreamNext{}}
		for _, s := range m.streams.All() {
			v.Streams = append(v.Streams, StreamNext{ID: s, Name: m.streams.Name(s), Next: nextWords(m.streams, s, who.Week, now)})
		}
		all, err := ruling.Rules(t).Last(who.Box, who.Person, who.Week, lastMessages)
		if err != nil {
			return err
		}
		words := cmp.Or(strings.TrimSpace(a.Words), v.Such)
		scopes := []Scope{ThisOne, Sender}
		if m.list != "" {
			scopes = append(scopes, List)
		}
		if a.Away { // of a stream one does not move all of a domain
			scopes = append(scopes[1:], Domain)
		}
		for _, s := range append(scopes, Such) {
			x := ScopeView{Scope: s, Examples: []string{}}
			switch s {
			case ThisOne:
				x.Name = "This conversation, and what comes in it"
			case Sender:
				x.Name = "Always what comes from " + m.from().Short()
			case List:
				x.Name = "Always what the list " + m.list + " sends"
			case Domain:
				x.Name = "Everybody at " + m.row.FromAddr[strings.LastIndexByte(m.row.FromAddr, '@')+1:]
			case Such:
				x.Name = "Always such, as you say"
			}
			people := map[string]bool{}
			if s != ThisOne {
				r, doubt := m.lesson(s, words, delivery.StreamPeople)
				x.Wrong = doubt
				for _, o := range all {
					if doubt != "" || !r.Holds(o.Message) {
						continue
					}
					people[o.From] = true
					if x.Count++; len(x.Examples) < 3 {
						x.Examples = append(x.Examples, o.Subject)
					}
				}
			}
			x.People = len(people)
			v.Scopes = append(v.Scopes, x)
		}
		v.Of = len(all)
		v.Usual, err = m.usual(t, who)
		return err
	})
	return v, err
}

// usual is the scope that is offered first, by what is known: a list sends much that is
// alike, and so does a machine; of a person one is moved by itself, unless others of
// theirs have been.
func (m moving) usual(t store.Tx, who identity.Who) (Scope, error) {
	switch {
	case m.list != "":
		return List, nil
	case m.row.Kind.Machine():
		return Sender, nil
	}
	n, err := ruling.Rules(t).KeptFrom(who.Box, m.row.FromAddr)
	if n > 0 {
		return Sender, err
	}
	return ThisOne, err
}

// nextWords says when the next mail of a stream comes in.
func nextWords(s delivery.Settings, stream delivery.Stream, w when.Week, now when.Instant) string {
	st := s.Stands(stream, now, w.Location())
	switch {
	case st.State == delivery.StateOpen:
		return "comes in as it is sent"
	case st.Next.At == 0:
		return "comes in when you let it in"
	}
	words := w.Say(when.Moment{At: st.Next.At}, now)
	if st.Next.At < when.DayStart(now, w.Location(), 1) {
		_, clock, _ := strings.Cut(words, ", ")
		words = "today at " + clock
	}
	return "comes in " + words
}

// Teach puts a conversation into a stream, with all that a lesson of that scope is about
// and that is undecided, and has what is like it come in that stream from now on. It is
// one step, which is taken back as one. A lesson about the same is replaced.
func (d *Desk) Teach(ctx context.Context, who identity.Who, key string, a Taught) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		m, err := d.moving(t, who, a.Conversation)
		if err != nil {
			return out, err
		}
		if !m.streams.Known(a.Stream) {
			return out, problem.Invalid("stream", "That stream has been deleted meanwhile, so nothing was changed.")
		}
		name, next := m.streams.Name(a.Stream), nextWords(m.streams, a.Stream, who.Week, now)
		e := store.Entry{Kind: inbox.Teach, At: now, ConversationID: a.Conversation, Text: "“" + name + "”"}
		if a.Scope == ThisOne {
			if changes, err = d.Decisions.Stream(t, who, []int64{a.Conversation}, string(a.Stream), true); err != nil {
				return out, err
			}
			return d.Journal.Commit(t, who, e, changes, func(int) string {
				return fmt.Sprintf("Put into “%s”. What comes in this conversation %s.", name, next)
			})
		}
		r, doubt := m.lesson(a.Scope, a.Words, a.Stream)
		if doubt != "" {
			return out, problem.Invalid("words", "Nothing was changed. "+doubt)
		}
		rules, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return out, err
		}
		var was *sorting.Rule
		if i := slices.IndexFunc(rules, func(o sorting.Rule) bool { return o.Lesson && o.SameAbout(r) }); i >= 0 {
			old := rules[i]
			was, r.ID, r.Rank = &old, old.ID, old.Rank
		} else if len(rules) >= sorting.MaxRules {
			return out, problem.Invalid("scope", fmt.Sprintf("There is room for %d rules and lessons. Delete one you no longer use; nothing was changed.", sorting.MaxRules))
		}
		ids, err := d.undecided(t, who, r)
		if err != nil {
			return out, err
		}
		if !slices.Contains(ids, a.Conversation) {
			ids = append(ids, a.Conversation)
		}
		if changes, err = d.Decisions.Stream(t, who, ids, string(a.Stream), false); err != nil {
			return out, err
		}
		if err := ruling.Rules(t).Put(who.Box, &r, false); err != nil {
			return out, err
		}
		e.Ref, e.Text = r.ID, e.Text+": "+r.Words
		if e.Chosen, err = store.Choose(was, &r); err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, e, changes, func(n int) string {
			text := fmt.Sprintf("Put into “%s”. So is always what %s: the next %s.", name, m.means(r), next)
			if was != nil && was.Then[0].Stream != r.Then[0].Stream {
				text += fmt.Sprintf(" Before, that came with “%s”.", m.streams.Name(delivery.Stream(was.Then[0].Stream)))
			}
			if n > 1 {
				text += fmt.Sprintf(" %s in the inbox went along.", say.Plural(n-1, "other"))
			}
			return text
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules}, Key: key})
	}
	return out, err
}

// undecided are the conversations in the inbox that a rule is about by one of the newest
// messages.
func (d *Desk) undecided(t store.Tx, who identity.Who, r sorting.Rule) (ids []int64, err error) {
	all, err := ruling.Rules(t).Last(who.Box, who.Person, who.Week, lastMessages)
	for _, o := range all {
		if o.Place == inbox.Inbox && r.Holds(o.Message) && !slices.Contains(ids, o.Conversation) {
			ids = append(ids, o.Conversation)
		}
	}
	return ids, err
}

// Lessons are what was taught by moving mail to other streams.
func (d *Desk) Lessons(ctx context.Context, who identity.Who) (v LessonsView, err error) {
	v = LessonsView{Lessons: []LessonView{}, Kept: []KeptView{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rules, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return err
		}
		k, err := knownTo(t, who, d.Journal.Now())
		if err != nil {
			return err
		}
		last, err := ruling.Rules(t).Last(who.Box, who.Person, who.Week, lastMessages)
		if err != nil {
			return err
		}
		for _, r := range rules {
			if !r.Lesson {
				continue
			}
			x := LessonView{ID: r.ID, About: r.Words, Means: moving{known: k}.means(r), Into: k.Streams.Name(delivery.Stream(r.Then[0].Stream)), Examples: []Touched{}}
			for _, m := range last {
				if !r.Holds(m.Message) {
					continue
				}
				if x.Count++; len(x.Examples) < 3 {
					x.Examples = append(x.Examples, Touched{Message: m.ID, Conversation: m.Conversation, From: mail.Address{Name: m.FromName, Address: m.From}, Subject: m.Subject, At: m.Came})
				}
			}
			v.Lessons = append(v.Lessons, x)
		}
		v.Of = len(last)
		kept, err := ruling.Rules(t).Kept(who.Box, shownTouched)
		for _, c := range kept {
			v.Kept = append(v.Kept, KeptView{Conversation: c.ID, From: mail.Address{Name: c.FromName, Address: c.FromAddr}, Subject: cmp.Or(c.Title, mail.Title(c.Subject)), Into: k.Streams.Name(delivery.Stream(c.Stream))})
		}
		return err
	})
	return v, err
}

// Forget has what comes in a conversation come in the stream of its kind again, or as
// lessons and rules say.
func (d *Desk) Forget(ctx context.Context, who identity.Who, key string, conversation int64) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		if changes, err = d.Decisions.Stream(t, who, []int64{conversation}, "", false); err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.Teach, At: d.Journal.Now(), ConversationID: conversation, Text: "the stream of its kind"}, changes, func(int) string {
			return "Removed: what comes in it comes as its like does."
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicRules}, Key: key})
	}
	return out, err
}
