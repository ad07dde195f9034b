package finding

import "ebbe/internal/core/when"

// kept is how many searches of a person are kept.
const kept = 30

// Recent gives what a person has looked for last, the newest first.
func (t Finding) Recent(person int64) (asked []string, err error) {
	asked = []string{}
	err = t.db().Raw("SELECT asked FROM searches WHERE person_id = ? ORDER BY at DESC, asked LIMIT ?", person, kept).Scan(&asked).Error
	return asked, err
}

// NoteSearch notes what a person has looked for, and forgets what is beyond the last.
func (t Finding) NoteSearch(person int64, asked string, at when.Instant) error {
	if err := t.db().Exec("INSERT INTO searches(person_id, asked, at) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET at = excluded.at", person, asked, at).Error; err != nil {
		return err
	}
	return t.db().Exec("DELETE FROM searches WHERE person_id = ? AND asked NOT IN (SELECT asked FROM searches WHERE person_id = ? ORDER BY at DESC, asked LIMIT ?)", person, person, kept).Error
}

// ForgetSearches forgets what a person has looked for.
func (t Finding) ForgetSearches(person int64) error {
	return t.db().Exec("DELETE FROM searches WHERE person_id = ?", person).Error
}
