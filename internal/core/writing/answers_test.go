package writing

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
)

func TestShortAnswers(t *testing.T) {
	free := []Free{"Thu 26 Nov, 10:00", "Fri 27 Nov, 14:00", "Mon 30 Nov, 10:00"}
	for _, c := range []struct {
		text, first string
		n           int
	}{
		{"Good day,\n\nwe could come on the 8th or the 15th of December, if it is dry. Which one?\n\nEskil", "I will look it up and write to you today.", 2},
		{"Hello,\n\nwhen may we come and look at the room?\n", "Thu 26 Nov, 10:00 would suit me.", 4},
		{"Dear museum,\n\nwe would like to come in the second week of December. Which day is quiet?\n", "Thu 26 Nov, 10:00 would suit me.", 4},
		{"Solvei,\n\noak or painted? I order the wood tomorrow and need to know the colour.\n", "Oak, please.", 4},
		{"Hi Solvei,\n\ncould you send me the floor plan? The one on the wall is from before the lift.\n", "Yes, gladly.", 3},
		{"Dear Solvei,\n\nthe page is signed. Shall I send it by post, or is the scan enough?\n", "Yes, gladly.", 3},
		{"Dear Solvei,\n\nwhat is the weight of the crate, and of the stand?\n", "I will look it up and write to you today.", 2},
		{"Solvei,\n\nthe condition report for case 4 is done. Photographs in the file.\n\nJonas", "Thank you, I have it.", 2},
		{"Thank you, that is all I needed from you and the others.", "You are welcome.", 2},
		{"the rehearsal is at the parish hall and we begin at six.\n", "Thank you for telling me.", 2},
		{"It is so.\n\n> Could you send me the plan of the house?\n> and the key to it\n", "Thank you for telling me.", 2},
		{"Sehr geehrte Frau Arnkvist,\n\npasst Ihnen der Januar?\n", "", 0},
	} {
		got := ShortAnswers(mail.Message{Kind: mail.Person, Text: c.text}, free)
		require.Len(t, got, c.n, "%s: %v", c.text, got)
		if c.n > 0 {
			require.Equal(t, c.first, got[0], c.text)
		}
	}
	require.Empty(t, ShortAnswers(mail.Message{Kind: mail.Notice, Text: "Could you sign the form for the parcel?"}, free))
	require.Equal(t, []string{"Please name two times; I will take one."}, ShortAnswers(mail.Message{Kind: mail.Person, Text: "When is the time for the crate and the lorry?"}, nil))
}

func TestQuestions(t *testing.T) {
	require.Equal(t, []string{"who may open the case, and do we need your conservator for it?"}, Questions("Dear Dr. Marchetti,\n\nwho may open the case,\nand do we need your conservator for it?\n\n> And you?\n-- \nWhy not?\n"))
	require.Empty(t, Questions("Nothing is asked here. ??"))
}

func TestAReminderNamesWhatItIsAbout(t *testing.T) {
	require.Equal(t, "Dear Ilse Marchetti,\n\non 20 November 2026 I wrote to you about “Who can open the case?” and have not heard from you yet. May I ask you for an answer?\n",
		Reminder(mail.Address{Name: "Ilse Marchetti", Address: "i@m.example"}, "Re: Who can open the case?", "20 November 2026"))
}
