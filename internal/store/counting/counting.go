// Package counting keeps what the lines of the journal come to: the running numbers, which are written
// with each line (store.Journal.Record), and sittings.
package counting

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Counted is what is asked of the running numbers, each of one box.
type Counted store.Tx

func (t Counted) db() *gorm.DB { return store.Tx(t).DB() }

// Uncounted gives the boxes with lines that were written before numbers were made of them.
func (t Counted) Uncounted() (boxes []int64, err error) {
	err = t.db().Raw("SELECT DISTINCT box_id FROM entries WHERE wall = 0 ORDER BY box_id").Scan(&boxes).Error
	return boxes, err
}

// Counting says that some lines of a box are still to be counted.
func (t Counted) Counting(box int64) (some bool, err error) {
	err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM entries WHERE box_id = ? AND wall = 0)", box).Scan(&some).Error
	return some, err
}

// Walk goes through the lines of a box from its first on, so that what was written before numbers were
// made of them is counted. Its zero value has gone through none.
type Walk struct {
	after int64
	left  int
	since map[int64]when.Instant // when each person had last done something
}

// place is what is noted of a line that is counted anew.
type place struct {
	ID      int64          `json:"id"`
	Wall    numbers.Wall   `json:"w"`
	Since   when.Instant   `json:"s"`
	Origins map[string]int `json:"o,omitempty"`
}

// Clone is a walk that goes on from where this one is, and leaves it there.
func (w Walk) Clone() Walk {
	w.since = maps.Clone(w.since)
	return w
}

// Go counts the next n lines; done says that there are no more.
func (w *Walk) Go(t store.Tx, box int64, n int) (done bool, err error) {
	var entries []*store.Entry
	if err := t.DB().Where("box_id = ? AND id > ?", box, w.after).Order("id").Limit(n).Find(&entries).Error; err != nil || len(entries) == 0 {
		return err == nil, err
	}
	loc, err := store.Journal(t).Zone(box)
	if err != nil {
		return false, err
	}
	if w.since == nil {
		w.since = map[int64]when.Instant{}
	}
	var counted []*store.Entry
	for _, e := range entries {
		if e.Wall == 0 {
			counted = append(counted, e)
		}
	}
	if err := store.Journal(t).Originate(counted); err != nil {
		return false, err
	}
	var placed []place
	for _, e := range entries {
		w.after = e.ID
		w.left += e.Delta
		if e.Wall == 0 {
			e.Wall = numbers.WallOf(e.At, loc)
			if e.Does() && len(e.Changes) > 0 {
				e.Since = w.since[e.PersonID]
			}
			placed = append(placed, place{e.ID, e.Wall, e.Since, e.Origins})
			if e.Does() {
				if err := store.Journal(t).Evening(*e, w.left); err != nil {
					return false, err
				}
			}
		}
		if e.Does() && (e.Step || e.TakenBack != 0) {
			w.since[e.PersonID] = e.At
		}
	}
	raw, _ := json.Marshal(placed) // numbers always can be
	if err := t.DB().Exec("UPDATE entries SET wall = j.value->>'w', since = j.value->>'s', origins = j.value->'o' FROM json_each(?) j WHERE entries.id = j.value->>'id'", string(raw)).Error; err != nil {
		return false, err
	}
	return len(entries) < n, store.Journal(t).Tally(1, counted...)
}

// Anew counts all lines of a box once more, of which there are few: they have become somebody's.
func Anew(t store.Tx, box int64) error {
	for _, q := range []string{"UPDATE entries SET wall = 0 WHERE box_id = ?", "DELETE FROM hour_tallies WHERE box_id = ?", "DELETE FROM day_tallies WHERE box_id = ?", "DELETE FROM month_tallies WHERE box_id = ?", "DELETE FROM evenings WHERE box_id = ?"} {
		if err := t.DB().Exec(q, box).Error; err != nil {
			return err
		}
	}
	var w Walk
	for done := false; !done; {
		var err error
		if done, err = w.Go(t, box, 2000); err != nil {
			return err
		}
	}
	return nil
}

// sum is a row of the running numbers.
type sum struct {
	Wall     numbers.Wall // by hour; 0 where it is by day
	Day      int64        // by day; 0 where it is by hour
	Measure  numbers.Measure
	Detail   string
	Actor    store.Actor
	PersonID int64
	N        int
}

