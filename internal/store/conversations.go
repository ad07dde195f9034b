package store

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Conversation is what the box knows of a conversation; what is personal about
// it is in Mark. Place to ReturnZone are inbox.Position, column by column.
type Conversation struct {
	ID          int64
	BoxID       int64
	Place       inbox.Place
	Reason      inbox.Reason
	Since       when.Instant
	SnoozedAt   when.Instant
	Snoozes     int
	ReturnAt    when.Instant
	ReturnLocal string
	ReturnZone  string
	Until       inbox.Until
	Site        int64
	Round       when.Instant

	Title  string       // what the reader calls it
	Note   string       // the reader's note on it
	Labels inbox.Labels // which are on it; ConversationLabel follows from this

	Subject  string
	Base     string // mail.BaseSubject
	LastAt   when.Instant
	FirstAt  when.Instant
	Messages int
	Files    int
	Kind     mail.Kind
	FromName string // who wrote last, the reader aside
	FromAddr string
	OwnLast  bool   // the reader wrote the last message
	MergedTo int64  // the conversation that has taken this one in, or 0
	Apart    bool   // it was parted from another: no message joins it to one again by itself
	Account  string // the own address at which the last message came, if it was named
	Reach    mail.Reach
	Rank     int    // inbox.Rank
	Size     int    // bytes of all messages
	Begins   string // what who wrote last, the reader aside, begins with; mail.Begins

	Importance int        // in thousandths; 0: never weighed. sorting.Weighed
	Because    string     // why; sorting.Reasons, as they are written
	Said       inbox.Kind // what the reader has said of it
	Silent     bool       // inbox.Conversation.Silent
	Stream     string     // inbox.Conversation.Stream
	Kept       bool       // inbox.Conversation.Kept
	Traits     search.Traits
}

// Mark is what is personal about a conversation.
type Mark struct {
	PersonID       int64 `gorm:"primaryKey;autoIncrement:false"`
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	Unread         bool
	Starred        bool
	Looks          int
}

// Ref says to which conversation a Message-ID belongs, be it known or only
// referred to.
type Ref struct {
	BoxID          int64  `gorm:"primaryKey;autoIncrement:false"`
	MessageID      string `gorm:"primaryKey"`
	ConversationID int64
}

// Conversations is what is asked and stored about conversations, and what decisions change.
type Conversations Tx

// Refs says to which conversations the Message-IDs belong.
func (t Conversations) Refs(box int64, ids []string) (map[string]int64, error) {
	found := map[string]int64{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Ref
		if err := t.db.Where("box_id = ? AND message_id IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			found[r.MessageID] = r.ConversationID
		}
	}
	return found, nil
}

// ByBase gives the newest conversations with that base subject.
func (t Conversations) ByBase(box int64, base string) (rows []Conversation, err error) {
	err = t.db.Where("box_id = ? AND base = ? AND merged_to = 0", box, base).Order("last_at DESC").Limit(5).Find(&rows).Error
	return rows, err
}

// ConversationRows loads conversations of a box by ID, merged ones included.
func (t Conversations) ConversationRows(box int64, ids []int64) (map[int64]*Conversation, error) {
	out := map[int64]*Conversation{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Conversation
		if err := t.db.Where("box_id = ? AND id IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for i := range rows {
			out[rows[i].ID] = &rows[i]
		}
	}
	return out, nil
}

