package followup

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

func TestWhatAMessageIsToAWaiting(t *testing.T) {
	halvard := mail.Address{Name: "Halvard Lindqvist", Address: "halvard@lindqvist.example"}
	const its, other = 7, 9
	began := tuesday
	waits := Usual().WaitFor(FollowUp{Title: "Insurance value", Status: NeedsAction, With: halvard, Conversation: its}, began, when.Moment{})
	apart, nobody, only := waits, waits, waits
	apart.Conversation = 0
	nobody.With = mail.Address{}
	only.With = mail.Address{Name: "Halvard", Address: halvard.Address}
	for _, c := range []struct {
		name string
		f    FollowUp
		from mail.Address
		in   []int64
		at   when.Instant
		want Bearing
	}{
		{"an answer in its conversation", waits, halvard, []int64{its}, began + 1, Answers},
		{"its address in capitals", waits, mail.Address{Address: "Halvard@Lindqvist.example"}, []int64{its}, began + 1, Answers},
		{"another address of theirs", waits, mail.Address{Name: "halvard  LINDQVIST", Address: "hl@home.example"}, []int64{its}, began + 1, Answers},
		{"an address that several share", waits, mail.Address{Name: "Halvard Lindqvist via Loans", Address: "loans@museum.example"}, []int64{its}, began + 1, Answers},
		{"elsewhere, but referring to it", waits, halvard, []int64{other, its}, began + 1, Answers},
		{"something else of theirs", waits, halvard, []int64{other}, began + 1, MayAnswer},
		{"something else from another address of theirs", waits, mail.Address{Name: "Halvard Lindqvist", Address: "hl@home.example"}, []int64{other}, began + 1, MayAnswer},
		{"somebody else in its conversation", waits, mail.Address{Name: "Greta Moen", Address: "greta@museum.example"}, []int64{its}, began + 1, MayAnswer},
		{"somebody else elsewhere", waits, mail.Address{Name: "Greta Moen", Address: "greta@museum.example"}, []int64{other}, began + 1, NoAnswer},
		{"a first name is anybody's", only, mail.Address{Name: "Halvard", Address: "halvard@timber.example"}, []int64{other}, began + 1, NoAnswer},
		{"no name is nobody's", nobody, mail.Address{}, []int64{other}, began + 1, NoAnswer},
		{"for nobody by name", nobody, halvard, []int64{its}, began + 1, MayAnswer},
		{"about no mail", apart, halvard, []int64{other}, began + 1, MayAnswer},
		{"about no mail, from no conversation", apart, mail.Address{Name: "Greta Moen", Address: "greta@museum.example"}, []int64{0}, began + 1, NoAnswer},
		{"by its date from before it was waited for", waits, halvard, []int64{its}, began - 20*60_000, MayAnswer},
		{"something else from before", waits, halvard, []int64{other}, began - 20*60_000, NoAnswer},
		{"by a clock that is behind", waits, halvard, []int64{its}, began - 5*60_000, Answers},
		{"written nobody knows when", waits, halvard, []int64{its}, 0, Answers},
		{"finished", waits.Finish(began), halvard, []int64{its}, began + 1, NoAnswer},
	} {
		require.Equal(t, c.want, c.f.Bearing(Came{Message: 1, From: c.from, In: c.in, Written: c.at}), c.name)
	}
	handed := Came{From: halvard, In: []int64{other}}
	require.Equal(t, Answers, waits.Bearing(handed, other), "in the conversation of what was sent to ask")
	require.Equal(t, MayAnswer, waits.Bearing(Came{From: mail.Address{Address: "x@y.example"}, In: []int64{other}}, other))
}

