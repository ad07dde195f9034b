package store

import (
	"encoding/json"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
)

// Line is what numbers are made of an entry.
func (e Entry) Line() numbers.Line {
	return numbers.Line{Kind: e.Kind, By: string(e.Actor), At: e.At, Since: e.Since, Count: e.Count, TakenBack: e.TakenBack != 0, Changes: e.Changes, Origins: e.Origins, Ref: e.Ref, Besides: e.Besides}
}

// Does says that an entry is something that a person did.
func (e Entry) Does() bool { return e.Actor == ByPerson && e.Kind != inbox.Look && e.PersonID != 0 }

// Zone is where it is the day that numbers of a box go by: that of whose box it is.
func (t Journal) Zone(box int64) (*time.Location, error) {
	var name string
	if err := t.db.Raw("SELECT COALESCE((SELECT p.week->>'zone' FROM boxes b CROSS JOIN people p ON p.id = b.keeper WHERE b.id = ?), '')", box).Scan(&name).Error; err != nil {
		return nil, err
	}
	if loc, err := when.LoadZone(name); err == nil {
		return loc, nil
	}
	return time.UTC, nil
}

// place notes in entries that are to be written in which hour they are, and when whoever wrote them
// had last done something.
func (t Journal) place(entries []*Entry) error {
	zones := map[int64]*time.Location{}
	for _, e := range entries {
		if zones[e.BoxID] == nil {
			loc, err := t.Zone(e.BoxID)
			if err != nil {
				return err
			}
			zones[e.BoxID] = loc
		}
		e.Wall = numbers.WallOf(e.At, zones[e.BoxID])
		if e.Since == 0 && e.Does() && len(e.Changes) > 0 {
			if err := t.db.Raw("SELECT COALESCE((SELECT at FROM entries WHERE person_id = ? AND step AND actor = 'person' ORDER BY id DESC LIMIT 1), 0)", e.PersonID).Scan(&e.Since).Error; err != nil {
				return err
			}
		}
	}
	return t.Originate(entries)
}

// Originate notes in entries from where had come what left the inbox by them, as far as it is known.
func (t Journal) Originate(entries []*Entry) error {
	left := func(c inbox.Change) bool {
		return c.Before != nil && c.After != nil && c.Before.Place == inbox.Inbox && c.After.Place != inbox.Inbox
	}
	var ids []int64
	for _, e := range entries {
		for _, c := range e.Changes {
			if left(c) {
				ids = append(ids, c.Before.ID)
			}
		}
	}
	if len(ids) == 0 {
		return nil
	}
	var rows []struct {
		ID   int64
		Kind mail.Kind
	}
	if err := t.db.Raw("SELECT c.id, c.kind FROM json_each(?) j CROSS JOIN conversations c ON c.id = j.value", asJSON(ids)).Scan(&rows).Error; err != nil {
		return err
	}
	kinds := map[int64]mail.Kind{}
	for _, r := range rows {
		kinds[r.ID] = r.Kind
	}
	for _, e := range entries {
		e.Origins = nil
		for _, c := range e.Changes {
			if left(c) {
				if e.Origins == nil {
					e.Origins = map[string]int{}
				}
				e.Origins[numbers.OriginOf(kinds[c.Before.ID], c.Before.Reason)]++
			}
		}
	}
	return nil
}

// Tally adds what entries count for to the running numbers, or with -1 takes it from them.
func (t Journal) Tally(sign int, entries ...*Entry) error {
	type row struct {
		Box     int64           `json:"b"`
		Wall    numbers.Wall    `json:"w"`
		Day     int64           `json:"d"`
		Measure numbers.Measure `json:"m"`
		Detail  string          `json:"x"`
		Actor   Actor           `json:"a"`
		Person  int64           `json:"p"`
		N       int             `json:"n"`
		Hourly  bool            `json:"h"`
		Month   int64           `json:"o"`
		Only    bool            `json:"y"` // in the numbers of months
	}
	var rows []row
	for _, e := range entries {
		if e.Wall == 0 {
			continue // it was written before there were numbers, and will be counted as it stands then
		}
		person := int64(0)
		if e.Does() {
			person = e.PersonID
		}
		for _, c := range numbers.Tallies(e.Line()) {
			r := row{e.BoxID, e.Wall, e.Wall.Day(), c.Measure, c.Detail, e.Actor, person, sign * c.N, c.Measure.ByHour(), e.Wall.Month(), false}
			if rows = append(rows, r); c.Measure == numbers.Decided && e.Actor == ByPerson {
				r.Measure, r.Detail, r.Hourly, r.Only = numbers.Hours, e.Wall.InWeek(), false, true
				rows = append(rows, r)
			}
		}
	}
	if len(rows) == 0 {
		return nil
	}
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	const from = " ON CONFLICT DO UPDATE SET n = n + excluded.n"
	for _, q := range []string{
		"INSERT INTO hour_tallies(box_id, wall, measure, detail, actor, person_id, n) SELECT value->>'b', value->>'w', value->>'m', value->>'x', value->>'a', value->>'p', value->>'n' FROM json_each(?) j WHERE value->>'h'" + from,
		"INSERT INTO day_tallies(box_id, measure, day, detail, actor, person_id, n) SELECT value->>'b', value->>'m', value->>'d', value->>'x', value->>'a', value->>'p', value->>'n' FROM json_each(?) j WHERE NOT value->>'y'" + from,
		"INSERT INTO month_tallies(box_id, month, measure, detail, actor, n) SELECT value->>'b', value->>'o', value->>'m', value->>'x', value->>'a', value->>'n' FROM json_each(?) j WHERE true" + from,
	} {
		if err := t.db.Exec(q, string(raw)).Error; err != nil {
			return err
		}
	}
	return nil
}

// evening notes how many were left to decide after what somebody did, of entries that have been
// written just now.
func (t Journal) evening(entries []*Entry) error {
	left := map[int64]int{} // after all of them
	for i := len(entries) - 1; i >= 0; i-- {
		e := entries[i]
		if _, known := left[e.BoxID]; !known {
			n, err := Conversations(t).Left(e.BoxID)
			if err != nil {
				return err
			}
			left[e.BoxID] = n
		}
		if e.Does() {
			if err := t.Evening(*e, left[e.BoxID]); err != nil {
				return err
			}
		}
		left[e.BoxID] -= e.Delta
	}
	return nil
}

// Evening notes that so many were left after what somebody did, unless that is known of something
// later that day.
func (t Journal) Evening(e Entry, left int) error {
	return t.db.Exec("INSERT INTO evenings(box_id, day, at, entry_id, left_to_decide) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET at = excluded.at, entry_id = excluded.entry_id, left_to_decide = excluded.left_to_decide WHERE excluded.entry_id > entry_id",
		e.BoxID, e.Wall.Day(), e.At, e.ID, left).Error
}
