package desk

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/choices"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/rules"
	"ebbe/internal/desk/teams"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// company is an office in which several people work in the box of a team.
type company struct {
	*office
	people []identity.Who // in their own boxes
	team   []identity.Who // the same in the box of the team
	box    int64
}

// newCompany makes a team that the first person looks after, with these as further members.
func newCompany(t testing.TB, names ...string) *company {
	t.Helper()
	c := &company{office: newOffice(t, store.Options{})}
	c.people = []identity.Who{c.who}
	box, err := c.Teams.Make(ctx, c.who, "", "Loans")
	require.NoError(t, err)
	c.box = box
	for _, n := range names {
		address := strings.ToLower(strings.Fields(n)[0]) + "@m.example"
		require.NoError(t, c.People.Add(ctx, identity.Signup{Name: n, Address: address, Password: "tide lorry " + address, Zone: zone}, nil, func(store.Tx, identity.Who, store.Person) error { return nil }))
		who, err := c.People.Called(ctx, address)
		require.NoError(t, err)
		c.people = append(c.people, who)
		require.NoError(t, c.Teams.Stand(ctx, c.at(t, 0), "", who.Person, together.Member))
	}
	for i := range c.people {
		c.team = append(c.team, c.at(t, i))
	}
	return c
}

// at is one of the people in the box of the team.
func (c *company) at(t testing.TB, i int) identity.Who {
	t.Helper()
	who, err := (identity.Boxes{Directory: c.Desk.People}).In(ctx, c.people[i], c.box)
	require.NoError(t, err)
	return who
}

// ears listens for everybody in their own box from now on, and gives what they have been told since
// it was last asked.
func (c *company) ears(t testing.TB) func(i int) []string {
	t.Helper()
	var ears []<-chan journal.Event
	for _, own := range c.people {
		ears = append(ears, c.Journal.Subscribe(t.Context(), own.Box, own.Person, c.box))
	}
	return func(i int) (out []string) {
		for {
			select {
			case e := <-ears[i]:
				if e.Text != "" {
					out = append(out, e.Text)
				}
			default:
				return out
			}
		}
	}
}

// comes has mail come into the box of the team.
func (c *company) comes(t testing.TB, raws ...string) {
	t.Helper()
	in := c.Intake.Begin(ctx, c.box, intake.Options{Place: inbox.Inbox})
	for _, raw := range raws {
		require.NoError(t, in.Add(post.Item{Raw: []byte(strings.ReplaceAll(raw, "\n", "\r\n"))}))
	}
	_, err := in.Close()
	require.NoError(t, err)
}

// sees gives the slips that somebody has before them.
func (c *company) sees(t testing.TB, who identity.Who) []queue.Slip {
	t.Helper()
	q, err := c.Queue.Arranged(ctx, who, queue.Arrangement{})
	require.NoError(t, err)
	return q.Slips
}

const fromLender = "From: Halvard <halvard@lend.example>\nTo: loans@m.example\nSubject: Clause %d\nMessage-ID: <%[1]d@lend.example>\n\nCould you look at clause %[1]d by Friday?\n"

