package store

import (
	"embed"
	"encoding/json"
	"io/fs"
	"path"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
)

// versions holds the versions of the schema, a file for each: the statements that
// bring the one before to it. A file that has been on anybody's machine is never
// changed again; a change is a new file. testdata holds a full database of each
// version, as the program of its time wrote it.
//
//go:embed schema/*.sql
var versions embed.FS

// migrations bring a database from any version to this one, each in one
// transaction.
func migrations() (out []*gormigrate.Migration) {
	files, _ := fs.Glob(versions, "schema/*.sql") // the pattern is right
	for _, f := range files {
		out = append(out, &gormigrate.Migration{ID: strings.TrimSuffix(path.Base(f), ".sql"), Migrate: func(db *gorm.DB) error {
			text, err := versions.ReadFile(f)
			if err != nil {
				return err
			}
			for q := range strings.SplitSeq(string(text), "\n\n") { // between empty lines stands one statement, or a comment
				if !isComment(q) {
					if err := db.Exec(q).Error; err != nil {
						return err
					}
				}
			}
			return nil
		}})
	}
	return out
}

func isComment(text string) bool {
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "--") {
			return false
		}
	}
	return true
}

// afterwards is what a migration leaves to be done by the program, on the newest
// schema, by the name under which it notes that.
var afterwards = map[string]func(Tx) error{
	"afterwards: readdress":    Tx.readdressAll,
	"afterwards: follow-ups":   Tx.takeOverFollowUps,
	"afterwards: hash secrets": Tx.hashSecrets,
}

// finish does what migrations have left to be done.
func (t Tx) finish() error {
	for name, do := range afterwards {
		noted, err := t.Meta(name)
		if err == nil && noted != "" {
			err = do(t)
			if err == nil {
				err = t.db.Delete(&Meta{Name: name}).Error
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// takeOverFollowUps stores the follow-ups of before there were stages.
func (t Tx) takeOverFollowUps() error {
	var old []struct {
		BoxID int64
		Data  followup.FollowUp `gorm:"serializer:json"`
	}
	if err := t.db.Table("follow_ups_before").Find(&old).Error; err != nil {
		return err
	}
	for _, f := range old {
		if err := FollowUps(t).PutFollowUps(f.BoxID, []followup.FollowUp{f.Data}); err != nil {
			return err
		}
	}
	return t.db.Exec("DROP TABLE follow_ups_before").Error
}

// hashSecrets puts hashes in place of the secrets that were kept as they are.
func (t Tx) hashSecrets() error {
	var people []struct {
		ID           int64
		Feed, Inward string
	}
	if err := t.db.Table("people").Select("id, feed, inward").Find(&people).Error; err != nil {
		return err
	}
	for _, p := range people {
		for column, value := range map[string]string{"feed": p.Feed, "inward": p.Inward} {
			if value != "" && len(value) != 64 {
				if err := t.db.Exec("UPDATE people SET "+column+" = ? WHERE id = ?", HashOf(value), p.ID).Error; err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// readdressAll computes all of that anew for all boxes.
func (t Tx) readdressAll() error {
	var boxes []int64
	err := t.db.Model(&Box{}).Pluck("id", &boxes).Error
	for _, box := range boxes {
		if err == nil {
			err = t.readdress(box)
		}
	}
	return err
}

// readdress computes anew how directly each conversation of a box is addressed
// to its reader, and at which of the reader's addresses.
func (t Tx) readdress(box int64) error {
	addresses, err := People(t).OwnAddresses(box)
	if err != nil {
		return err
	}
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	for last := int64(0); ; {
		var rows []struct {
			ID      int64
			Kind    mail.Kind
			Account string
			Reach   mail.Reach
			Rank    int
			To      []mail.Address `gorm:"serializer:json"`
			Cc      []mail.Address `gorm:"serializer:json"`
		}
		err := t.db.Raw(`SELECT c.id, c.kind, c.account, c.reach, c.rank, m."to", m.cc FROM conversations c JOIN messages m ON m.id =
			(SELECT x.id FROM messages x WHERE x.conversation_id = c.id ORDER BY x.own, x.date DESC LIMIT 1)
			WHERE +c.box_id = ? AND c.id > ? AND c.merged_to = 0 ORDER BY c.id LIMIT 1000`, box, last).Scan(&rows).Error // by ID, not by an index of the box
		if err != nil || len(rows) == 0 {
			return err
		}
		type changed struct {
			ID      int64      `json:"id"`
			Account string     `json:"account"`
			Reach   mail.Reach `json:"reach"`
			Rank    int        `json:"rank"`
		}
		var changes []changed
		for _, r := range rows {
			last = r.ID
			reach, account := mail.ReachOf(r.To, r.Cc, own)
			rank := inbox.Rank(r.Kind, reach)
			if reach != r.Reach || account != r.Account || rank != r.Rank {
				changes = append(changes, changed{r.ID, account, reach, rank})
			}
		}
		raw, err := json.Marshal(changes)
		if err == nil {
			err = t.db.Exec(`UPDATE conversations SET account = j.value->>'account', reach = j.value->>'reach', rank = j.value->>'rank'
				FROM json_each(?) j WHERE conversations.id = j.value->>'id'`, string(raw)).Error
		}
		if err != nil {
			return err
		}
	}
}
