package followup

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

var week = when.Ordinary("Europe/Oslo")

// at is a wall-clock time in November 2026 in Oslo.
func at(day, hour, minute int) when.Instant {
	return when.Of(time.Date(2026, 11, day, hour, minute, 0, 0, week.Location()))
}

var tuesday = at(24, 10, 42)

// Made-up letters, and the action each asks for. Where none is asked for, it is
// to be answered.
func TestTitlesProposed(t *testing.T) {
	for _, c := range []struct{ from, subject, text, title, due string }{
		{"Mirela Dossett", "Crate sizes", "Good morning Solvei,\n\nThe workshop cuts timber on Friday, so I need the outer dimensions of the brass tide predictor (and whether the base comes off) by Thursday noon.", "Send Mirela the outer dimensions of the brass tide predictor", "2026-11-26T12:00"},
		{"Anneke Holt", "Panel proofs", "Dear Solvei,\n\nround two is attached. We print on Friday morning, so please send the marked file by Thursday evening.\n\nAnneke", "Send the marked file", "2026-11-26T18:00"},
		{"Halvard Lindqvist", "Clause 7", "Dear Solvei,\n\nI attach both versions. Could you choose one before the weekend?\n\nHalvard", "Choose one", "2026-11-27"},
		{"Anneke Holt", "Label", "The text for case 4 is 40 words too long for the plate. Could you shorten it?", "Shorten it", ""},
		{"Priya Venn", "Audio guide", "Hi Solvei,\n\nwe have three voices on tape. Can you listen before next week?", "Listen", "2026-11-30"},
		{"Jonas Reyland", "Customs form", "The customs form has to be signed by you and returned by Friday.", "Sign the customs form", "2026-11-27"},
		{"Jonas Reyland", "Two numbers", "Solvei,\n\nthe board meets at four. I need the number of loans signed and the number still open.\n\nJonas", "Send Jonas the number of loans signed and the number still open", "2026-11-24T16:00"},
		{"Oona Varga", "Travel", "Dear Solvei,\n\nI hold two seats until Friday. Shall I book, and on whose card?", "Tell Oona whether to book", "2026-11-27"},
		{"Ilse Marchetti", "The lagoon map", "Dear colleague,\n\nbefore we can lend it I have to know how the map will be shown: open, or under glass? Our conservator asks for the second.", "The lagoon map", ""},
		{"Town Harbour Office", "Quay permit", "Your request has been received. Please name the vehicle and the weight.", "Name the vehicle and the weight", ""},
		{"Eskil Tann", "Skylight", "Good day,\n\nwe could come on the 8th or the 15th of December, if it is dry. Which one?", "Answer Eskil: which one?", ""},
		{"Mirela Dossett", "Two drawings", "I have two drawings with different sizes. Which one is right?", "Answer Mirela: which one is right?", ""},
		{"Halvard Lindqvist", "Loan", "I am glad to lend the dial. Could you send me the facility report and the insurance value you propose?", "Send Halvard the facility report and the insurance value I propose", ""},
		{"Priya Venn", "School visits", "Hi Solvei,\n\nfor the spring programme I would need the workshop room. Is that possible?", "Send Priya the workshop room", ""},
		{"Anneke Holt", "Proofs", "The proofs are attached. Please mark changes in the file and send it back, we print ten days later.", "Mark changes in the file and send it back", ""},
		{"Eskil Tann", "Roof", "Thank you. Please name two dates.", "Name two dates", ""},
		{"Fjordveien School", "Class 5b", "Dear museum,\n\nclass 5b would like to come in the second week of December. Which day is quiet?", "Answer Fjordveien School: which day is quiet?", ""},
		{"Lena Brask", "Photographs", "I photograph instruments for a book. Might I come for two hours in December?", "Tell Lena whether to come for two hours in December", ""},
		{"Tomasz Ilk", "Lamps", "Would you mind sending me the list of lamps by 3 December?", "Send Tomasz the list of lamps", "2026-12-03"},
		{"Tomasz Ilk", "Blinds", "Please let me know whether the blinds may stay down.", "Let Tomasz know whether the blinds may stay down", ""},
		{"Ragna Holm", "Folder", "Please bring the red folder on Thursday at half past six.", "Bring the red folder", "2026-11-26T18:30"},
		{"Ragna Holm", "Bar 14", "Dear altos,\n\nbar 14 is an F, not an F sharp. Please mark it.", "Mark it", ""},
		{"Mirela Dossett", "Lift", "It would be great if you could measure the lift again before Monday.", "Measure the lift", "2026-11-30"},
		{"Jonas Reyland", "Report", "Don't forget to countersign the condition report.", "Countersign the condition report", ""},
		{"Jonas Reyland", "Values", "We are still waiting for your insurance values.", "Send Jonas the insurance values", ""},
		{"Grete Brunner", "Images", "I would be grateful if you would send two copies to our library.", "Send two copies to Grete’s library", ""},
		{"Kari Moen", "Invoice", "Hello,\n\nthe invoice of October has to be paid by 30 November.", "Pay the invoice of October", "2026-11-30"},
		{"Kari Moen", "Invoice", "Can you approve the attached invoice today?", "Approve the attached invoice", "2026-11-24"},
		{"Kari Moen", "Budget", "Could you please review the budget for leg two and tell me what is missing?", "Review the budget for leg two and tell Kari what is missing", ""},
		{"Per Aune", "Keys", "Are you able to lend us the key to the quay store tomorrow?", "Lend Per the key to the quay store", "2026-11-25"},
		{"Per Aune", "Keys", "You should bring the key back by Friday 10:00.", "Bring the key back", "2026-11-27T10:00"},
		{"Per Aune", "Van", "We need you to confirm the van for 3 December.", "Confirm the van", "2026-12-03"},
		{"Mona Lie", "Speech", "Would you be able to speak for ten minutes at the opening?", "Speak for ten minutes at the opening", ""},
		{"Mona Lie", "Names", "Kindly check the spelling of the names, because the printer starts tonight.", "Check the spelling of the names", "2026-11-24T18:00"},
		{"Mona Lie", "Rooms", "Thank you for your message. When do you arrive?", "Answer Mona: when do you arrive?", ""},
		{"Mona Lie", "Rooms", "How many rooms do we need?", "Answer Mona: how many rooms do we need?", ""},
		{"Ivar Sand", "Cables", "The cables are on the way.", "Cables", ""},
		{"Ivar Sand", "", "Thanks!", "Reply to Ivar", ""},
		{"Ivar Sand", "Re: Re: Fwd: Cables", "All good here.", "Fwd: Cables", ""},
		{"Ivar Sand", "Cables", "Please find the cables list attached.", "Cables", ""},
		{"Ivar Sand", "Cables", "Could you imagine that! All lamps burn.", "Cables", ""},
		{"Dr. Ilse Marchetti", "Case", "Please send our conservator your tool list.", "Send Ilse Marchetti’s conservator the tool list", ""},
		{"Kestrel Print Works", "Paper", "Two papers are in the post. Please tell us which you like.", "Tell Kestrel Print Works which I like", ""},
		{"Olav Berg", "Stairs", "Hi,\n\nI was at the museum yesterday. So can you have a look at the stairs?\n\nOlav", "Have a look at the stairs", ""},
		{"Olav Berg", "Stairs", "Please call me on 555 0134 tomorrow at 9:00.", "Call Olav on 555 0134", "2026-11-25T09:00"},
		{"Olav Berg", "Paint", "Please order the paint; the old one has dried.", "Order the paint", ""},
		{"Olav Berg", "Paint", "- Please choose a white\n- and a grey", "Choose a white", ""},
		{"Sigrid Dahl", "Talk", "We would like you to give a talk in January.", "Give a talk in January", ""},
		{"Sigrid Dahl", "Talk", "Sign and return the form by 1 December.", "Sign and return the form", "2026-12-01"},
		{"Sigrid Dahl", "Talk", "Can we move the talk to 14:00 on Friday?", "Tell Sigrid whether to move the talk to 14:00 on Friday", "2026-11-27T14:00"},
		{"Sigrid Dahl", "Talk", "Do you need a microphone?", "Answer Sigrid: do you need a microphone?", ""},
		{"Sigrid Dahl", "Minutes", "The minutes need to be approved before Thursday.", "Approve the minutes", "2026-11-26"},
		{"Arne Vik", "Photos", "Could you also send me your photographs of case 4, so that I can compare them?", "Send Arne the photographs of case 4", ""},
		{"Arne Vik", "Photos", "Please can you reply to Jonas about the photos?", "Reply to Jonas about the photos", ""},
		{"Arne Vik", "Photos", "If possible, please return the prints by the end of the month.", "Return the prints", "2026-11-30"},
		{"Arne Vik", "Photos", "I need to think about it.", "Photos", ""},
		{"Arne Vik", "Photos", "You need to renew the licence of the photographs.", "Renew the licence of the photographs", ""},
		{"Hanne Ruud", "Lunch", "Are you free for lunch on Friday at 12:30?", "Answer Hanne: are you free for lunch on Friday at 12:30?", "2026-11-27T12:30"},
		{"Hanne Ruud", "Tickets", "Your tickets are still missing.", "Send Hanne the tickets", ""},
		{"Hanne Ruud", "Tickets", "Can you confirm the number of tickets? We print them at noon.", "Confirm the number of tickets", "2026-11-24T12:00"},
		{"Hanne Ruud", "Tickets", "P.S. please keep two tickets for my sister.", "Keep two tickets for Hanne’s sister", ""},
		{"Hanne Ruud", "Chairs", "Just a reminder: please count the chairs in the long gallery.", "Count the chairs in the long gallery", ""},
		{"Hanne Ruud", "Chairs", "Thanks for yesterday. Would you write to the school about the chairs, please?", "Write to the school about the chairs", ""},
		{"Hanne Ruud", "Chairs", "Feel free to call. Remember to water the plants by Wednesday evening!", "Chairs", "2026-11-25T18:00"},
		{"Nils Foss", "Gate", "Can you tell me who has the key to the gate, Jonas or you?", "Tell Nils who has the key to the gate, Jonas or me", ""},
		{"Nils Foss", "A very long matter", "Could you " + strings.Repeat("measure and describe and photograph ", 6) + "the gate?", "Measure and describe and photograph measure and describe and photograph measure and…", ""},
	} {
		p := Propose(Source{From: mail.Address{Name: c.from, Address: "a@b.example"}, Subject: c.subject, Text: c.text, Kind: mail.Person, Written: tuesday}, week)
		assert.Equal(t, c.title, p.Title, c.text)
		assert.Equal(t, c.due, p.Due.Local, c.text)
	}
	for kind, want := range map[mail.Kind]string{
		mail.Invitation: "Answer the invitation of Grete", mail.Receipt: "Check the receipt of Grete", mail.List: "Five cheap light meters",
		mail.Notice: "Five cheap light meters", mail.Bounce: "Find another way to reach them: Five cheap light meters",
	} {
		p := Propose(Source{From: mail.Address{Name: "Grete Brunner"}, Subject: "Five cheap light meters", Text: "Could you believe it?", Kind: kind, Written: tuesday}, week)
		require.Equal(t, want, p.Title)
	}
}

// Whatever stands in a letter, what is proposed can be stored.
func TestAnyLetterGivesATitle(t *testing.T) {
	pieces := []string{"Could you", "please", "send me", ",", ".", "?", "\n\n", "by Friday", "your", "—", "(", "Dear Solvei,", "P.S.", "é", "who", "let me know", "…", "12:00", "if you", "is missing", "has to be signed"}
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 20).Draw(t, "text"), " ")
		name := rapid.SampledFrom([]string{"", "Mona Lie", "Dr. X", "Ärzte-Haus"}).Draw(t, "name")
		p := Propose(Source{From: mail.Address{Name: name, Address: "x@y.example"}, Text: text, Kind: mail.Person, Written: tuesday}, week)
		require.NoError(t, FollowUp{Title: p.Title, Priority: Normal}.Valid(), "%q", p.Title)
		require.True(t, p.Due.IsZero() || p.Due.At > tuesday)
	})
}