// Marks loads what a person has marked about conversations.
func (t Conversations) Marks(person int64, ids []int64) (map[int64]*Mark, error) {
	out := map[int64]*Mark{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Mark
		if err := t.db.Where("person_id = ? AND conversation_id IN ?", person, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for i := range rows {
			out[rows[i].ConversationID] = &rows[i]
		}
	}
	return out, nil
}

// Merged says which of the conversations have become part of others.
func (t Conversations) Merged(box int64, ids []int64) (map[int64]bool, error) {
	out := map[int64]bool{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var found []int64
		if err := t.db.Model(&Conversation{}).Where("+box_id = ? AND id IN ? AND merged_to > 0", box, chunk).Pluck("id", &found).Error; err != nil {
			return nil, err
		}
		for _, id := range found {
			out[id] = true
		}
	}
	return out, nil
}

// Resolve follows a conversation that has become part of another one.
func (t Conversations) Resolve(box, id int64) (int64, error) {
	for range 20 {
		var c Conversation
		if err := sqlite.Plain(t.db.Select("id", "merged_to").Where("box_id = ? AND id = ?", box, id).Take(&c).Error); err != nil {
			return 0, err
		}
		if c.MergedTo == 0 {
			return id, nil
		}
		id = c.MergedTo
	}
	return 0, ErrNotFound
}

// Opened is a conversation that a person opens: the one into which it was joined, if it was.
// It returns ErrNotFound, also for one that is held.
func (t Conversations) Opened(box, person, id int64) (row Row, err error) {
	if id, err = t.Resolve(box, id); err != nil {
		return row, err
	}
	if row, err = t.RowByID(box, person, id); err == nil && row.Place == inbox.Held {
		err = ErrNotFound
	}
	return row, err
}

// Adopt makes the mail of a box a person's: messages from their addresses
// become sent ones, conversations nobody else wrote in leave the inbox, and
// what was marked before anybody was set up is theirs.
func (t Conversations) Adopt(box, person int64, now when.Instant) error {
	for _, q := range []string{
		"UPDATE messages SET own = 1, held = '' WHERE box_id = @box AND NOT own AND from_addr IN (SELECT address FROM own_addresses WHERE person_id = @person)",
		"UPDATE conversations SET traits = traits | @own WHERE box_id = @box AND id IN (SELECT conversation_id FROM messages WHERE box_id = @box AND own AND from_addr IN (SELECT address FROM own_addresses WHERE person_id = @person))",
		`UPDATE conversations SET place = 'archived', since = @now WHERE box_id = @box AND place IN ('inbox', 'held')
			AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = conversations.id AND NOT m.own)`,
		"UPDATE OR IGNORE marks SET person_id = @person WHERE person_id = 0",
		"UPDATE entries SET person_id = @person WHERE person_id = 0 AND box_id = @box",
		"DELETE FROM correspondents WHERE box_id = @box AND address IN (SELECT address FROM own_addresses WHERE person_id = @person)",
	} {
		if err := t.db.Exec(q, map[string]any{"box": box, "person": person, "now": now, "own": search.Own}).Error; err != nil {
			return err
		}
	}
	return Tx(t).readdress(box)
}

// OnlyFrom gives the conversations in a place of a box in which nobody has written
// but the owner of these addresses and the members of the box.
func (t Conversations) OnlyFrom(box int64, p inbox.Place, addresses []string) (ids []int64, err error) {
	err = t.db.Raw(`SELECT id FROM conversations c WHERE box_id = ? AND place = ? AND merged_to = 0
		AND EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = c.id AND m.from_addr IN ?)
		AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = c.id AND NOT m.own AND m.from_addr NOT IN ?)`, box, p, addresses, addresses).Scan(&ids).Error
	return ids, err
}

// Disown makes messages from an address those of somebody else again, whom the
// members of the box may have written to.
func (t Conversations) Disown(box int64, address string) error {
	for _, q := range []string{
		"UPDATE messages SET own = 0 WHERE box_id = @box AND own AND from_addr = @address",
		`INSERT OR REPLACE INTO correspondents(box_id, address, name, received, sent, first_at, last_at, answered_at)
			SELECT @box, @address, MAX(from_name), SUM(NOT own), SUM(own), MIN(date), MAX(date), MAX(own * date)
			FROM (SELECT CASE WHEN own THEN '' ELSE from_name END from_name, own, date FROM messages
				WHERE box_id = @box AND held = '' AND (from_addr = @address OR own AND EXISTS (SELECT 1 FROM json_each("to") a WHERE a.value->>'address' = @address)))
			HAVING COUNT(*) > 0`,
	} {
		if err := t.db.Exec(q, map[string]any{"box": box, "address": address}).Error; err != nil {
			return err
		}
	}
	return Tx(t).readdress(box)
}

// NextIDs gives the first free IDs of conversations and messages; they are
// free until the end of the transaction.
func (t Conversations) NextIDs() (conversation, message int64, err error) {
	if err = t.db.Raw("SELECT COALESCE(MAX(id), 0) + 1 FROM conversations").Scan(&conversation).Error; err == nil {
		err = t.db.Raw("SELECT COALESCE(MAX(id), 0) + 1 FROM messages").Scan(&message).Error
	}
	return conversation, message, err
}

// SubjectsFrom gives the subjects of what is in the inbox from an address.
func (t Conversations) SubjectsFrom(box int64, address string) (rows []Conversation, err error) {
	err = Search(t).Matching(box, 0, search.Query{Place: inbox.Inbox, From: address}, false).Select("c.id, c.subject").Order("c.since DESC, c.id DESC").Scan(&rows).Error
	return rows, err
}

// Left is how many conversations of a box are left to decide: the sum of its
// journal, which is what is in the inbox.
func (t Conversations) Left(box int64) (n int, err error) {
	err = t.db.Raw("SELECT COALESCE((SELECT left_to_decide FROM balances WHERE box_id = ?), 0)", box).Row().Scan(&n)
	return n, err
}

// CountPlace counts the conversations in a place.
func (t Conversations) CountPlace(box int64, p inbox.Place) (int, error) {
	var n int64
	err := t.db.Model(&Conversation{}).Where("box_id = ? AND place = ?", box, p).Count(&n).Error
	return int(n), err
}

// Later gives up to n snoozed conversations in the order of their return; those
// without a time come last.
func (t Conversations) Later(box, person int64, after *Cursor, n int) (rows []Row, err error) {
	q := Search(t).Matching(box, person, search.Query{Place: inbox.Snoozed}, true).Select(rowColumns)
	if after != nil && after.At > 0 {
		q = q.Where("((c.return_at, c.id) > (?, ?) OR c.return_at = 0)", after.At, after.ID)
	} else if after != nil {
		q = q.Where("c.return_at = 0 AND c.id > ?", after.ID)
	}
	return scanRows(q.Order("c.return_at = 0, c.return_at, c.id").Limit(n))
}

// RowByID loads one conversation as a person sees it.
func (t Conversations) RowByID(box, person, id int64) (Row, error) {
	rows, err := scanRows(t.db.Table("conversations c").Select(rowColumns).
		Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
		Where("+c.box_id = ? AND c.id = ?", box, id))
	if err == nil && len(rows) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Row{}, err
	}
	return rows[0], nil
}

