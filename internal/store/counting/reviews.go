package counting

import (
	"database/sql"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Reviews is what a week in review is made of, and what was answered to what it offered.
type Reviews store.Tx

func (t Reviews) db() *gorm.DB { return store.Tx(t).DB() }

// Refused gives what a person has refused in a box, and with "" when they have last looked at a review.
func (t Reviews) Refused(box, person int64) (map[string]when.Instant, error) {
	var rows []struct {
		Offer string
		At    when.Instant
	}
	err := t.db().Raw("SELECT offer, at FROM refused WHERE box_id = ? AND person_id = ?", box, person).Scan(&rows).Error
	out := map[string]when.Instant{}
	for _, r := range rows {
		out[r.Offer] = r.At
	}
	return out, err
}

// Looked is when a person has last looked at a review in a box; 0 if never.
func (t Reviews) Looked(box, person int64) (at when.Instant, err error) {
	err = t.db().Raw("SELECT COALESCE((SELECT at FROM refused WHERE box_id = ? AND person_id = ? AND offer = ''), 0)", box, person).Scan(&at).Error
	return at, err
}

// Refuse notes that a person refuses an offer, or with "" that they have looked.
func (t Reviews) Refuse(box, person int64, offer string, at when.Instant) error {
	return t.db().Exec("INSERT INTO refused(box_id, person_id, offer, at) VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET at = excluded.at", box, person, offer, at).Error
}

// Often is a conversation that was snoozed again and again.
type Often struct {
	ConversationID int64
	Title          string
	Times          int
}

// SnoozedOften gives n of what is in the inbox or snoozed and was snoozed more than twice, the most often
// first.
func (t Reviews) SnoozedOften(box int64, n int) (out []Often, err error) {
	err = t.db().Raw(`SELECT id conversation_id, COALESCE(NULLIF(title, ''), subject) title, snoozes times
		FROM conversations WHERE box_id = ? AND snoozes > 2 AND place IN ('inbox', 'snoozed') ORDER BY snoozes DESC, id LIMIT ?`, box, n).Scan(&out).Error
	return out, err
}

// Wait is that the reader waits for somebody, or waited.
type Wait struct {
	UID        string
	Person     string // an address
	PersonName string
	Open       bool
	Since      when.Instant // 0: no longer
	Was        when.Instant // since when, of a wait that ended
	Ended      when.Instant // 0: it did not, or nobody was waited for
	Asked      int          // how often they were asked again
}

// Waits gives those of a box that still are, and n at most of the follow-ups that were finished since then.
func (t Reviews) Waits(box int64, since when.Instant, n int) (out []Wait, err error) {
	const of = "SELECT uid, person, COALESCE(person_name, '') name, open, data->'waits' waits FROM follow_ups"
	rows, err := t.db().Raw("SELECT * FROM ("+of+" WHERE box_id = @box AND NOT open AND finished >= @since AND person <> '' ORDER BY finished DESC LIMIT @n) UNION ALL "+of+" WHERE box_id = @box AND open AND person <> ''",
		map[string]any{"box": box, "since": since, "n": n}).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var w Wait
		var waits struct{ Since, Was, Ended, Asked int64 }
		var raw sql.RawBytes
		if err := rows.Scan(&w.UID, &w.Person, &w.PersonName, &w.Open, &raw); err != nil {
			return nil, err
		}
		if !strings.Contains(w.Person, "@") || len(raw) == 0 {
			continue // it names somebody whose address nobody knows
		}
		if err := json.Unmarshal(raw, &waits); err != nil {
			return nil, err
		}
		w.Since, w.Was, w.Ended, w.Asked = when.Instant(waits.Since), when.Instant(waits.Was), when.Instant(waits.Ended), int(waits.Asked)
		out = append(out, w)
	}
	return out, rows.Err()
}

// Delivered gives by the minute of the day at which rounds came in [from, to) on how many days they brought
// something.
func (t Reviews) Delivered(box int64, from, to when.Instant, loc *time.Location) (map[int]int, error) {
	var at []when.Instant
	if err := t.db().Model(&store.Entry{}).Where("box_id = ? AND at >= ? AND at < ? AND kind = ? AND count > 0", box, from, to, inbox.Deliver).Pluck("at", &at).Error; err != nil {
		return nil, err
	}
	days := map[int]map[int64]bool{}
	for _, a := range at {
		t := a.In(loc)
		m := t.Hour()*60 + t.Minute()
		if days[m] == nil {
			days[m] = map[int64]bool{}
		}
		days[m][numbers.WallOf(a, loc).Day()] = true
	}
	out := map[int]int{}
	for m, d := range days {
		out[m] = len(d)
	}
	return out, nil
}
