package delivery

import (
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"
)

// How much a plan and the settings may hold.
const (
	maxPlans   = 20
	maxPieces  = 24 // of a sort, on one day
	maxThrough = 200
	maxText    = 2000 // bytes
	maxName    = 60   // bytes
)

// Valid says in part of a sentence for the user what is wrong with the
// settings, or nil.
func (s Settings) Valid() error {
	if len(s.Plans) > maxPlans {
		return fmt.Errorf("there is room for %d plans: delete one you no longer use", maxPlans)
	}
	ids := map[string]bool{}
	for _, p := range s.Plans {
		if err := p.Valid(); err != nil {
			return err
		}
		if ids[p.ID] || p.ID == "" {
			return fmt.Errorf("the plan %q cannot be told from another", p.Name)
		}
		ids[p.ID] = true
	}
	if s.On != "" && !ids[s.On] {
		return errors.New("the plan to be used does not exist any more: choose another")
	}
	if err := s.validStreams(); err != nil {
		return err
	}
	if len(s.Through) > maxThrough {
		return fmt.Errorf("there is room for %d entries that let mail through: take one away", maxThrough)
	}
	for _, e := range s.Through {
		if err := e.Valid(); err != nil {
			return err
		}
	}
	for _, a := range s.Notify.People {
		if err := address(strings.TrimPrefix(a, "@"), strings.HasPrefix(a, "@")); err != nil {
			return err
		}
	}
	switch s.Hand.Mode {
	case ModePlan, ModeHold, ModeOpen:
	default:
		return fmt.Errorf("%q is nothing that can be done by hand", s.Hand.Mode)
	}
	if !s.Letter.valid() || !s.Review.valid() {
		return errors.New("what concerns you in teams can come at one time of the days you choose")
	}
	return answerable(s.Hand.Answer)
}

// Valid says in part of a sentence what is wrong with the plan, or nil.
func (p Plan) Valid() error {
	if strings.TrimSpace(p.Name) == "" || len(p.Name) > maxName {
		return errors.New("a plan needs a short name, such as “ordinary week”")
	}
	if len(p.Own) > maxStreams {
		return fmt.Errorf("the plan %q draws more than %d streams", p.Name, maxStreams)
	}
	for _, days := range slices.Concat([][]Day{p.People, p.Machines}, slices.Collect(maps.Values(p.Own))) {
		if len(days) != 7 {
			return fmt.Errorf("the plan %q needs seven days for each stream", p.Name)
		}
		for d, x := range days {
			if err := x.valid(); err != nil {
				return fmt.Errorf("%s of “%s”: %w", time.Weekday(d), p.Name, err)
			}
		}
	}
	if len(p.Contact) > maxName {
		return errors.New("the contact is too long: a name and a number are enough")
	}
	return answerable(p.Answer)
}

func (d Day) valid() error {
	if max(len(d.Open), len(d.Quiet), len(d.Focus), len(d.Rounds)) > maxPieces {
		return fmt.Errorf("there is room for %d of a sort on one day", maxPieces)
	}
	spans := append(append([]Span{}, d.Open...), d.Quiet...)
	for _, b := range d.Focus {
		spans = append(spans, b.Span)
	}
	for _, s := range spans {
		if s.From < 0 || s.To > EndOfDay || s.From >= s.To {
			return fmt.Errorf("%s–%s is no stretch of one day: it has to end after it begins", Clock(s.From), Clock(s.To))
		}
	}
	for _, b := range d.Focus {
		if len(b.Name) > maxName {
			return errors.New("the name of a block is too long")
		}
		if r, err := ReadDay(b.String()); err != nil || len(r.Focus) != 1 || r.Focus[0] != b {
			return fmt.Errorf("“%s” cannot be the name of a block: choose a few words without numbers or commas", b.Name)
		}
	}
	for _, r := range d.Rounds {
		if r < 0 || r >= EndOfDay {
			return fmt.Errorf("%s is no time for a round", Clock(r))
		}
	}
	return nil
}