// Daily gives what came and was decided on each of the days [from, to), at the first hour of its day.
func (t Counted) Daily(box, from, to int64) (out []numbers.Count, err error) {
	err = t.db().Raw("SELECT d.measure, d.day * 24 wall, d.detail, d.actor by, SUM(d.n) n FROM json_each(?) j CROSS JOIN day_tallies d ON d.box_id = ? AND d.measure = j.value AND d.day >= ? AND d.day < ? GROUP BY 1, 2, 3, 4 HAVING SUM(d.n) <> 0",
		measured(numbers.Came, numbers.Decided), box, from, to).Scan(&out).Error
	return out, err
}

// ByDay gives how many came, without what was imported, and were decided on each of the days [from, to), at
// the first hour of its day.
func (t Counted) ByDay(box, from, to int64) (out []numbers.Count, err error) {
	err = t.db().Raw("SELECT d.measure, d.day * 24 wall, SUM(d.n) n FROM json_each(?) j CROSS JOIN day_tallies d ON d.box_id = ? AND d.measure = j.value AND d.day >= ? AND d.day < ? WHERE d.detail <> ? GROUP BY 1, 2 HAVING SUM(d.n) <> 0",
		measured(numbers.Came, numbers.Decided), box, from, to, inbox.Import).Scan(&out).Error
	return out, err
}

func measured(all ...numbers.Measure) string {
	raw, _ := json.Marshal(all) // words always can be
	return string(raw)
}

// Sums gives what was counted of some measures on the days [from, to) in all: of whole months from the
// numbers of these, of the days before and after them from theirs.
func (t Counted) Sums(box, from, to int64, of ...numbers.Measure) (out []numbers.Count, err error) {
	first, end := numbers.Wall(from*24).Month(), numbers.Wall(to*24).Month()
	if numbers.DayOfMonth(first) < from {
		first++
	}
	if first >= end {
		return t.ofDays(box, from, to, of)
	}
	out, err = t.counts("SELECT d.measure, d.detail, d.actor, SUM(d.n) n FROM month_tallies d WHERE d.box_id = ? AND d.month >= ? AND d.month < ? AND d.measure IN (SELECT value FROM json_each(?)) GROUP BY 1, 2, 3 HAVING SUM(d.n) <> 0", box, first, end, measured(of...))
	for _, rest := range [][2]int64{{from, numbers.DayOfMonth(first)}, {numbers.DayOfMonth(end), to}} {
		if err != nil || rest[0] >= rest[1] {
			continue
		}
		var some []numbers.Count
		some, err = t.ofDays(box, rest[0], rest[1], of)
		out = append(out, some...)
	}
	return out, err
}

// ofDays gives that from the numbers of days.
func (t Counted) ofDays(box, from, to int64, of []numbers.Measure) (out []numbers.Count, err error) {
	out, err = t.counts("SELECT d.measure, d.detail, d.actor, SUM(d.n) n FROM json_each(?) j CROSS JOIN day_tallies d ON d.box_id = ? AND d.measure = j.value AND d.day >= ? AND d.day < ? GROUP BY 1, 2, 3 HAVING SUM(d.n) <> 0",
		measured(of...), box, from, to)
	if err != nil || !slices.Contains(of, numbers.Hours) {
		return out, err
	}
	hours, err := t.counts("SELECT ?, ((wall / 24 + 4) % 7) || ' ' || (wall % 24) detail, actor, SUM(n) n FROM hour_tallies WHERE box_id = ? AND measure = ? AND wall >= ? AND wall < ? AND actor = ? GROUP BY 2 HAVING SUM(n) <> 0",
		numbers.Hours, box, numbers.Decided, from*24, to*24, store.ByPerson)
	return append(out, hours...), err
}

