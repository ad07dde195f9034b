package store

import "ebbe/internal/store/sqlite"

// Label is a label of a box. Labels nest by their parents.
type Label struct {
	ID     int64
	BoxID  int64
	Parent int64
	Name   string
	Color  string
	Mark   string
	Gone   bool // deleted; kept so that taking that back finds it
}

// ConversationLabel says that a label is on a conversation. It follows from
// Conversation.Labels.
type ConversationLabel struct {
	LabelID        int64 `gorm:"primaryKey;autoIncrement:false"`
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Labels is what is asked and stored about labels.
type Labels Tx

// Labels gives the labels of a box, the deleted ones only if asked for.
func (t Labels) Labels(box int64, gone bool) (labels []Label, err error) {
	err = t.db.Where("box_id = ? AND (NOT gone OR ?)", box, gone).Order("name COLLATE NOCASE, id").Find(&labels).Error
	return labels, err
}

// PutLabel stores a label, new or changed.
func (t Labels) PutLabel(l *Label) error { return sqlite.Put(t.db, l, l.ID) }

// LabelCounts says on how many conversations each label of a box is.
func (t Labels) LabelCounts(box int64) (map[int64]int, error) {
	var rows []struct {
		ID int64
		N  int
	}
	err := t.db.Raw("SELECT label_id id, COUNT(*) n FROM conversation_labels WHERE label_id IN (SELECT id FROM labels WHERE box_id = ?) GROUP BY label_id", box).Scan(&rows).Error
	counts := map[int64]int{}
	for _, r := range rows {
		counts[r.ID] = r.N
	}
	return counts, err
}

// LabeledWith gives the conversations that carry one of the labels.
func (t Labels) LabeledWith(labels []int64) (ids []int64, err error) {
	err = t.db.Model(&ConversationLabel{}).Where("label_id IN ?", labels).Distinct().Order("conversation_id").Pluck("conversation_id", &ids).Error
	return ids, err
}