// Valid says in part of a sentence what is wrong with the entry, or nil.
func (e Exception) Valid() error {
	switch e.By {
	case BySender, ByOwn:
		return address(e.Value, false)
	case ByDomain:
		return address(e.Value, true)
	case ByWords:
		if len(wordsOf(e.Value)) == 0 || len(e.Value) > maxName {
			return errors.New("name one word or a few that are to let mail through")
		}
	case ByWritten:
		if e.Days < 1 || e.Days > 365 {
			return errors.New("choose between 1 and 365 days")
		}
	case ByWaited, ByImportance, ByCode:
	default:
		return fmt.Errorf("%q lets nothing through", e.By)
	}
	return nil
}

var (
	domainForm  = regexp.MustCompile(`^[^\s<>@,;:"()]+\.[^\s<>@,;:"().]+$`)
	addressForm = regexp.MustCompile(`^[^\s<>@,;:"()]+@[^\s<>@,;:"()]+$`)
)

// address says what is wrong with a mail address, or a domain, in lower case.
func address(a string, domain bool) error {
	switch lower := strings.ToLower(a) == a; {
	case domain && !(lower && domainForm.MatchString(a)):
		return fmt.Errorf("“%s” is no domain, such as coastline.example", a)
	case !domain && !(lower && addressForm.MatchString(a)):
		return fmt.Errorf("“%s” is no mail address", a)
	}
	return nil
}

// Doubts are sentences about what of a plan may not be meant as it is drawn, each once
// for all days it is about. None of them keeps the plan from being used.
func (s Settings) Doubts(p Plan) (out []string) {
	for _, stream := range s.All() {
		name := s.Name(stream)
		if !slices.Contains(Streams, stream) {
			if len(p.Own[stream]) == 0 {
				continue // it goes along with another
			}
			name = "“" + safe(name) + "”"
		}
		delivered := false
		var said []string // with %s for the days
		days := map[string][]string{}
		say := func(d time.Weekday, format string, args ...any) {
			text := fmt.Sprintf(format, args...)
			if days[text] == nil {
				said = append(said, text)
			}
			days[text] = append(days[text], d.String())
		}
		for i, x := range s.Days(p, stream) {
			d := time.Weekday(i)
			for _, o := range x.Open {
				for _, q := range x.Quiet {
					if o.overlaps(q) {
						say(d, "%%s: both open %s and quiet %s for %s. The quiet hours win.", o, q, name)
					}
				}
			}
			for i, b := range x.Focus {
				for _, c := range x.Focus[:i] {
					if b.overlaps(c.Span) && b.Name != c.Name {
						say(d, "%%s: “%s” and “%s” overlap. Where they do, it is “%s”.", safe(c.Name), safe(b.Name), safe(c.Name))
					}
				}
			}
			for _, r := range x.Rounds {
				delivered = true
				switch state, name := x.at(r); state {
				case StateQuiet:
					say(d, "%%s: the %s round lies in quiet hours. A round is a round: %s comes in then all the same.", Clock(r), name)
				case StateFocus:
					say(d, "%%s: the %s round lies in “%s”. A round is a round: %s comes in then all the same.", Clock(r), safe(name), name)
				case StateOpen:
					say(d, "%%s: the %s round lies in open hours, when %s is in already.", Clock(r), name)
				}
			}
			for _, seg := range x.segments() {
				delivered = delivered || seg.state == StateOpen
			}
		}
		for _, text := range said {
			out = append(out, fmt.Sprintf(text, strings.Join(days[text], ", ")))
		}
		if !delivered {
			out = append(out, fmt.Sprintf("Under this plan %s would never come in: when should it? As it is, it is held until you let it in by hand.", name))
		}
	}
	return out
}

// safe is a name as part of a format.
func safe(name string) string { return strings.ReplaceAll(name, "%", "%%") }