// Mail of a team is one copy that all its members see: each for themselves read or starred,
// and decided once for all of them. In nobody's own box is any of it.
func TestATeamHasOneCopy(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	c.comes(t, fmt.Sprintf(fromLender, 1), fmt.Sprintf(fromLender, 2))
	for i, who := range c.team {
		slips := c.sees(t, who)
		require.Len(t, slips, 2)
		require.True(t, slips[0].Unread && slips[1].Unread, "unread for each")
		require.Empty(t, c.sees(t, c.people[i]), "nothing in their own box")
	}
	one := c.sees(t, c.team[0])[0]
	if one.Subject != "Clause 1" {
		one = c.sees(t, c.team[0])[1]
	}
	_, err := c.Decisions.Decide(ctx, c.team[1], "k1", decide.Decision{Kind: inbox.Star, Conversations: []int64{one.ID}})
	require.NoError(t, err)
	_, err = c.Decisions.Decide(ctx, c.team[1], "k2", decide.Decision{Kind: inbox.MarkRead, Conversations: []int64{one.ID}})
	require.NoError(t, err)
	stars := func() (out []any) {
		for _, who := range c.team {
			for _, s := range c.sees(t, who) {
				if s.ID == one.ID {
					out = append(out, s.Starred, s.Unread)
				}
			}
		}
		return out
	}
	require.Equal(t, []any{false, true, true, false, false, true}, stars(), "a star and having read are one's own")

	c.comes(t, strings.Replace(fmt.Sprintf(fromLender, 1), "<1@lend.example>\n", "<3@lend.example>\nIn-Reply-To: <1@lend.example>\nReferences: <1@lend.example>\n", 1))
	for _, s := range c.sees(t, c.team[1]) {
		require.True(t, s.ID != one.ID || s.Unread, "something new came")
	}

	_, err = c.Decisions.Decide(ctx, c.team[1], "k3", decide.Decision{Kind: inbox.Archive, Conversations: []int64{one.ID}})
	require.NoError(t, err)
	for _, who := range c.team {
		require.Len(t, c.sees(t, who), 1, "archived by one, and done for all")
	}
	_, err = c.Journal.TakeBack(ctx, c.team[2], "k4")
	require.ErrorContains(t, err, "nothing left to take back", "it was no step of hers")
	_, err = c.Journal.TakeBack(ctx, c.people[1], "k5")
	require.ErrorContains(t, err, "nothing left to take back", "nor one in his own box")
	_, err = c.Journal.TakeBack(ctx, c.team[1], "k6")
	require.NoError(t, err)
	require.Len(t, c.sees(t, c.team[0]), 2)

	history, err := c.Reading.History(ctx, c.team[2], store.Past{})
	require.NoError(t, err)
	var by []string
	for _, l := range history.Lines {
		by = append(by, string(l.Kind)+" "+l.Who)
	}
	require.Contains(t, by, "archive Jonas")
	require.Contains(t, by, "team Solvei")
	wrong, _, err := c.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)
}

