package desk

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// remindOfWork brings up the cards of follow-ups.
func remindOfWork(b *runner.Box, things []store.Thing) error {
	state, err := store.Conversations(b.T).State(b.ID, b.Person.ID, nil, store.Subjects(things))
	if err != nil {
		return err
	}
	var done happened
	for _, th := range things {
		before, ok := state.FollowUps[th.FollowUp]
		after := before.Fire(b.Person.Week, b.Now)
		if !ok || after.Equal(before) {
			if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		done.add(inbox.Remind, before.Conversation, before.Title, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		if b.Person.Delivery.Notify.Reminder(int(before.Priority)) {
			text := "Reminder: " + before.Title
			if after.Waits.InVain() && !before.Waits.InVain() {
				text = "No answer from " + followup.SayAwaited(after) + ": " + before.Title
			}
			done.heard = append(done.heard, journal.Notice{Text: text, FollowUp: before.UID})
		}
	}
	return done.record(b)
}

// remindOfEvents brings up the cards of events.
func remindOfEvents(b *runner.Box, things []store.Thing) error {
	state, err := store.Conversations(b.T).State(b.ID, b.Person.ID, nil, store.Subjects(things))
	if err != nil {
		return err
	}
	var done happened
	for _, th := range things {
		before, ok := state.Events[th.FollowUp]
		after := before.Fire(b.Now)
		if !ok || after.Equal(before) {
			if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		done.add(inbox.RemindEvent, before.Conversation, before.Title, inbox.Change{EventBefore: &before, EventAfter: &after})
		if after.Card && b.Person.Delivery.Notify.Reminder(int(followup.Urgent)) {
			done.heard = append(done.heard, journal.Notice{Text: "Soon: " + before.Title + ", " + b.Person.Week.Say(before.Start, b.Now), Conversation: before.Conversation})
		}
	}
	return done.record(b)
}
