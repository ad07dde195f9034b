package deliveries

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// streams are the streams of a person as they come in now.
func streams(t store.Tx, who identity.Who, s delivery.Settings, now when.Instant) (out []StreamView, err error) {
	rules, lessons, err := ruling.Rules(t).Into(who.Box)
	if err != nil {
		return nil, err
	}
	for _, stream := range s.All() {
		v := StreamView{ID: stream, Name: s.Name(stream), Together: slices.Contains(s.Together, stream), Standing: s.Stands(stream, now, who.Week.Location()), Rules: rules[string(stream)], Lessons: lessons[string(stream)]}
		if i := slices.IndexFunc(s.Own, func(o delivery.OwnStream) bool { return o.ID == stream }); i >= 0 {
			v.Along, v.At = s.Own[i].Along, s.Own[i].At
		}
		out = append(out, v)
	}
	return out, nil
}

// PutStream makes a stream of a person's own, or changes one, and gives its ID. Asked
// again with the same key it makes no second one.
func (d *Desk) PutStream(ctx context.Context, who identity.Who, key string, n NewStream) (id string, err error) {
	if err := who.May(together.Serve); err != nil {
		return id, err
	}
	return settled(ctx, d, who, key, func(s *delivery.Settings, _ when.Instant) (string, store.Entry, error) {
		is := delivery.OwnStream{ID: n.ID, Name: strings.Join(strings.Fields(n.Name), " "), Along: n.Along, At: n.At}
		if n.ID == "" {
			is.ID = newStream(s, is, n.Together)
			return string(is.ID), store.Entry{Kind: inbox.ChangePlan, Text: "the stream “" + is.Name + "” made"}, nil
		}
		if !s.Known(n.ID) {
			return "", store.Entry{}, problem.Invalid("stream", "That stream has been deleted meanwhile, so nothing was changed.")
		}
		changed := bundle(s, n.ID, n.Together)
		if i := slices.IndexFunc(s.Own, func(o delivery.OwnStream) bool { return o.ID == n.ID }); i >= 0 && s.Own[i] != is {
			s.Own[i], changed = is, true
		}
		if !changed {
			return string(n.ID), store.Entry{}, nil
		}
		return string(n.ID), store.Entry{Kind: inbox.ChangePlan, Text: "the stream “" + s.Name(n.ID) + "” changed"}, nil
	})
}

// newStream adds a stream of the user's own to settings, and gives its ID.
func newStream(s *delivery.Settings, is delivery.OwnStream, asOne bool) delivery.Stream {
	is.ID = delivery.Stream(uuid.NewString())
	s.Own = append(s.Own, is)
	bundle(s, is.ID, asOne)
	return is.ID
}

// bundle has the mail of a stream lie in the inbox as one digest, or not, and says
// whether that is new.
func bundle(s *delivery.Settings, stream delivery.Stream, on bool) bool {
	if slices.Contains(s.Together, stream) == on {
		return false
	}
	s.Together = slices.DeleteFunc(s.Together, func(x delivery.Stream) bool { return x == stream })
	if on {
		s.Together = append(s.Together, stream)
	}
	return true
}

// DropStream deletes a stream of a person's own, with the days that plans draw for it.
// What lies in it comes in with people's mail. While something puts mail into it, it
// stays.
func (d *Desk) DropStream(ctx context.Context, who identity.Who, id delivery.Stream) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	var rules, lessons map[string]int
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		rules, lessons, err = ruling.Rules(t).Into(who.Box)
		return err
	})
	if err != nil {
		return err
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		if !slices.ContainsFunc(s.Own, func(o delivery.OwnStream) bool { return o.ID == id }) {
			return store.Entry{}, nil
		}
		name := s.Name(id)
		var by []string
		if n := rules[string(id)]; n > 0 {
			by = append(by, say.Plural(n, "rule"))
		}
		if n := lessons[string(id)]; n > 0 {
			by = append(by, say.Plural(n, "lesson"))
		}
		if len(by) > 0 {
			return store.Entry{}, problem.Invalid("stream", fmt.Sprintf("“%s” was not deleted: mail is put into it by %s. Change or delete those first.", name, strings.Join(by, " and ")))
		}
		e := store.Entry{Kind: inbox.ChangePlan, Text: "the stream “" + name + "” deleted"}
		bundle(s, id, false)
		s.Own = slices.DeleteFunc(s.Own, func(o delivery.OwnStream) bool { return o.ID == id })
		for i, p := range s.Plans {
			s.Plans[i].Own = maps.Clone(p.Own)
			delete(s.Plans[i].Own, id)
		}
		return e, nil
	})
}
