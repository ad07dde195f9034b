package sorting

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Degree is how strict the junk test is.
type Degree = inbox.JunkDegree

// The degrees.
const (
	JunkOff = inbox.JunkOff // only what was blocked is junk
	Careful = inbox.JunkCareful
	Strict  = inbox.JunkStrict
)

// JunkFacts are what the junk test looks at in a message.
type JunkFacts struct {
	From     mail.Address
	To       []string // the reader's own addresses it is to
	Score    float64  // JunkModel.Judge
	Words    []string // those that said most for junk
	Found    mail.Found
	Language when.Language
	Script   string // most of its letters are of; ScriptOf
	Seems    string // an address that the reader knows and that it looks like
	Known    bool   // the reader has written to its sender
	Expected bool   // it answers the reader, or they wait for something from its sender
}

const byWords = "It is like what you have called junk"

// ByWords says that a message was found to be junk by its words, as JunkTest says why.
func ByWords(why string) bool { return strings.HasPrefix(why, byWords) }

// JunkTest says whether a message is junk as the reader wishes, and why, in a sentence.
// What answers the reader, or comes from somebody they wait for, never is.
func JunkTest(w inbox.JunkWishes, m JunkFacts) (junk bool, why string) {
	_, domain, _ := strings.Cut(m.From.Address, "@")
	is := func(list []string) (string, bool) {
		for _, x := range list {
			if x == m.From.Address || strings.HasPrefix(x, "@") && (domain == x[1:] || strings.HasSuffix(domain, "."+x[1:])) {
				return x, true
			}
		}
		return "", false
	}
	forged := m.Found.Sender == "fail"
	blocked, isBlocked := is(w.Blocked)
	_, safe := is(w.Never)
	degree := w.At()
	switch {
	case m.Expected:
		return false, ""
	case isBlocked && !strings.HasPrefix(blocked, "@"):
		return true, "You have blocked " + blocked + "."
	case isBlocked && !(safe && !forged):
		return true, "You have blocked everybody at " + blocked[1:] + "."
	case safe && !forged, m.Known && !forged && m.Seems == "":
		return false, ""
	case slices.ContainsFunc(m.To, func(a string) bool { return slices.Contains(w.To, a) }):
		return false, ""
	case degree == JunkOff:
		return false, ""
	case m.Found.Junk:
		return true, "The server of your account calls it junk."
	case m.Language != "" && slices.Contains(w.Languages, m.Language):
		return true, "It is in " + m.Language.Name() + ", which you do not want."
	case m.Script != "" && slices.Contains(w.Scripts, m.Script):
		return true, "It is in " + m.Script + " letters, which you do not want."
	case degree.Calls(m.Score):
		why = byWords + "."
		if len(m.Words) > 0 {
			why = byWords + ": “" + strings.Join(m.Words[:min(len(m.Words), 5)], "”, “") + "”."
		}
		if forged {
			why += " Its sender is not who it says."
		}
		return true, why
	case forged && m.Seems != "":
		return true, fmt.Sprintf("It looks as if from %s, and the server of your account says that it is not.", m.Seems)
	}
	return false, ""
}

// junkDeeds are what tells that a message is junk, 1, or none, -1; 0 tells nothing by
// itself.
var junkDeeds = map[inbox.Kind]int{
	inbox.ToJunk: 1, inbox.AllJunk: 1, inbox.Block: 1,
	inbox.NotJunk: -1, inbox.ToInbox: -1, inbox.Archive: -1, inbox.SendMail: -1, inbox.Star: -1, inbox.MakeFollowUp: -1, inbox.Snooze: -1, inbox.MakeEvent: -1, inbox.AnswerGuest: -1,
	inbox.WaitFor: -1, inbox.WriteNote: -1, inbox.Important: -1,
	inbox.JunkFound: 0, inbox.FollowServer: 0,
}

// JunkDeeds are the kinds of what tells it.
func JunkDeeds() []inbox.Kind { return slices.Sorted(maps.Keys(junkDeeds)) }

// WasJunk says what a message turned out to be, 1 junk, -1 kept, 0 not known, by what was
// done about its conversation, in order, and where that is. The last that tells something
// counts; where nothing was done, and where another program did it, the place does: junk
// is where somebody has put it, unless that was the junk test, and the archive is for what
// one keeps.
func WasJunk(deeds []Deed, place inbox.Place) int {
	byTest := false
	for _, d := range slices.Backward(deeds) {
		if says := junkDeeds[d.Kind]; says != 0 {
			return says
		}
		if byTest = d.Kind == inbox.JunkFound; byTest {
			break
		}
		if d.Kind == inbox.FollowServer {
			break
		}
	}
	switch {
	case place == inbox.Junk && !byTest:
		return 1
	case place == inbox.Archived:
		return -1
	}
	return 0
}