// What somebody has begun in the box of a team is there and not in their own, and the other
// way round: drafts, sittings, lists.
func TestWhatIsBegunStaysInItsBox(t *testing.T) {
	c := newCompany(t, "Jonas")
	c.comes(t, fmt.Sprintf(fromLender, 1))
	c.take(t, "From: Oona <oona@t.example>\nTo: solvei@m.example\nSubject: Ferry\nMessage-ID: <f@t.example>\n\nAt nine.\n")
	own, team := c.people[0], c.team[0]
	for i, who := range []identity.Who{own, team} {
		_, err := c.Writing.Begin(ctx, who, "", composing.DraftBegun{Mode: writing.New})
		require.NoError(t, err)
		require.NoError(t, c.Queue.PutSavedList(ctx, who, "", queue.SavedList{Name: fmt.Sprint("List ", i), Query: search.Query{Unread: true}}))
		_, err = c.Queue.Sit(ctx, who, queue.Sit{})
		require.NoError(t, err)
	}
	for i, who := range []identity.Who{own, team} {
		drafts, err := c.Writing.Drafts(ctx, who)
		require.NoError(t, err)
		require.Len(t, drafts, 1)
		_, err = c.Writing.Draft(ctx, []identity.Who{team, own}[i], drafts[0].ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		lists, err := c.Queue.SavedLists(ctx, who)
		require.NoError(t, err)
		require.Len(t, lists, 1)
		require.Equal(t, fmt.Sprint("List ", i), lists[0].Name)
		sitting, err := c.Queue.Sitting(ctx, who)
		require.NoError(t, err)
		require.Len(t, sitting.Queue, 1)
		require.Equal(t, c.sees(t, who)[0].ID, sitting.Queue[0])
	}
}

// The plan, the stages and the addresses of a team are its own; the week, the look and the
// habits of a member go with them.
func TestATeamHasItsOwnSettings(t *testing.T) {
	c := newCompany(t, "Jonas")
	own, team := c.people[0], c.team[0]
	_, err := c.Choices.Change(ctx, team, "", []byte(`{"addresses":["loans@m.example"]}`))
	require.NoError(t, err)
	_, err = c.Choices.Change(ctx, team, "", []byte(`{"theme":"dark"}`))
	require.ErrorContains(t, err, "chosen in your own box")
	_, err = c.Choices.Change(ctx, own, "", []byte(`{"theme":"dark"}`))
	require.NoError(t, err)
	of := func(who identity.Who) choices.Settings {
		s, err := c.Choices.All(ctx, who)
		require.NoError(t, err)
		return s
	}
	require.Equal(t, []any{[]string{"loans@m.example"}, "dark"}, []any{of(team).Addresses, of(team).Theme})
	require.Equal(t, []string{"solvei@m.example"}, of(own).Addresses)
	require.Equal(t, "", of(c.team[1]).Theme)

	_, err = c.Delivery.Hold(ctx, team, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	stands := func(who identity.Who) any {
		v, err := c.Delivery.Overview(ctx, who)
		require.NoError(t, err)
		return v.Hand
	}
	require.NotEqual(t, stands(own), stands(team))
	require.Equal(t, stands(team), stands(c.team[1]))
}

// Whoever leaves this Ebbe is named in what they did for a team, if it wants that; the team
// goes on under whoever has been in it longest, and ends with the last one.
func TestATeamOutlivesItsMembers(t *testing.T) {
	for _, keep := range []bool{true, false} {
		c := newCompany(t, "Jonas", "Priya")
		c.clock.t = c.clock.t.Add(time.Minute)
		require.NoError(t, c.Teams.KeepNames(ctx, c.team[0], "", keep))
		require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Steward))
		require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[0].Person, together.Stranger))
		c.team[1] = c.at(t, 1)
		c.comes(t, fmt.Sprintf(fromLender, 1))
		id := c.sees(t, c.team[1])[0].ID
		_, err := c.Decisions.Decide(ctx, c.team[1], "k", decide.Decision{Kind: inbox.Archive, Conversations: []int64{id}})
		require.NoError(t, err)
		leave := func(i int) {
			t.Helper()
			require.NoError(t, c.store.Write(ctx, func(tx store.Tx) error {
				return store.People(tx).ChangePerson(c.people[i].Person, map[string]any{"leaves": when.Of(time.Now())})
			}))
			_, err := c.Leaving.Remove(ctx)
			require.NoError(t, err)
		}
		leave(1)
		c.team[2] = c.at(t, 2)
		require.Equal(t, together.Steward, c.team[2].Role, "somebody looks after the team")
		history, err := c.Reading.History(ctx, c.team[2], store.Past{})
		require.NoError(t, err)
		who := map[inbox.Kind]string{}
		for _, l := range history.Lines {
			who[l.Kind] = l.Who
		}
		require.Equal(t, map[bool]string{true: "Jonas", false: ""}[keep], who[inbox.Archive])
		leave(2)
		require.NoError(t, c.store.Read(ctx, func(tx store.Tx) error {
			for _, table := range []string{"conversations", "entries", "members", "former_members", "messages"} {
				require.Empty(t, names(t, c.raw(t), "SELECT box_id FROM "+table+" WHERE box_id = ?", c.box), table)
			}
			_, err := membership.Membership(tx).In(c.people[0].Person, c.box)
			require.ErrorIs(t, err, store.ErrNotFound)
			return nil
		}))
		wrong, _, err := c.Check(ctx)
		require.NoError(t, err)
		require.Empty(t, wrong)
	}
}