// Names gives what conversations are called, and where they are.
func (t Conversations) Names(box int64, ids []int64) (map[int64]Conversation, error) {
	out := map[int64]Conversation{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Conversation
		if err := t.db.Select("id, place, title, subject, from_name, from_addr").Where("+box_id = ? AND id IN ? AND merged_to = 0", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ID] = r
		}
	}
	return out, nil
}

// State is what decisions change about the conversation, with its mark.
func (c Conversation) State(m Mark) inbox.Conversation {
	return inbox.Conversation{ID: c.ID, Position: c.Position(), Unread: m.Unread, Starred: m.Starred, Looks: m.Looks, Title: c.Title, Note: c.Note, Labels: c.Labels, Said: c.Said, Silent: c.Silent, Stream: c.Stream, Kept: c.Kept}
}

// Position reads the inbox.Position out of the row.
func (c Conversation) Position() inbox.Position {
	return inbox.Position{Place: c.Place, Reason: c.Reason, Since: c.Since, SnoozedAt: c.SnoozedAt, Snoozes: c.Snoozes,
		Return: when.Moment{At: c.ReturnAt, Local: c.ReturnLocal, Zone: c.ReturnZone}, Until: c.Until, Site: c.Site, Round: c.Round}
}

// SetPosition writes the inbox.Position into the row.
func (c *Conversation) SetPosition(p inbox.Position) {
	c.Place, c.Reason, c.Since, c.SnoozedAt, c.Snoozes = p.Place, p.Reason, p.Since, p.SnoozedAt, p.Snoozes
	c.ReturnAt, c.ReturnLocal, c.ReturnZone = p.Return.At, p.Return.Local, p.Return.Zone
	c.Until, c.Site, c.Round = p.Until, p.Site, p.Round
}