// counts reads sums: their measure, detail, who acted, and how much.
func (t Counted) counts(q string, args ...any) (out []numbers.Count, err error) {
	rows, err := t.db().Raw(q, args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var c numbers.Count
		if err := rows.Scan(&c.Measure, &c.Detail, &c.By, &c.N); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// First is the first day of which anything is counted; known is false if nothing is.
func (t Counted) First(box int64) (day int64, known bool, err error) {
	raw, _ := json.Marshal(numbers.Measures) // words always can be
	var first *int64
	err = t.db().Raw("SELECT MIN((SELECT MIN(d.day) FROM day_tallies d WHERE d.box_id = ? AND d.measure = j.value)) FROM json_each(?) j", box, string(raw)).Scan(&first).Error
	if err != nil || first == nil {
		return 0, false, err
	}
	return *first, true, nil
}

// Evening is how many were left to decide after the last that somebody did on a day.
type Evening struct {
	BoxID        int64
	Day          int64
	At           when.Instant
	EntryID      int64
	LeftToDecide int
}

// Evenings gives those of the days [from, to): the day, and how many were left.
func (t Counted) Evenings(box, from, to int64) (out []numbers.Evening, err error) {
	rows, err := t.db().Raw("SELECT day, left_to_decide FROM evenings WHERE box_id = ? AND day >= ? AND day < ? ORDER BY day", box, from, to).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var e numbers.Evening
		if err := rows.Scan(&e.Day, &e.Left); err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, rows.Err()
}

// Wanted are the lines that a number counts.
type Wanted struct {
	Measure numbers.Measure
	Details []string              // any of these, or of Took the kinds of decisions; none: all
	By      string                // who acted; "": whoever
	From    int64                 // a day
	To      int64                 // the day after the last
	Weekday int                   // 0 is Sunday; -1: any
	Hour    int                   // of its day, of what is counted by the hour; -1: any
	Before  int64                 // lines before the one with that ID; 0: from the newest on
	Counts  func(store.Entry) int // how much a line does
}

// days are those on which there is anything of it, the newest first.
func (t Counted) days(box int64, w Wanted, n int) (days []int64, err error) {
	to := w.To
	if w.Before > 0 {
		var wall numbers.Wall
		if err := t.db().Raw("SELECT wall FROM entries WHERE id = ? AND box_id = ?", w.Before, box).Scan(&wall).Error; err != nil {
			return nil, err
		}
		to = min(to, wall.Day()+1)
	}
	table, day, per := "day_tallies", "day", int64(1)
	if w.Hour >= 0 {
		table, day, per = "hour_tallies", "wall / 24", 24
	}
	q := t.db().Table(table).Select("DISTINCT "+day+" AS day").Where("box_id = ? AND measure = ? AND n <> 0", box, w.Measure)
	if w.Hour >= 0 {
		q = q.Where("wall >= ? AND wall < ? AND wall % 24 = ?", w.From*per, to*per, w.Hour)
	} else {
		q = q.Where("day >= ? AND day < ?", w.From, to)
	}
	if w.Weekday >= 0 { // the first day of 1970 was a Thursday
		q = q.Where("("+day+" + 4) % 7 = ?", w.Weekday)
	}
	if w.By != "" {
		q = q.Where("actor = ?", w.By)
	}
	if len(w.Details) > 0 {
		raw, _ := json.Marshal(w.Details) // words always can be
		q = q.Where("EXISTS (SELECT 1 FROM json_each(?) k WHERE detail = k.value OR measure = 'took' AND substr(detail, 1, length(k.value) + 1) = k.value || ' ')", string(raw))
	}
	err = q.Order("day DESC").Limit(n).Scan(&days).Error
	return days, err
}

// Lines gives lines that a number counts, the newest first: at most n of them, or those of some days;
// more says that there are others. The running numbers say on which days there are any, so that what is
// rare is found as fast as what is not.
func (t Counted) Lines(box int64, w Wanted, n int) (out []store.Entry, more bool, err error) {
	const atOnce = 20 // days
	days, err := t.days(box, w, atOnce+1)
	if err != nil {
		return nil, false, err
	}
	for i, day := range days {
		if i == atOnce {
			return out, true, nil
		}
		// Nowhere is it more than 14 hours later than by UTC, or more than 12 earlier.
		begin, end := numbers.Wall(day*24), numbers.Wall(day*24+24)
		q := t.db().Where("box_id = ? AND at >= ? AND at < ? AND wall >= ? AND wall < ?", box, when.Instant(begin-14)*numbers.Hour, when.Instant(end+12)*numbers.Hour, begin, end)
		if w.Before > 0 {
			q = q.Where("+id < ?", w.Before)
		}
		if w.By != "" {
			q = q.Where("+actor = ?", w.By)
		}
		if len(w.Details) > 0 && (w.Measure == numbers.Decided || w.Measure == numbers.Undone) { // they are kinds of lines
			q = q.Where("kind IN ?", w.Details)
		}
		if out, more, err = t.page(q.Order("at DESC, id DESC"), w, out, n); more || err != nil {
			return out, more, err
		}
	}
	return out, false, nil
}

// page adds to lines what is wanted of others, until there are n; more says that there would be more. What
// comes after them is not read.
func (t Counted) page(q *gorm.DB, w Wanted, out []store.Entry, n int) (_ []store.Entry, more bool, err error) {
	rows, err := q.Model(&store.Entry{}).Rows()
	if err != nil {
		return out, false, err
	}
	defer rows.Close()
	for rows.Next() {
		var e store.Entry
		if err := t.db().ScanRows(rows, &e); err != nil {
			return out, false, err
		}
		if w.Counts(e) == 0 {
			continue
		}
		if len(out) == n {
			return out, true, nil
		}
		out = append(out, e)
	}
	return out, false, rows.Err()
}

// Check says where the running numbers differ from what the lines of the journal come to.
func (t Counted) Check() (wrong []string, err error) {
	return t.compared(t.differences, "%d running numbers of box %d are not what its journal comes to.")
}

// compared says in sentences, of a number and a box, where anything is otherwise.
func (t Counted) compared(differences func(box int64) (int, error), sentence string) (wrong []string, err error) {
	boxes, err := t.boxes()
	if err != nil {
		return nil, err
	}
	for _, box := range boxes {
		n, err := differences(box)
		if err != nil {
			return nil, err
		}
		if n > 0 {
			wrong = append(wrong, fmt.Sprintf(sentence, n, box))
		}
	}
	return wrong, nil
}

func (t Counted) boxes() (boxes []int64, err error) {
	err = t.db().Model(&store.Box{}).Order("id").Pluck("id", &boxes).Error
	return boxes, err
}

// differences counts the numbers of a box that are otherwise than its lines come to: the slow way.
func (t Counted) differences(box int64) (n int, err error) {
	hours, days, evenings, left := map[sum]int{}, map[sum]int{}, map[int64]Evening{}, 0
	var after int64
	for {
		var entries []store.Entry
		if err := t.db().Where("box_id = ? AND id > ?", box, after).Order("id").Limit(2000).Find(&entries).Error; err != nil {
			return 0, err
		}
		for _, e := range entries {
			after = e.ID
			left += e.Delta
			if e.Wall == 0 {
				continue // it will be counted
			}
			s := sum{Actor: e.Actor}
			if e.Does() {
				s.PersonID = e.PersonID
				evenings[e.Wall.Day()] = Evening{box, e.Wall.Day(), e.At, e.ID, left}
			}
			for _, c := range numbers.Tallies(e.Line()) {
				s.Measure, s.Detail = c.Measure, c.Detail
				if s.Wall, s.Day = e.Wall, 0; c.Measure.ByHour() {
					hours[s] += c.N
				}
				s.Wall, s.Day = 0, e.Wall.Day()
				days[s] += c.N
			}
		}
		if len(entries) < 2000 {
			break
		}
	}
	count := func(is map[sum]int, q string) error {
		var rows []sum
		if err := t.db().Raw(q, box).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			was := r.N
			r.N = 0
			if is[r] != was {
				n++
			}
			delete(is, r)
		}
		n += len(slices.DeleteFunc(slices.Collect(maps.Values(is)), func(n int) bool { return n == 0 }))
		return nil
	}
	if err := count(hours, "SELECT wall, measure, detail, actor, person_id, n FROM hour_tallies WHERE box_id = ?"); err != nil {
		return 0, err
	}
	if err := count(days, "SELECT day, measure, detail, actor, person_id, n FROM day_tallies WHERE box_id = ?"); err != nil {
		return 0, err
	}
	var is []Evening
	if err := t.db().Where("box_id = ?", box).Find(&is).Error; err != nil {
		return 0, err
	}
	for _, e := range is {
		if evenings[e.Day] != e {
			n++
		}
		delete(evenings, e.Day)
	}
	var months int
	err = t.db().Raw(`SELECT COUNT(*) FROM (SELECT month, measure, detail, actor, SUM(n) FROM (
			SELECT month, measure, detail, actor, n FROM month_tallies WHERE box_id = @box
			UNION ALL SELECT (strftime('%Y', day * 86400, 'unixepoch') - 1970) * 12 + strftime('%m', day * 86400, 'unixepoch') - 1, measure, detail, actor, -n FROM day_tallies WHERE box_id = @box
			UNION ALL SELECT (strftime('%Y', wall * 3600, 'unixepoch') - 1970) * 12 + strftime('%m', wall * 3600, 'unixepoch') - 1, 'hours', ((wall / 24 + 4) % 7) || ' ' || (wall % 24), actor, -n FROM hour_tallies WHERE box_id = @box AND measure = 'decided' AND actor = 'person')
		GROUP BY 1, 2, 3, 4 HAVING SUM(n) <> 0)`, map[string]any{"box": box}).Scan(&months).Error
	return n + len(evenings) + months, err
}