// With a team goes what its members have begun to write in its box.
func TestADeletedTeamLeavesNoDrafts(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	d, err := c.Writing.Begin(ctx, c.team[1], "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = c.Writing.AddFile(ctx, c.team[1], "", d.ID, "plan.txt", "text/plain", []byte("the plan"))
	require.NoError(t, err)
	own, err := c.Writing.Begin(ctx, c.people[1], "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	require.NoError(t, c.Teams.End(ctx, c.team[0], "Loans"))
	_, err = c.Leaving.Remove(ctx)
	require.NoError(t, err)
	require.Empty(t, names(t, c.raw(t), "SELECT id FROM drafts WHERE box_id = ?", c.box))
	require.Empty(t, names(t, c.raw(t), "SELECT id FROM draft_files"))
	left, err := c.Writing.Draft(ctx, c.people[1], own.ID)
	require.NoError(t, err, "what is in his own box stays")
	require.Equal(t, own.ID, left.ID)
}

// What comes to a team is nobody's until it is taken or given; it is one follow-up, whoever
// has it, and who has it is said with since when and why. Two who take the same at once: one
// has it, the other is told.
func TestTakingAndGiving(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	c.comes(t, fmt.Sprintf(fromLender, 1), fmt.Sprintf(fromLender, 2))
	id := c.sees(t, c.team[0])[0].ID
	nobody := int64(0)
	jonas, priya := c.people[1].Person, c.people[2].Person
	groups := func(i int) (out []string) {
		q, err := c.Queue.Arranged(ctx, c.team[i], queue.Arrangement{})
		require.NoError(t, err)
		for _, g := range q.Groups {
			out = append(out, fmt.Sprintf("%s %d", g.Name, g.Count))
		}
		return out
	}
	left := func(i int) int {
		boxes, err := c.Teams.Boxes(ctx, c.people[i])
		require.NoError(t, err)
		return boxes[1].Left
	}
	require.Equal(t, []string{"Nobody’s yet 2"}, groups(0))
	told := ""
	give := func(i int, to int64, was *int64, why string) error {
		out, err := c.Decisions.Decide(ctx, c.team[i], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{id}, Owner: to, Was: was, Text: why})
		told = out.Text
		return err
	}
	require.NoError(t, give(1, jonas, &nobody, ""))
	require.Equal(t, "Taken: you have it now.", told)
	require.ErrorContains(t, give(2, priya, &nobody, ""), "Jonas has it since")
	require.Equal(t, []string{"Nobody’s yet 1", "Mine 1"}, groups(1))
	require.Equal(t, []string{"Nobody’s yet 1", "Jonas 1"}, groups(2))
	require.Equal(t, []int{1, 2, 1}, []int{left(0), left(1), left(2)}, "what somebody else has is not left for me")
	require.NoError(t, give(1, priya, &jonas, "you wrote that line"))
	require.Equal(t, "Given to Priya.", told)
	for _, s := range c.sees(t, c.team[2]) {
		if s.ID == id {
			require.Equal(t, &queue.OwnerView{ID: priya, Name: "Priya", Mine: true, At: s.Owner.At, By: "Jonas", Why: "you wrote that line"}, s.Owner)
		}
	}
	work := func() (all []followup.FollowUp) {
		require.NoError(t, c.store.Read(ctx, func(tx store.Tx) (err error) { all, err = store.FollowUps(tx).AllFollowUps(c.box); return err }))
		return all
	}
	require.Len(t, work(), 1, "one object")
	require.Equal(t, id, work()[0].Conversation)
	_, err := c.Journal.TakeBack(ctx, c.team[1], "")
	require.NoError(t, err)
	require.Equal(t, jonas, work()[0].Owner.Person, "taken back")
	require.NoError(t, give(1, 0, nil, ""))
	require.Equal(t, "Given back: nobody has it now.", told)
	require.Equal(t, []string{"Nobody’s yet 2"}, groups(1))
	history, err := c.Reading.History(ctx, c.team[2], store.Past{})
	require.NoError(t, err)
	var said []string
	for _, l := range history.Lines {
		if l.Kind == inbox.Give {
			said = append(said, l.Who+": "+l.Text)
		}
	}
	require.Len(t, said, 3)
	require.Regexp(t, "^Jonas: “Clause .” to Priya$", said[1])

	require.ErrorContains(t, give(0, 999, nil, ""), "not in this team")
	_, err = c.Decisions.Decide(ctx, c.people[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{1}, Owner: 1})
	require.ErrorContains(t, err, "box of a team")

	require.NoError(t, give(0, priya, nil, ""))
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", priya, together.Stranger))
	require.Equal(t, []string{"Nobody’s yet 2"}, groups(0), "what she had is offered to the others")
	wrong, _, err := c.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)
}

// Ten people take what comes in, all at once: each conversation has one owner, whoever was too
// late is told, and nothing is lost or there twice.
func TestTenPeopleTakeAtOnce(t *testing.T) {
	names := []string{"Ada", "Bo", "Cleo", "Dina", "Eli", "Finn", "Greta", "Hal", "Ines"}
	c := newCompany(t, names...)
	raws := make([]string, 12)
	for i := range raws {
		raws[i] = fmt.Sprintf(fromLender, i+1)
	}
	c.comes(t, raws...)
	var ids []int64
	for _, s := range c.sees(t, c.team[0]) {
		ids = append(ids, s.ID)
	}
	require.Len(t, ids, len(raws))
	nobody := int64(0)
	var mu sync.Mutex
	got := map[int64][]int64{}
	told := 0
	var hands sync.WaitGroup
	for _, who := range c.team {
		hands.Go(func() {
			for _, id := range ids {
				_, err := c.Decisions.Decide(ctx, who, fmt.Sprint("take ", id), decide.Decision{Kind: inbox.Give, Conversations: []int64{id}, Owner: who.Person, Was: &nobody})
				mu.Lock()
				if err == nil {
					got[id] = append(got[id], who.Person)
				} else if strings.Contains(err.Error(), "has it since") {
					told++
				}
				mu.Unlock()
			}
		})
	}
	hands.Wait()
	require.Equal(t, len(ids)*(len(c.team)-1), told)
	for _, who := range c.team {
		for _, s := range c.sees(t, who) {
			require.Equal(t, []int64{s.Owner.ID}, got[s.ID])
		}
	}
	var work int
	require.NoError(t, c.store.Read(ctx, func(tx store.Tx) error {
		all, err := store.FollowUps(tx).AllFollowUps(c.box)
		work = len(all)
		return err
	}))
	require.Equal(t, len(ids), work)
	wrong, _, err := c.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)
}

