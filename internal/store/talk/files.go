package talk

import (
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// CommentFile is a file that somebody of a team added to a comment.
type CommentFile struct {
	ID        int64
	BoxID     int64
	PersonID  int64 // who added it
	CommentID int64 // 0: it is not said yet
	Name      string
	Type      string
	Size      int // bytes
	Added     when.Instant
	Content   []byte
}

// AddFile stores a file that belongs to no comment yet. Those that nobody has made a comment of
// since then are removed.
func (t Talk) AddFile(f *CommentFile, since when.Instant) error {
	if err := t.db().Where("box_id = ? AND person_id = ? AND comment_id = 0 AND added < ?", f.BoxID, f.PersonID, since).Delete(&CommentFile{}).Error; err != nil {
		return err
	}
	return t.db().Create(f).Error
}

// File is one with what is in it: of a comment that is not deleted, or that person's own;
// store.ErrNotFound if there is none.
func (t Talk) File(box, person, id int64) (f CommentFile, err error) {
	err = sqlite.Plain(t.db().Where("id = ? AND box_id = ? AND (comment_id = 0 AND person_id = ? OR EXISTS (SELECT 1 FROM comments m WHERE m.id = comment_files.comment_id AND NOT m.gone))", id, box, person).Take(&f).Error)
	return f, err
}

// Waiting gives the files of these that somebody has added and that belong to no comment yet,
// without what is in them.
func (t Talk) Waiting(box, person int64, ids []int64) (out []CommentFile, err error) {
	err = t.db().Omit("Content").Where("id IN ? AND box_id = ? AND person_id = ? AND comment_id = 0", ids, box, person).Order("id").Find(&out).Error
	return out, err
}

// Belong has files belong to a comment.
func (t Talk) Belong(ids []int64, comment int64) error {
	return t.db().Model(&CommentFile{}).Where("id IN ?", ids).Update("comment_id", comment).Error
}

// FilesOf gives the files of comments, by them, without what is in them.
func (t Talk) FilesOf(comments []int64) (map[int64][]CommentFile, error) {
	var rows []CommentFile
	err := t.db().Omit("Content").Where("comment_id IN ? AND comment_id > 0", comments).Order("id").Find(&rows).Error
	out := map[int64][]CommentFile{}
	for _, f := range rows {
		out[f.CommentID] = append(out[f.CommentID], f)
	}
	return out, err
}

// DropFile deletes one that somebody has added and not said yet.
func (t Talk) DropFile(box, person, id int64) error {
	return t.db().Where("id = ? AND box_id = ? AND person_id = ? AND comment_id = 0", id, box, person).Delete(&CommentFile{}).Error
}
