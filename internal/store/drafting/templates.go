package drafting

import (
	"ebbe/internal/core/writing"
	"ebbe/internal/store/sqlite"
)

// Template is a template of a person.
type Template struct {
	ID               int64
	PersonID         int64
	writing.Template `gorm:"embedded"`
}

// Templates gives the templates of a person by their names.
func (t Drafts) Templates(person int64) (out []Template, err error) {
	err = t.db().Where("person_id = ?", person).Order("name COLLATE NOCASE, id").Find(&out).Error
	return out, err
}

// Template loads a template of a person.
func (t Drafts) Template(person, id int64) (r Template, err error) {
	err = sqlite.Plain(t.db().Where("person_id = ? AND id = ?", person, id).Take(&r).Error)
	return r, err
}

// PutTemplate stores a template, new or changed.
func (t Drafts) PutTemplate(r *Template) error { return sqlite.Put(t.db(), r, r.ID) }

// DropTemplate deletes a template of a person.
func (t Drafts) DropTemplate(person, id int64) error {
	return t.db().Where("person_id = ? AND id = ?", person, id).Delete(&Template{}).Error
}