// Ten people decide at once over an hour of work, a minute at a time: what comes, what they do and take
// back goes on among each other. Whoever is too late is told; nothing is lost, there twice, or decided
// by halves.
func TestAnHourOfTenPeople(t *testing.T) {
	c := newCompany(t, "Ada", "Bo", "Cleo", "Dina", "Eli", "Finn", "Greta", "Hal", "Ines")
	minutes := 60
	if testing.Short() {
		minutes = 12
	}
	letters, done, refused := 0, atomic.Int64{}, atomic.Int64{}
	for minute := range minutes {
		c.clock.t = c.clock.t.Add(time.Minute)
		for range 1 + minute%3 {
			letters++
			c.comes(t, fmt.Sprintf("From: Lender %[1]d <lender%[1]d@lend.example>\nTo: loans@m.example\nSubject: Matter %[1]d\nMessage-ID: <h%[1]d@lend.example>\n\nCould you look at %[1]d?\n", letters))
		}
		slips := c.sees(t, c.team[0])
		if len(slips) == 0 {
			continue
		}
		var work errgroup.Group
		for i, who := range c.team {
			r := rand.New(rand.NewPCG(uint64(minute), uint64(i)))
			work.Go(func() error {
				id, seen := slips[r.IntN(min(len(slips), 6))].ID, inbox.Inbox
				nobody := int64(0)
				var err error
				switch r.IntN(7) {
				case 0:
					_, err = c.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{id}, Seen: seen})
				case 1, 2:
					_, err = c.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Give, Conversations: []int64{id}, Owner: who.Person, Was: &nobody})
				case 3:
					_, err = c.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Give, Conversations: []int64{id}, Turn: together.LeastToDo})
				case 4:
					_, err = c.Talk.Say(ctx, who, "", id, fmt.Sprintf("Minute %d", minute))
				case 5:
					_, err = c.Journal.TakeBack(ctx, who, "")
				default:
					_, err = c.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Star, Conversations: []int64{id}})
				}
				var told *problem.Error
				switch {
				case err == nil:
					done.Add(1)
				case errors.As(err, &told) || errors.Is(err, store.ErrNotFound):
					refused.Add(1)
				default:
					return err
				}
				return nil
			})
		}
		require.NoError(t, work.Wait())
	}
	require.NotZero(t, refused.Load(), "some were too late")
	require.Greater(t, done.Load(), refused.Load())
	require.Len(t, names(t, c.raw(t), "SELECT id FROM conversations WHERE box_id = ? AND merged_to = 0", c.box), letters, "none is lost, and none is there twice")
	require.NoError(t, c.store.Read(ctx, func(tx store.Tx) error {
		work, err := store.FollowUps(tx).AllFollowUps(c.box)
		has := map[int64]int{}
		for _, f := range work {
			if f.Open() && f.Owner.Person != 0 {
				has[f.Conversation]++
			}
		}
		for id, n := range has {
			require.Equal(t, 1, n, "conversation %d has one owner", id)
		}
		return err
	}))
	for _, who := range c.team { // each sees the same, but for marks of their own
		require.Equal(t, len(c.sees(t, c.team[0])), len(c.sees(t, who)))
	}
	c.sound(t)
}

// Two who look after a team and remove each other at once: one of them is removed, and the
// other stays.
func TestTwoWhoRemoveEachOther(t *testing.T) {
	c := newCompany(t, "Jonas")
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Steward))
	c.team[1] = c.at(t, 1)
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Member))
	require.ErrorIs(t, c.Teams.Stand(ctx, c.team[1], "", c.people[0].Person, together.Stranger), store.ErrNotFound, "he asked as who he was before")
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	require.ErrorIs(t, c.Teams.Stand(ctx, c.team[1], "", c.people[0].Person, together.Member), store.ErrNotFound)
	v, err := c.Teams.Team(ctx, c.at(t, 0))
	require.NoError(t, err)
	require.Len(t, v.Members, 1)
	require.Equal(t, together.Steward, v.Members[0].Role)
}

