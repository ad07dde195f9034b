package main

import (
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"time"

	_ "github.com/mattn/go-sqlite3" // the rows are written as they are, which no program would do
)

// years measures each screen of Numbers at so many messages, as many decisions and ten years, beside a
// request that reads next to nothing.
func years(dir string, messages int) {
	data := filepath.Join(dir, "years")
	if _, err := os.Stat(filepath.Join(data, "filled")); err != nil {
		mbox := filepath.Join(dir, "years.mbox")
		generate(mbox, 50, 5, "y")
		importing("import of a few", 50, mbox, "--data", data)
		s := start(data)
		s.signIn()
		s.stop()
		begun := time.Now()
		fill(filepath.Join(data, "ebbe.db"), messages)
		fmt.Printf("%d messages of ten years were written in %.0f s\n", messages, time.Since(begun).Seconds())
		check(os.WriteFile(filepath.Join(data, "filled"), nil, 0o600))
	}
	s := start(data)
	defer s.stop()
	s.signIn()
	today := time.Now().UTC()
	stretch := func(from, to time.Time) string {
		return "from=" + from.Format(time.DateOnly) + "&to=" + to.Format(time.DateOnly)
	}
	monday := today.AddDate(0, 0, -(int(today.Weekday())+6)%7)
	quarter := time.Date(today.Year(), (today.Month()-1)/3*3+1, 1, 0, 0, 0, 0, time.UTC)
	january := time.Date(today.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
	year := stretch(january, january.AddDate(1, 0, -1)) // as the screen asks for it
	get := func(name, path string) { s.p95(name, 100, func(int) { s.call("GET", path, nil, nil) }) }
	get("floor: who is signed in", "/session")
	s.p95("floor: a loop that only counts, as this machine is now", 100, func(int) { _ = count(10_000_000) })
	s.p95("what is learned once a day, for the weeks ahead", 1, func(int) { s.call("GET", "/figures/ahead", nil, nil) })
	for _, s := range [][2]string{{"a day", stretch(today, today)}, {"a week", stretch(monday, monday.AddDate(0, 0, 6))}, {"a quarter", stretch(quarter, quarter.AddDate(0, 3, -1))}, {"a year", year}} {
		get("numbers of "+s[0], "/figures?"+s[1])
		get("answers of "+s[0], "/figures/answers?"+s[1])
	}
	get("answers of a year, by label", "/figures/answers?by=label&"+year)
	get("a day beside the usual", "/figures/day?date="+today.Format(time.DateOnly))
	get("the list behind a number of a year", "/figures/lines?measure=decided&details=archive&"+year)
	get("the list behind answers of a year", "/figures/answers/lines?own=1&"+year)
	get("the table of people", "/figures/people")
	get("somebody’s page", "/person?address="+url.QueryEscape("w7@x.example"))
	get("the weeks ahead", "/figures/ahead?off="+today.AddDate(0, 0, 5).Format(time.DateOnly))
	get("a week in review", "/review")
	get("digging out", "/dig")
}

// count counts.
func count(n int) (sum int) {
	for i := range n {
		sum ^= i * i
	}
	return sum
}

// fill writes so many messages over ten years until now, three to a conversation, each decided once, a
// quarter of them between people who answer.
func fill(path string, messages int) {
	db := must(sql.Open("sqlite3", path+"?_journal_mode=WAL&_synchronous=OFF"))
	defer db.Close()
	n := messages / 3
	now := time.Now().UnixMilli()
	begun := now - 3650*24*3_600_000
	step := (now - begun) / int64(n)
	for _, q := range []string{
		fmt.Sprintf("CREATE TABLE filling AS WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < %d) SELECT i, 1000000 + i id, %d + i * %d at, 'w' || (i %% 997) || '@x.example' who, CASE WHEN i %% 4 = 0 THEN 'person' WHEN i %% 4 = 1 THEN 'list' ELSE 'notice' END kind FROM c", n, begun, step),
		`INSERT INTO conversations(id, box_id, place, reason, since, return_at, until, site, subject, base, last_at, first_at, messages, kind, from_addr, from_name, merged_to, labels, title, note)
			SELECT id, 1, CASE WHEN i % 700 = 0 THEN 'inbox' ELSE 'archived' END, 'arrived', at, 0, '', 0, 'S' || i, 's' || i, at + 18000000, at, 3, kind, who, 'W', 0, '', '', '' FROM filling`,
		`INSERT INTO messages(id, box_id, hash, message_id, conversation_id, date, received, subject, from_name, from_addr, kind, own, size, held, through, let_in)
			SELECT id * 3 + k.j, 1, randomblob(32), 'm' || (id * 3 + k.j), id, at + k.j * 9000000, at, 'S' || i, 'W', who, kind, k.j = 1 AND kind = 'person', 3000, '', '', 0 FROM filling, (SELECT 0 j UNION SELECT 1 UNION SELECT 2) k`,
		`INSERT OR REPLACE INTO correspondents(box_id, address, name, received, sent, first_at, last_at, answered_at) SELECT 1, who, 'W ' || who, COUNT(*) * 2, COUNT(*), MIN(at), MAX(at), MAX(at) FROM filling GROUP BY who`,
		`INSERT INTO entries(box_id, person_id, actor, kind, at, delta, count, conversation_id, step, taken_back, sitting_id, text, since, wall, changes)
			SELECT 1, 1, 'person', CASE i % 3 WHEN 0 THEN 'archive' WHEN 1 THEN 'bin' ELSE 'snooze' END, at + k.j * 60000 + 3600000, 0, 1, id, 1, 0, 0, 'S' || i, at + k.j * 60000 + 3600000 - 7000, (at + 3600000 + k.j * 60000) / 3600000,
				'[{"before":{"id":' || id || ',"place":"inbox","since":' || at || '},"after":{"id":' || id || ',"place":"archived"}}]' FROM filling, (SELECT 0 j UNION SELECT 1 UNION SELECT 2) k`,
		`INSERT OR REPLACE INTO hour_tallies(box_id, measure, wall, detail, actor, person_id, n) SELECT 1, m.x, wall, CASE m.x WHEN 'came' THEN 'arrive' ELSE kind END, CASE m.x WHEN 'came' THEN 'mail' ELSE 'person' END, CASE m.x WHEN 'came' THEN 0 ELSE 1 END, COUNT(*) FROM entries, (SELECT 'came' x UNION SELECT 'decided') m WHERE box_id = 1 GROUP BY 2, 3, 4`,
		`INSERT OR REPLACE INTO day_tallies(box_id, measure, day, detail, actor, person_id, n) SELECT 1, m.x, wall / 24, CASE m.x WHEN 'took' THEN kind || ' ' || (1 + id % 60) WHEN 'stood' THEN (id % 23) || 'h' WHEN 'became' THEN 'people ' || kind WHEN 'decided' THEN kind ELSE '' END, 'person', 1, COUNT(*)
			FROM entries, (SELECT 'took' x UNION SELECT 'stood' UNION SELECT 'became' UNION SELECT 'looked' UNION SELECT 'at-first' UNION SELECT 'decided') m WHERE box_id = 1 GROUP BY 2, 3, 4`,
		`INSERT OR REPLACE INTO evenings(box_id, day, at, entry_id, left_to_decide) SELECT 1, wall / 24, MAX(at), MAX(id), MAX(id) % 3 FROM entries WHERE box_id = 1 GROUP BY 2`,
		`INSERT OR REPLACE INTO month_tallies(box_id, month, measure, detail, actor, n) SELECT box_id, (strftime('%Y', day * 86400, 'unixepoch') - 1970) * 12 + strftime('%m', day * 86400, 'unixepoch') - 1, measure, detail, actor, SUM(n) FROM day_tallies GROUP BY 1, 2, 3, 4, 5`,
		`DELETE FROM stale_answers`,
		`INSERT INTO answers(box_id, conversation_id, address, own, asked, answered, at)
			SELECT 1, id, who, k.j <> 1, at + k.j * 9000000, CASE k.j WHEN 2 THEN 0 ELSE at + (k.j + 1) * 9000000 END, at + min(k.j + 1, 2) * 9000000 FROM filling, (SELECT 0 j UNION SELECT 1 UNION SELECT 2) k WHERE kind = 'person'`,
		`INSERT INTO openings(conversation_id, box_id, at, own) SELECT id, 1, at, i % 12 = 0 FROM filling WHERE kind = 'person'`,
		`INSERT INTO labels(id, box_id, name, color, mark) VALUES (7000, 1, 'loans', 'tide', 'dot')`,
		`INSERT INTO conversation_labels(label_id, conversation_id) SELECT 7000, id FROM filling WHERE i % 8 = 0`,
		fmt.Sprintf(`INSERT INTO follow_ups(box_id, uid, open, due_at, stage, project, person, context, priority, conversation_id, finished, card, rev, minutes, data)
			SELECT 1, 'u' || i, at > %d, at + 864000000, 'todo', 'p' || (i %% 20), who, '', 5, id, CASE WHEN at > %d THEN 0 ELSE at + 500000000 END, 0, i, 30,
				json_object('uid', 'u' || i, 'title', 'F' || i, 'status', CASE WHEN at > %d THEN 'NEEDS-ACTION' ELSE 'COMPLETED' END, 'priority', 5, 'due', json_object('at', at + 864000000), 'start', json_object('at', 0), 'with', json_object('address', who), 'waits', json_object(), 'made', at, 'effort', 30,
				'finished', CASE WHEN at > %d THEN 0 ELSE at + 500000000 END, 'conversation', id, 'message', '', 'card', json('false')) FROM filling WHERE i %% 30 = 0`, now-20*24*3_600_000, now-20*24*3_600_000, now-20*24*3_600_000, now-20*24*3_600_000),
		`DROP TABLE filling`,
		`DELETE FROM stale_documents`,
		`ANALYZE`,
	} {
		begun := time.Now()
		if _, err := db.Exec(q); err != nil {
			panic(fmt.Errorf("%w in %.200s", err, q))
		}
		if took := time.Since(begun); took > 5*time.Second {
			fmt.Printf("  %.0f s: %.50s…\n", took.Seconds(), q)
		}
	}
}
