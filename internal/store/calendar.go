package store

import (
	"gorm.io/gorm/clause"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Event is calendar.Event in a box. All but Data follows from Data.
type Event struct {
	BoxID          int64  `gorm:"primaryKey;autoIncrement:false"`
	UID            string `gorm:"primaryKey"`
	StartAt        when.Instant
	EndAt          when.Instant
	Repeats        bool
	ConversationID int64
	Card           bool
	Data           calendar.Event `gorm:"serializer:json"`
}

// Calendar is what is asked and stored about events.
type Calendar Tx

// PutEvent stores e and what the agenda says of it.
func (t Calendar) PutEvent(box int64, e calendar.Event) error {
	row := Event{BoxID: box, UID: e.UID, StartAt: e.Begins(), EndAt: e.End.At, Repeats: e.Rule != "", ConversationID: e.Conversation, Card: e.Card, Data: e}
	if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
		return err
	}
	thing, waits := agenda.OfEvent(e)
	return Agenda(t).setThing(box, inbox.RemindEvent, 0, e.UID, thing, waits)
}

func (t Calendar) dropEvent(box int64, uid string) error {
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&Event{}).Error; err != nil {
		return err
	}
	return Agenda(t).setThing(box, inbox.RemindEvent, 0, uid, agenda.Thing{}, false)
}

// EventsBetween gives the events that may have an occurrence in [from, to): all
// that overlap it, and all that repeat.
func (t Calendar) EventsBetween(box int64, from, to when.Instant) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND start_at < ? AND (end_at >= ? OR repeats)", box, to, from).Order("start_at, uid").Limit(2000).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// EventsOf gives the events made from a conversation.
func (t Calendar) EventsOf(box, conversation int64) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND conversation_id = ?", box, conversation).Order("start_at, uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// AllEvents gives all events of a box, for an export, in the order of their
// beginnings.
func (t Calendar) AllEvents(box int64) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ?", box).Order("start_at, uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// EventCards gives the events whose reminder has fired and that are not over at now.
func (t Calendar) EventCards(box int64, now when.Instant) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND card AND end_at > ?", box, now).Order("start_at, uid").Limit(20).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}