// What is given in turn goes to whoever was given something longest ago, or to whoever has the least
// to do; whoever is away, by a hold or a plan that says so, is passed over, and what they have stands
// before what the others have.
func TestGivenInTurn(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	for n := range 6 {
		c.comes(t, strings.ReplaceAll(fmt.Sprintf(fromLender, n+1), "Clause", "Matter"))
	}
	slips := c.sees(t, c.team[0])
	require.Len(t, slips, 6)
	give := func(turn together.Turn, conversations ...int64) string {
		t.Helper()
		c.clock.t = c.clock.t.Add(time.Minute)
		out, err := c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: conversations, Turn: turn})
		require.NoError(t, err)
		return out.Text
	}
	require.Equal(t, "Given to Solvei.", give(together.NextInTurn, slips[0].ID))
	require.Equal(t, "Given 2 to Jonas Reyland (1) and Priya Venn (1).", give(together.NextInTurn, slips[1].ID, slips[2].ID))
	_, err := c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	team, err := c.Teams.Team(ctx, c.team[0])
	require.NoError(t, err)
	require.Equal(t, "Solvei", team.Next, "they were given something, taken back or not: they come after her")
	require.Equal(t, "Jonas Reyland", team.Least)

	until := when.Moment{At: c.Now() + 3*24*60*60_000}
	_, err = c.Delivery.Hold(ctx, c.people[1], delivery.Hand{Mode: delivery.ModeHold, Until: until, Away: true})
	require.NoError(t, err)
	require.Equal(t, "Given to Priya Venn.", give(together.LeastToDo, slips[3].ID))
	team, err = c.Teams.Team(ctx, c.team[0])
	require.NoError(t, err)
	i := slices.IndexFunc(team.Members, func(m teams.MemberView) bool { return m.Away })
	require.Equal(t, "Jonas Reyland", team.Members[i].Name)
	require.Equal(t, until.At, team.Members[i].Until.At)

	_, err = c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slips[4].ID}, Owner: c.people[1].Person})
	require.NoError(t, err, "by name he can be given something all the same")
	q, err := c.Queue.Arranged(ctx, c.team[0], queue.Arrangement{})
	require.NoError(t, err)
	var groups []string
	for _, g := range q.Groups {
		groups = append(groups, g.Name)
	}
	require.Equal(t, []string{"Nobody’s yet", "Mine", "Jonas Reyland, away until Fri 27 Nov, 10:44", "Priya Venn"}, groups)

	for _, who := range []identity.Who{c.people[0], c.people[2]} {
		_, err = c.Delivery.Hold(ctx, who, delivery.Hand{Mode: delivery.ModeHold, Away: true})
		require.NoError(t, err)
	}
	_, err = c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slips[5].ID}, Turn: together.NextInTurn})
	require.ErrorContains(t, err, "All of the team are away")
	_, err = c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slips[5].ID}, Turn: "dice"})
	require.ErrorContains(t, err, "next in turn")
	c.sound(t)
}