func TestAnAnswerEndsTheWaiting(t *testing.T) {
	s := Usual()
	f := s.WaitFor(FollowUp{Title: "x", Status: NeedsAction}, 5, when.Moment{At: 50})
	require.EqualValues(t, 50, f.Next(week), "the day to ask again is on the agenda")
	asked := f.Fire(week, 50)
	require.True(t, asked.Card && asked.Waiting())
	require.Zero(t, asked.Next(week))
	got := s.Answered(f, 40)
	require.True(t, got.Open())
	require.Equal(t, "todo", got.Stage)
	require.Equal(t, Wait{Ended: 40, Was: 5}, got.Waits)
	require.True(t, s.Answered(got, 60).Equal(got))

	only := f
	only.Waits.Only = true
	done := s.Answered(only, 40)
	require.Equal(t, Completed, done.Status, "there was nothing else to do")
	for _, ended := range []FollowUp{got, done} {
		again := s.KeepWaiting(ended, when.Moment{At: 90})
		require.True(t, again.Waiting() && again.Open(), "it was no answer")
		require.Equal(t, Wait{Since: 5, Ask: when.Moment{At: 90}, Only: ended.Waits.Only}, again.Waits)
	}
	require.True(t, s.KeepWaiting(f, when.Moment{}).Equal(f), "it waits already")
	never := FollowUp{Title: "x", Status: NeedsAction}
	require.True(t, s.KeepWaiting(never, when.Moment{}).Equal(never), "it has never waited")
}

// "Every 3 working days, twice, then tell me": the card comes twice to ask again, and
// once more to say that nobody has answered.
func TestAskingAgainHasARhythm(t *testing.T) {
	s, loc := Usual(), week.Location()
	rhythm := &when.Rhythm{Every: 3, Unit: when.WorkingDays, Times: 2}
	jonas := mail.Address{Name: "Jonas Reyland", Address: "jonas@x.example"}
	f := FollowUp{Title: "Dates", Status: NeedsAction, With: jonas, Waits: Wait{Rhythm: rhythm}}
	f = s.WaitFor(f, at(24, 9, 0), rhythm.First(week, at(24, 9, 0))) // a Tuesday
	day := func(f FollowUp) string {
		if f.Next(week) == 0 {
			return ""
		}
		return f.Next(week).In(loc).Format("Mon 2 15:04")
	}
	require.Equal(t, "Fri 27 08:00", day(f))
	once := f.Fire(week, at(27, 8, 0))
	require.True(t, once.Card && !once.Waits.InVain())
	require.Equal(t, "Wed 2 08:00", day(once))
	late := once.Fire(week, when.AtWall(time.Date(2026, 12, 4, 17, 0, 0, 0, time.UTC), loc).At) // the program was off
	require.Equal(t, "Wed 9 08:00", day(late), "from the day on which it came")
	told := late.Fire(week, late.Next(week))
	require.True(t, told.Card && told.Waiting() && told.Waits.InVain())
	require.Equal(t, "", day(told), "that was all")

	// Whoever writes to them meanwhile has asked; whoever writes to others has not.
	wrote := once.Asking([]mail.Address{{Address: "else@x.example"}, jonas}, week, at(30, 15, 0))
	require.False(t, wrote.Card)
	require.Equal(t, "Thu 3 08:00", day(wrote))
	require.True(t, once.Asking([]mail.Address{{Address: "else@x.example"}}, week, at(30, 15, 0)).Equal(once))

	// It goes on if the answer was none, and not after it is done.
	answered := s.Answered(once, at(30, 9, 0))
	require.Equal(t, *rhythm, *s.KeepWaiting(answered, at30(loc)).Waits.Rhythm)
	require.Nil(t, once.Finish(at(30, 9, 0)).Waits.Rhythm)
	require.Nil(t, s.WaitFor(once, at(24, 9, 0), when.Moment{}).Waits.Rhythm, "without a day there is no rhythm")

	bad := f.Tidy()
	bad.Waits.Rhythm = &when.Rhythm{Every: 0, Unit: when.Days}
	require.ErrorContains(t, bad.Valid(), "1 to 365")
}

func at30(loc *time.Location) when.Moment {
	return when.AtWall(time.Date(2026, 11, 30, 8, 0, 0, 0, time.UTC), loc)
}

