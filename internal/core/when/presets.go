package when

import "time"

// Preset is a time that is offered without being asked for.
type Preset struct {
	Name   string `json:"name"`
	Moment Moment `json:"moment"`
}

// Presets are the times offered to put something off to, earliest first, each
// computed from the parts of the day and the working days of w: the next part
// of today, tomorrow, the next working day if that is another one, next week,
// the last working day of this week, and next month. None lies less than half
// an hour ahead, and no two are the same.
func (w Week) Presets(now Instant) []Preset {
	loc := w.Location()
	today := midnight(now.In(loc))
	at := func(day time.Time, minutes int) Moment {
		return wallMoment(day.Add(time.Duration(minutes)*time.Minute), loc)
	}
	working := func(from time.Time) time.Time {
		for !w.Works(from.Weekday()) {
			from = from.AddDate(0, 0, 1)
		}
		return from
	}
	monday := today.AddDate(0, 0, 7-(int(today.Weekday())+6)%7)
	last := monday.AddDate(0, 0, -1)
	for !w.Works(last.Weekday()) {
		last = last.AddDate(0, 0, -1)
	}
	tomorrow := today.AddDate(0, 0, 1)
	month := addMonths(time.Date(today.Year(), today.Month(), 1, 0, 0, 0, 0, time.UTC), 1)
	offers := []Preset{
		{"midday", at(today, w.Midday)},
		{"evening", at(today, w.Evening)},
		{"tomorrow", at(tomorrow, w.Morning)},
		{"next workday", at(working(tomorrow), w.Morning)},
		{"week's end", at(last, w.Midday)},
		{"next week", at(working(monday), w.Morning)},
		{"next month", at(working(month), w.Morning)},
	}
	var out []Preset
	before := now + Instant(30*time.Minute/time.Millisecond)
	for _, o := range offers {
		if o.Moment.At >= before {
			out = append(out, o)
			before = o.Moment.At + 1
		}
	}
	return out
}

// MonthDay is the morning of the next day that has this number in its month,
// after now. A month without that day has its last one instead.
func (w Week) MonthDay(day int, now Instant) Moment {
	loc := w.Location()
	first := midnight(now.In(loc))
	first = first.AddDate(0, 0, 1-first.Day())
	for i := 0; ; i++ {
		month := first.AddDate(0, i, 0)
		d := month.AddDate(0, 0, min(day, month.AddDate(0, 1, -1).Day())-1)
		if m := wallMoment(d.Add(time.Duration(w.Morning)*time.Minute), loc); m.At > now {
			return m
		}
	}
}

// OnDay is m moved to the day, days after the one in which now falls, at the
// same wall-clock time; a Moment without one gets the morning.
func (w Week) OnDay(m Moment, days int, now Instant) Moment {
	loc := w.Location()
	day := midnight(now.In(loc)).AddDate(0, 0, days)
	minutes := w.Morning
	if t, err := time.Parse(wallTime, m.Local); err == nil {
		minutes = t.Hour()*60 + t.Minute()
	} else if m.At != 0 && m.Local == "" {
		t := m.At.In(loc)
		minutes = t.Hour()*60 + t.Minute()
	}
	return wallMoment(day.Add(time.Duration(minutes)*time.Minute), loc)
}