// A rule of a team gives what comes to somebody by name or in turn, once it is there: only what
// nobody has, and to nobody who is away; whoever gets it hears of it, and of what came at once only
// once.
func TestRulesThatGive(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	save := func(who identity.Who, words string) string {
		t.Helper()
		_, err := c.Rules.Save(ctx, who, "", rules.Saving{Words: words, Mode: sorting.On})
		if err != nil {
			return err.Error()
		}
		return ""
	}
	require.Contains(t, save(c.who, "with “Matter”: give in turn"), "Only what is in the box of a team can be given")
	require.Contains(t, save(c.team[0], "with “Matter”: give to Halvard"), "Jonas Reyland, Priya Venn and Solvei")
	require.Contains(t, save(c.team[1], "with “Matter”: give in turn"), "look after this team")
	require.Empty(t, save(c.team[0], "with “Matter”: give in turn, follow up “Answer the lender” fri"))
	require.Empty(t, save(c.team[0], "with “Courier”: give to jonas"))

	heard := c.ears(t)
	owners := func() (out []string) {
		t.Helper()
		for _, s := range c.sees(t, c.team[0]) {
			name := "nobody"
			if s.Owner != nil {
				name = s.Owner.Name + " (" + s.Owner.Why + ")"
			}
			out = append(out, s.Subject+": "+name)
		}
		slices.Sort(out)
		return out
	}
	comes := func(subjects ...string) {
		t.Helper()
		in := c.Intake.Begin(ctx, c.box, intake.Options{Arrived: true})
		for _, s := range subjects {
			require.NoError(t, in.Add(post.Item{Raw: []byte(letter(s+"@lender", "mara@lender.example", s))}))
		}
		_, err := in.Close()
		require.NoError(t, err)
	}
	comes("Matter 1", "Matter 2", "Matter 3", "Matter 4", "Courier 1", "Other")
	by := " (by the rule “with “Matter”: give in turn, follow up “Answer the lender” …”)"
	courier := " (by the rule “with “Courier”: give to jonas”)"
	require.Equal(t, []string{
		"Courier 1: Jonas Reyland" + courier, "Matter 1: Solvei" + by, "Matter 2: Jonas Reyland" + by, "Matter 3: Priya Venn" + by, "Matter 4: Solvei" + by, "Other: nobody",
	}, owners())
	require.Equal(t, []string{"Loans: 2 conversations are yours now, by rules: “Matter 1” and others"}, heard(0))
	require.Equal(t, []string{"Loans: 2 conversations are yours now, by rules: “Matter 2” and others"}, heard(1))
	require.Equal(t, []string{"Loans: “Matter 3” is yours now, by a rule"}, heard(2))
	list, err := c.FollowUps.List(ctx, c.team[0], followups.FollowUpsAsked{})
	require.NoError(t, err)
	require.Equal(t, 5, list.Total, "the follow-up that a rule makes is the one it gives")

	_, err = c.Delivery.Hold(ctx, c.people[1], delivery.Hand{Mode: delivery.ModeHold, Away: true})
	require.NoError(t, err)
	comes("Courier 2", "Matter 5", "Matter 6")
	later := owners()
	require.Contains(t, later, "Courier 2: nobody", "whoever is away is given nothing")
	require.Contains(t, later, "Matter 5: Priya Venn"+by)
	require.Contains(t, later, "Matter 6: Solvei"+by)
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	comes("Courier 3")
	require.Contains(t, owners(), "Courier 3: nobody", "nor whoever has left")
	require.Len(t, heard(1), 0)
	require.Contains(t, heard(0), "Loans: “Matter 6” is yours now, by a rule")
	all, err := c.Rules.All(ctx, c.team[0])
	require.NoError(t, err)
	require.Contains(t, all[1].Doubt, "to Priya Venn and Solvei")
	c.sound(t)
}

// What is somebody's to do stands in one list: all of their own box, of their teams what they have, and
// nothing of anybody else's.
func TestWhatIsMineInAllBoxes(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	c.comes(t, fmt.Sprintf(fromLender, 1), fmt.Sprintf(fromLender, 2))
	slips := c.sees(t, c.team[0])
	give := func(i int, to identity.Who, why string) {
		_, err := c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slips[i].ID}, Owner: to.Person, Text: why})
		require.NoError(t, err)
	}
	give(0, c.people[0], "you wrote that line")
	give(1, c.people[1], "")
	c.down(t, "Water the plants / tomorrow")
	c.down(t, "Read the draft / urgent / tomorrow")
	c.down(t, "Some day")
	c.down(t, "Sign it / today")
	mine := func(who identity.Who) (out []string) {
		v, err := c.Teams.Mine(ctx, who)
		require.NoError(t, err)
		require.Zero(t, v.More)
		for _, l := range v.Lines {
			out = append(out, strings.TrimSpace(l.Team+" "+l.Title+" "+l.Why))
		}
		return out
	}
	got := mine(c.people[0])
	require.Equal(t, []string{"Sign it", "Read the draft", "Water the plants", "Loans Look at clause 2 you wrote that line", "Some day"}, got, "due first, then the more important")
	require.Equal(t, got, mine(c.team[0]), "in whichever box one is")
	require.Len(t, mine(c.people[1]), 1)
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	require.Empty(t, mine(c.people[1]))
}

