package desk

import (
	"database/sql"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// A follow-up whose row cannot be read keeps no other reminder, no return and no
// round from coming; its user hears of it by its name.
func TestOneFollowUpThatCannotBeRead(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "jonas@x.example", "Crate"))
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{1}, Return: f.moment(t, "in 1 h")})
	for _, title := range []string{"Broken", "Whole"} {
		_, err := f.FollowUps.WriteDown(ctx, f.who, "", followups.NewFollowUp{Title: title, Reminders: []followup.Reminder{{At: f.moment(t, "in 1 h")}}})
		require.NoError(t, err)
	}
	db, err := sql.Open("sqlite3", filepath.Join(f.dir, "ebbe.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(`UPDATE follow_ups SET data = json_set(data, '$.due', 'never') WHERE data->>'title' = 'Broken'`)
	require.NoError(t, err)
	events := f.Journal.Subscribe(t.Context(), 1, 1)
	f.clock.t = begin.Add(2 * time.Hour)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 1, "the conversation is back")
	var card bool
	require.NoError(t, db.QueryRow(`SELECT data->>'card' FROM follow_ups WHERE data->>'title' = 'Whole'`).Scan(&card))
	require.True(t, card, "the other reminder is up")
	told := 0
	for len(events) > 0 {
		if e := <-events; e.Text == "Ebbe could not bring you a reminder about “Broken”: something is wrong inside. Nothing is lost; it is tried again by itself." {
			told++
		}
	}
	require.Equal(t, 1, told)
}

// At the start each box gets its time for closing the day, also after one that
// has it already.
func TestEachBoxIsCalledToCloseItsDay(t *testing.T) {
	f := newOffice(t, store.Options{})
	p := store.Person{Name: "Jonas", Address: "jonas@m.example", Week: f.who.Week, FollowUp: followup.Usual()}
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
		box, err := store.People(tx).MakeBox(p.Name)
		require.EqualValues(t, 2, box)
		require.NoError(t, err)
		return store.People(tx).PutPerson(&p, box, nil)
	}))
	f.reopen(t)
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		for _, who := range []identity.Who{f.who, {Person: p.ID, Box: 2}} {
			at, err := store.Agenda(tx).TimeOf(who.Box, inbox.CloseDay)
			require.NoError(t, err)
			require.NotZero(t, at, "box %d", who.Box)
		}
		return nil
	}))
}
