package followup

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

// Meaning is what it means for a follow-up to be in a stage.
type Meaning string

// The meanings of stages.
const (
	Mine   Meaning = "mine"     // it is for the user to act
	Others Meaning = "others"   // somebody else has to
	Done   Meaning = "finished" // it is done
)

// Stage is a column of the board.
type Stage struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Means Meaning `json:"means"`
}

// View is one way of looking at the follow-ups.
type View struct {
	ID           string              `json:"id"`
	Name         string              `json:"name"`
	By           By                  `json:"by"`
	search.Query `tstype:",extends"` // which of them are shown
}

// By is what the follow-ups are arranged by.
type By string

// What follow-ups can be arranged by.
const (
	ByDate     By = "date"
	ByStage    By = "stage"
	ByProject  By = "project"
	ByPerson   By = "person"
	ByPriority By = "priority"
	ByLabel    By = "label"
	ByOwner    By = "owner" // in the box of a team
)

// Bys lists them.
var Bys = []By{ByDate, ByStage, ByProject, ByPerson, ByPriority, ByLabel, ByOwner}

// Settings are how a person works with follow-ups.
type Settings struct {
	Stages  []Stage      `json:"stages"`
	Views   []View       `json:"views"`   // that were saved
	CloseAt int          `json:"closeAt"` // minutes after midnight at which the day is closed on working days; -1: when asked
	Keep    bool         `json:"keep"`    // finishing leaves the conversation where it is
	Called  when.Instant `json:"called"`  // when closing the day was last called for and not answered yet; 0: it was
}

// Usual are the settings of somebody who has not chosen any.
func Usual() Settings {
	return Settings{CloseAt: 17 * 60, Views: []View{}, Stages: []Stage{
		{"todo", "To do", Mine}, {"under-way", "Under way", Mine}, {"others", "With others", Others}, {"finished", "Finished", Done}}}
}

// MaxStages is how many stages a board has at most.
const MaxStages = 8

// Valid says in a sentence for the user what is wrong with s, or nil.
func (s Settings) Valid() error {
	seen, ids, means := map[string]bool{}, map[string]bool{}, map[Meaning]int{}
	for _, st := range s.Stages {
		name := strings.ToLower(strings.TrimSpace(st.Name))
		switch {
		case name == "" || len(st.Name) > 40:
			return errors.New("a stage needs a short name")
		case seen[name]:
			return fmt.Errorf("two stages are called %q", st.Name)
		case st.ID == "" || ids[st.ID]:
			return errors.New("two stages are the same")
		case st.Means != Mine && st.Means != Others && st.Means != Done:
			return fmt.Errorf("the stage %q has to mean mine, with others or finished", st.Name)
		}
		seen[name], ids[st.ID] = true, true
		means[st.Means]++
	}
	switch {
	case len(s.Stages) > MaxStages:
		return fmt.Errorf("a board has room for %d stages", MaxStages)
	case means[Mine] == 0 || means[Others] == 0 || means[Done] == 0:
		return errors.New("a board needs a stage that is mine, one with others and one for what is finished")
	case s.CloseAt < -1 || s.CloseAt >= 24*60:
		return errors.New("the time to close the day lies within the day")
	}
	for _, v := range s.Views {
		if strings.TrimSpace(v.Name) == "" || len(v.Name) > 60 || !slices.Contains(Bys, v.By) {
			return errors.New("a saved view needs a short name")
		}
		if err := v.Query.ValidWork(); err != nil {
			return err
		}
	}
	return nil
}

// Stage is the stage with that ID; the first that is mine if there is none.
func (s Settings) Stage(id string) Stage {
	for _, st := range s.Stages {
		if st.ID == id {
			return st
		}
	}
	return s.first(Mine)
}

func (s Settings) first(m Meaning) Stage {
	for _, st := range s.Stages {
		if st.Means == m {
			return st
		}
	}
	return Stage{Means: m}
}

// In is the stage f is in: a finished one is in one for finished things.
func (s Settings) In(f FollowUp) Stage {
	st := s.Stage(f.Stage)
	switch {
	case !f.Open() && st.Means != Done:
		return s.first(Done)
	case f.Open() && st.Means == Done:
		return s.first(Mine)
	}
	return st
}

// statusIn is the status of what is open in a stage: the first that is mine
// needs action, all others are in process.
func (s Settings) statusIn(id string) Status {
	if s.Stage(id).ID == s.first(Mine).ID {
		return NeedsAction
	}
	return InProcess
}

// Put is f put into a stage at now. Into one for finished things it is
// finished, out of it opened again; with others it waits for the one it
// concerns, and otherwise for nobody.
func (s Settings) Put(f FollowUp, id string, now when.Instant) FollowUp {
	st := s.Stage(id)
	if st.Means == Done {
		f = f.Finish(now)
		f.Stage = st.ID
		return f
	}
	f = f.Reopen(s)
	f.Stage, f.Status = st.ID, s.statusIn(st.ID)
	switch {
	case st.Means == Others && f.Waits.Since == 0:
		f.Waits = Wait{Since: now, Ask: f.Waits.Ask, Rhythm: f.Waits.Rhythm, Asked: f.Waits.Asked}
	case st.Means == Mine:
		f.Waits = Wait{Ended: f.Waits.Ended}
	}
	return f
}

// New is a follow-up as it is stored for the first time or anew: tidied, its
// series begun, its status as its stage says, and its reminders as its times
// want. A reminder that was not in before and lies behind now is an error, as is
// all that Valid finds.
func (s Settings) New(f FollowUp, before FollowUp, w when.Week, now when.Instant) (FollowUp, error) {
	f = f.Tidy().begins(w.Location())
	if err := f.Valid(); err != nil {
		return f, err
	}
	if f.Open() {
		f.Status = s.statusIn(f.Stage)
	}
	moved := f.Due != before.Due || f.Start != before.Start
	for i, r := range f.Reminders {
		old := slices.ContainsFunc(before.Reminders, func(o Reminder) bool {
			return o.Of == r.Of && o.At == r.At && o.Days == r.Days && o.Minutes == r.Minutes
		})
		if t := r.Time(f, w); r.Fired == 0 && t <= now && f.Open() {
			if !old || r.Of == ByTime && !moved {
				return f, ErrPastReminder
			}
			f.Reminders[i].Fired = now
		}
	}
	if moved {
		f.Reminders = rearmed(f, w, now)
	}
	return f, nil
}

// ErrPastReminder is that a reminder lies behind. Its text is part of a
// sentence for the user.
var ErrPastReminder = errors.New("the time of the reminder has passed: choose one that is still ahead")