// The follow-ups of a team stand by who has them, also those about no mail, and are given from there;
// the counts are those of the lists.
func TestABoardByOwner(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	c.comes(t, fmt.Sprintf(fromLender, 1))
	slip := c.sees(t, c.team[0])[0]
	_, err := c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slip.ID}, Owner: c.people[1].Person})
	require.NoError(t, err)
	_, err = c.FollowUps.WriteDown(ctx, c.team[0], "", followups.NewFollowUp{Title: "Order crates"})
	require.NoError(t, err)
	lanes := func(who identity.Who) (out []string) {
		l, err := c.FollowUps.List(ctx, who, followups.FollowUpsAsked{By: followup.ByOwner})
		require.NoError(t, err)
		for _, g := range l.Groups {
			require.Len(t, g.FollowUps, g.Count)
			for _, f := range g.FollowUps {
				out = append(out, g.Name+": "+f.Title)
			}
			if g.Count == 0 {
				out = append(out, g.Name)
			}
		}
		return out
	}
	require.Equal(t, []string{"Nobody’s yet: Order crates", "Mine", "Jonas Reyland: Look at clause 1", "Priya Venn"}, lanes(c.team[0]))
	l, err := c.FollowUps.List(ctx, c.team[0], followups.FollowUpsAsked{By: followup.ByOwner})
	require.NoError(t, err)
	crates := l.Groups[0].FollowUps[0].UID
	step := func(who identity.Who, to int64) (journal.Decided, error) {
		return c.FollowUps.Step(ctx, who, "", crates, followups.FollowUpStep{Kind: inbox.Give, Owner: to})
	}
	out, err := step(c.team[0], c.people[2].Person)
	require.NoError(t, err)
	require.Equal(t, "Given to Priya Venn.", out.Text)
	require.Equal(t, []string{"Nobody’s yet", "Mine: Order crates", "Jonas Reyland: Look at clause 1", "Solvei"}, lanes(c.team[2]))
	_, err = c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	require.Contains(t, lanes(c.team[0]), "Nobody’s yet: Order crates")
	_, err = step(c.team[0], 99)
	require.ErrorContains(t, err, "not in this team any more")
	_, err = c.FollowUps.Step(ctx, c.people[0], "", c.down(t, "My own").UID, followups.FollowUpStep{Kind: inbox.Give, Owner: c.people[0].Person})
	require.ErrorContains(t, err, "Only what is in the box of a team")
	own, err := c.FollowUps.List(ctx, c.people[0], followups.FollowUpsAsked{By: followup.ByOwner})
	require.NoError(t, err)
	require.Equal(t, followup.ByDate, own.By, "one's own have no owner")
}

// What is taken back or done again gives a conversation no second owner: what has gone since stays away, and
// what comes back is nobody’s where somebody else has its conversation by now.
func TestTakingBackLeavesOneOwner(t *testing.T) {
	c := newCompany(t, "Ada", "Bo", "Cleo")
	c.comes(t, fmt.Sprintf(fromLender, 1))
	id := c.sees(t, c.team[0])[0].ID
	give := func(by, to int) {
		t.Helper()
		_, err := c.Decisions.Decide(ctx, c.team[by], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{id}, Owner: c.people[to].Person})
		require.NoError(t, err)
	}
	owners := func() (owned []int64) {
		t.Helper()
		require.NoError(t, c.store.Read(ctx, func(tx store.Tx) error {
			work, err := store.FollowUps(tx).AllFollowUps(c.box)
			for _, f := range work {
				if f.Open() && f.Owner.Person != 0 {
					owned = append(owned, f.Owner.Person)
				}
			}
			return err
		}))
		return owned
	}
	back := func(by int) string {
		t.Helper()
		out, err := c.Journal.TakeBack(ctx, c.team[by], "")
		require.NoError(t, err)
		return out.Text
	}
	give(1, 1)
	give(2, 3)
	give(0, 1)
	back(1) // as it is now she has left it: it goes
	require.Empty(t, owners())
	give(3, 3)
	require.Contains(t, back(2), "Nothing of it was left", "what he gave to her has gone since")
	require.Equal(t, []int64{c.people[3].Person}, owners())

	back(3)
	give(1, 1)
	back(1)
	give(2, 2)
	_, err := c.Journal.Again(ctx, c.team[1], "") // what she has taken back
	require.NoError(t, err)
	require.Equal(t, []int64{c.people[2].Person}, owners())
	c.sound(t)
}