func TestWhatMayBeTheAnswerIsOffered(t *testing.T) {
	s := Usual()
	f := s.WaitFor(FollowUp{Title: "x", Status: NeedsAction}, 5, when.Moment{})
	for n := range int64(7) {
		f = f.Offer(Candidate{Message: n, Conversation: n / 2})
		require.True(t, f.Offer(Candidate{Message: n}).Equal(f), "each once")
	}
	require.Len(t, f.Waits.Offers, MaxOffers)
	require.EqualValues(t, 6, f.Waits.Offers[MaxOffers-1].Message, "the newest are kept")
	without := f.Refuse(4)
	require.Len(t, without.Waits.Offers, 3, "with all of its conversation")
	require.True(t, f.Refuse(99).Equal(f))
	require.Len(t, f.Waits.Offers, MaxOffers, "nothing else is changed by it")
	require.Nil(t, without.Refuse(2).Refuse(6).Waits.Offers)
	require.Empty(t, s.Answered(f, 9).Waits.Offers)
}

// Several people are waited for: any of them ends it, or all of them have to answer.
func TestWaitingForSeveralPeople(t *testing.T) {
	s := Usual()
	jonas, mirela, oona := mail.Address{Name: "Jonas Reyland", Address: "jonas@x.example"}, mail.Address{Name: "Mirela Dossett", Address: "mirela@x.example"}, mail.Address{Name: "Oona Varga"}
	f := s.WaitFor(FollowUp{Title: "Dates", Status: NeedsAction, With: jonas, Conversation: 7}, at(23, 9, 0), when.Moment{})
	f.Waits.Also = []mail.Address{mirela, oona}
	from := func(a mail.Address) Came { return Came{Message: 1, From: a, In: []int64{7}, Written: tuesday} }
	require.Equal(t, Answers, f.Bearing(from(mirela)))
	require.Equal(t, Answers, f.Bearing(from(mail.Address{Name: "Oona Varga", Address: "oona@home.example"})), "by her name")
	require.Equal(t, MayAnswer, f.Bearing(from(mail.Address{Name: "Else", Address: "else@x.example"})))
	require.False(t, s.AnsweredBy(f, mirela, tuesday).Waiting(), "any of them")
	require.Equal(t, "Jonas Reyland, Mirela Dossett or Oona Varga", SayAwaited(f))

	f.Waits.All = true
	require.Equal(t, "all of Jonas Reyland, Mirela Dossett and Oona Varga", SayAwaited(f))
	g := s.AnsweredBy(f, mirela, tuesday)
	require.True(t, g.Waiting())
	require.Equal(t, []mail.Address{jonas, oona}, g.Missing())
	require.True(t, s.AnsweredBy(g, mirela, tuesday).Equal(g), "once more changes nothing")
	require.False(t, s.AnsweredBy(g, mail.Address{Name: "Else", Address: "else@x.example"}, tuesday).Waiting(), "who is not waited for answers for all, if that is taken for the answer")
	g = s.AnsweredBy(g, jonas, tuesday)
	require.True(t, g.Waiting())
	g = s.AnsweredBy(g, mail.Address{Name: "Oona Varga", Address: "oona@home.example"}, tuesday)
	require.False(t, g.Waiting(), "the last of them")
	require.Equal(t, []mail.Address{mirela, oona}, s.KeepWaiting(g, when.Moment{}).Waits.Also, "what is waited on for is as before")

	r := ReadLine("dates / waits for both Jonas and Mirela since mon", FollowUp{}, known, week, tuesday)
	require.True(t, r.FollowUp.Waits.All)
	require.Len(t, r.FollowUp.Waits.Also, 1)
	require.Contains(t, said(r), "waits for both Jonas")
	r = ReadLine("dates / waits for jonas or mirela", FollowUp{}, known, week, tuesday)
	require.False(t, r.FollowUp.Waits.All)
	require.Len(t, r.FollowUp.Waits.Also, 1)
}
