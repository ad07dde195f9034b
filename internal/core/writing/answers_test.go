package writing

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// answersTo are the short answers to a text written on Tuesday, 24 November 2026, with
// two free times, or none.
func answersTo(t *testing.T, language when.Language, kind mail.Kind, text string, some bool) []AnswerLine {
	t.Helper()
	w := when.Ordinary("Europe/Oslo")
	now := w.Read("2026-11-24 10:42", 1_700_000_000_000).Moment.At
	l := followup.Source{From: mail.Address{Name: "Mirela Dossett"}, Text: text, Kind: kind, Written: now, Language: language}
	return ShortAnswers(l, followup.Asks(l, w), func(followup.Ask) []when.Moment {
		if !some {
			return nil
		}
		return []when.Moment{w.Read("thu 10:00", now).Moment, w.Read("fri 14:00", now).Moment}
	}, w, now)
}

func TestShortAnswersByWhatIsAsked(t *testing.T) {
	for _, c := range []struct {
		language   when.Language
		text, asks string
		answers    []string
	}{
		{when.English, "Hello,\n\nwhen may we come and look at the room?\n", "when may we come and look at the room?", []string{"Thu 26 Nov, 10:00 would suit me.", "Fri 27 Nov, 14:00 would suit me.", "I could offer Thu 26 Nov, 10:00 or Fri 27 Nov, 14:00. Which is better for you?", "Please name two times; I will take one."}},
		{when.English, "Good day,\n\nwe could come on the 8th or the 15th of December, if it is dry. Which one?\n\nEskil", "Which one?", []string{"The 8th, please.", "The 15th, please.", "I have no preference; please choose."}},
		{when.English, "Solvei,\n\noak or painted? I order the wood tomorrow.\n", "oak or painted?", []string{"Oak, please.", "Painted, please.", "I have no preference; please choose."}},
		{when.English, "Does Friday at 10:00 suit you?", "Does Friday at 10:00 suit you?", []string{"Yes, gladly.", "No, I am afraid not.", "I have to ask first. I will write to you tomorrow."}},
		{when.English, "Please sign the form by Friday.", "Please sign the form by Friday.", []string{"I will do it today.", "I will do it this week.", "I am afraid I cannot."}},
		{when.English, "The condition report is done, it is attached.", "", []string{"Thank you, I have it.", "Thank you. I will look at it today."}},
		{when.English, "Thank you, that is all I needed.", "", []string{"You are welcome.", "Gladly."}},
		{when.English, "The museum is closed on Monday.", "", []string{"Thank you for telling me.", "Noted, thank you."}},
		{when.German, "Guten Tag, wann dürfen wir kommen?", "Guten Tag, wann dürfen wir kommen?", []string{"Donnerstag, 26. November, 10:00 passt mir.", "Freitag, 27. November, 14:00 passt mir.", "Ich könnte Donnerstag, 26. November, 10:00 oder Freitag, 27. November, 14:00 anbieten. Was passt Ihnen besser?", "Bitte nennen Sie zwei Termine; einer davon passt sicher."}},
		{when.Norwegian, "Takk for bildene!", "", []string{"Bare hyggelig.", "Ingen årsak."}},
	} {
		require.Equal(t, []AnswerLine{{c.asks, c.answers}}, answersTo(t, c.language, mail.Person, c.text, true), c.text)
	}
	require.Equal(t, []string{"Please name two times; I will take one."}, answersTo(t, when.English, mail.Person, "When may we come?", false)[0].Answers, "nothing is free")
	require.Empty(t, answersTo(t, when.English, mail.Notice, "Could you sign the form?", true), "a machine is not answered")
	require.Empty(t, answersTo(t, when.Polish, mail.Person, "Kiedy możemy przyjść?", true), "no answer in a language that is not written")
	require.Empty(t, answersTo(t, when.Undetermined, mail.Person, "Igen.", true))
}

// Each thing that is asked has a line of its own.
func TestSeveralThingsAsked(t *testing.T) {
	lines := answersTo(t, when.English, mail.Person, "Can you sign the form? When does it suit you? And is it oak or pine?", true)
	require.Len(t, lines, 3)
	require.Equal(t, "Yes, gladly.", lines[0].Answers[0])
	require.Equal(t, "Thu 26 Nov, 10:00 would suit me.", lines[1].Answers[0])
	require.Equal(t, "Oak, please.", lines[2].Answers[0])
}

func TestQuestions(t *testing.T) {
	require.Equal(t, []string{"who may open the case, and do we need your conservator for it?"}, Questions("Dear Dr. Marchetti,\n\nwho may open the case,\nand do we need your conservator for it?\n\n> And what did I ask?\n-- \nReally?\n"))
	require.Empty(t, Questions("Nothing is asked here. ??"))
}

// A reminder names what it is about and when it was asked, and grows firmer.
func TestTheToneOfAReminderFollowsHowOftenOneHasAsked(t *testing.T) {
	ilse := mail.Address{Name: "Ilse Marchetti", Address: "i@m.example"}
	require.Equal(t, "Dear Ilse Marchetti,\n\non 20 November 2026 I wrote to you about “Who can open the case?” and have not heard from you yet. May I ask you for an answer?\n",
		Reminder(ilse, "Re: Who can open the case?", []string{"20 November 2026"}))
	require.Contains(t, Reminder(ilse, "Case", []string{"2 November 2026", "9 November 2026"}), "about “Case” on 2 November 2026 and asked again on 9 November 2026. Could you tell me how it stands")
	require.Contains(t, Reminder(ilse, "Case", []string{"2 November 2026", "9 November 2026", "16 November 2026"}), "since 2 November 2026 I have asked you 3 times about “Case”, last on 16 November 2026.")
	require.Contains(t, Reminder(ilse, "Case", nil), "\n\nI wrote to you about “Case”")
}
