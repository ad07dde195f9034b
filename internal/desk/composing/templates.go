package composing

import (
	"context"
	"strings"
	"time"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
)

// Templates gives the templates of the user by their names.
func (d *Desk) Templates(ctx context.Context, who identity.Who) (out []TemplateView, err error) {
	out = []TemplateView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := drafting.Drafts(t).Templates(who.Keeper())
		for _, r := range rows {
			out = append(out, TemplateView{r.ID, r.Template})
		}
		return err
	})
	return out, err
}

// PutTemplate stores a template, new or changed. Two have different names.
func (d *Desk) PutTemplate(ctx context.Context, who identity.Who, key string, v TemplateView) (TemplateView, error) {
	v.Name, v.Subject, v.Text = strings.TrimSpace(v.Name), strings.TrimSpace(v.Subject), strings.TrimRight(v.Text, " \n")
	if err := v.Valid(); err != nil {
		return v, problem.Invalid("name", "Nothing was kept: "+err.Error()+".")
	}
	v, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (TemplateView, error) {
		rows, err := drafting.Drafts(t).Templates(who.Keeper())
		if err != nil {
			return v, err
		}
		known := v.ID == 0
		for _, r := range rows {
			known = known || r.ID == v.ID
			if r.ID != v.ID && strings.EqualFold(r.Name, v.Name) {
				return v, problem.Invalid("name", "Nothing was kept: there is a template of that name already. Choose another.")
			}
		}
		if !known {
			return v, store.ErrNotFound
		}
		row := drafting.Template{ID: v.ID, PersonID: who.Keeper(), Template: v.Template}
		err = drafting.Drafts(t).PutTemplate(&row)
		v.ID = row.ID
		return v, err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicOutbox, err)
}

// DropTemplate throws a template away.
func (d *Desk) DropTemplate(ctx context.Context, who identity.Who, id int64) error {
	return d.Journal.Announced(who.Box, journal.TopicOutbox, d.store.Write(ctx, func(t store.Tx) error { return drafting.Drafts(t).DropTemplate(who.Keeper(), id) }))
}

// FillTemplate gives a template with its blanks filled for a draft.
func (d *Desk) FillTemplate(ctx context.Context, who identity.Who, id, draft int64) (out writing.Template, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		dr, err := drafting.Drafts(t).DraftByID(who.Box, who.Person, draft)
		if err != nil {
			return err
		}
		out, err = d.filled(t, who, id, dr)
		return err
	})
	return out, err
}

func (d *Desk) filled(t store.Tx, who identity.Who, id int64, draft drafting.Draft) (out writing.Template, err error) {
	row, err := drafting.Drafts(t).Template(who.Keeper(), id)
	if err != nil {
		return out, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	day := func(n int) string { return now.In(loc).AddDate(0, 0, n).Format("Monday, 2 January") }
	values := map[string]string{writing.BlankToday: day(0), writing.BlankTomorrow: day(1), writing.BlankWeek: day(7), writing.BlankSubject: mail.Title(draft.Subject)}
	if len(draft.To) > 0 {
		values[writing.BlankName] = draft.To[0].Short()
	}
	slots, err := calendars.SlotsOf(t, who, now, when.Of(now.Time().Add((openingDays+1)*24*time.Hour)))
	if err != nil {
		return out, err
	}
	var free []string
	for i, m := range calendar.Openings(slots, who.Week, now, when.Stretch{From: now, To: when.DayStart(now, loc, openingDays+1)}) {
		if i < 2 {
			free = append(free, who.Week.Say(m, now))
		}
	}
	values[writing.BlankFree] = strings.Join(free, " or ")
	return row.Filled(values), nil
}
