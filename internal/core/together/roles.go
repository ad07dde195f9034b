// Package together holds the rules of what several people do with one box: who may do what.
package together

import (
	"maps"
	"slices"
)

// Role is how somebody stands to a box.
type Role string

const (
	Stranger Role = ""        // neither its person nor a member, or not any more
	Own      Role = "own"     // the box is their own
	Member   Role = "member"  // of a team
	Steward  Role = "steward" // of a team, and looks after it
)

// Roles are those that somebody can be given in a team.
var Roles = []Role{Member, Steward}

// Act is what can be done with a box.
type Act string

const (
	Work  Act = "work"  // seeing, deciding, answering, labelling
	Gauge Act = "gauge" // seeing how much of the team’s each of the others has to do today, and usually does in a day: sums, nothing of their own boxes
	Serve Act = "serve" // accounts, rules, plans, stages: what holds for all who work there
	Admit Act = "admit" // who is a member, and as what; the team's name
	Quit  Act = "quit"  // not being a member any more
	End   Act = "end"   // deleting the team with all that is its own
)

// Acts are all of them.
var Acts = []Act{Work, Gauge, Serve, Admit, Quit, End}

// table says who may do what; what stands in it nowhere nobody may.
var table = map[Act][]Role{
	Work:  {Own, Member, Steward},
	Gauge: {Member, Steward},
	Serve: {Own, Steward},
	Admit: {Steward},
	Quit:  {Member, Steward},
	End:   {Steward},
}

// May says that somebody who stands so may do that.
func (r Role) May(a Act) bool { return slices.Contains(table[a], r) }

// Known says that it is a role somebody can be given.
func (r Role) Known() bool { return slices.Contains(Roles, r) }

// Standing says as what each is a member of a team.
type Standing map[int64]Role

// Change gives a team after somebody is given a role, or with Stranger is none of it any
// more; ok is false where nobody would be left who looks after it.
func (s Standing) Change(person int64, r Role) (after Standing, ok bool) {
	after = maps.Clone(s)
	if delete(after, person); r != Stranger {
		after[person] = r
	}
	for _, is := range after {
		ok = ok || is == Steward
	}
	return after, ok
}
