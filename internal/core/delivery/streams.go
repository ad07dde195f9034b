package delivery

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Stream is mail of one kind that has its own times of coming in: one of the two there
// are for everybody, or the ID of one of the user's own.
type Stream string

// The streams everybody has.
const (
	StreamPeople   Stream = "people"   // written by people, for this reader
	StreamMachines Stream = "machines" // newsletters, notices, receipts
)

// Streams lists those everybody has.
var Streams = []Stream{StreamPeople, StreamMachines}

// StreamOf is the stream of messages of the kind k of which nothing else was said.
// Invitations and reports that something could not be delivered come with the mail of
// people: they are about what people wrote.
func StreamOf(k mail.Kind) Stream {
	switch k {
	case mail.List, mail.Notice, mail.Receipt:
		return StreamMachines
	}
	return StreamPeople
}

const maxStreams = 20 // of the user's own

// All are the streams of these settings: those everybody has, and the user's own.
func (s Settings) All() []Stream {
	all := slices.Clone(Streams)
	for _, o := range s.Own {
		all = append(all, o.ID)
	}
	return all
}

// Known says that there is such a stream.
func (s Settings) Known(stream Stream) bool { return slices.Contains(s.All(), stream) }

// Name is how a stream is called.
func (s Settings) Name(stream Stream) string {
	switch stream {
	case StreamPeople:
		return "mail from people"
	case StreamMachines:
		return "newsletters and notices"
	}
	if own := s.own(stream); own.ID != "" {
		return own.Name
	}
	return "a stream that was deleted"
}

// along is the stream everybody has with which a stream comes in where a plan draws no
// days for it. One that was deleted comes in with people’s mail.
func (s Settings) along(stream Stream) Stream {
	if own := s.own(stream); own.ID != "" {
		stream = own.Along
	}
	if stream == StreamMachines {
		return stream
	}
	return StreamPeople
}

// own is the stream of the user's own of that ID; the zero OwnStream if there is none.
func (s Settings) own(stream Stream) OwnStream {
	if i := slices.IndexFunc(s.Own, func(o OwnStream) bool { return o.ID == stream }); i >= 0 {
		return s.Own[i]
	}
	return OwnStream{}
}

// week are the seven days of a stream that comes in at these rounds alone; nil without any.
func (r Rounds) week() []Day {
	if r.Days == 0 {
		return nil
	}
	days := make([]Day, 7)
	for d := range days {
		if r.Days&(1<<d) != 0 {
			days[d].Rounds = []int{r.Minute}
		}
	}
	return days
}

// Next is the first of these rounds after t; 0 without any.
func (r Rounds) Next(t when.Instant, loc *time.Location) when.Instant {
	days := r.week()
	for d := 0; days != nil && d <= 7; d++ {
		for _, at := range courseOf(days, when.DayStart(t, loc, d), when.DayStart(t, loc, d+1), loc).Rounds {
			if at > t {
				return at
			}
		}
	}
	return 0
}

// Last is the last of these rounds until now; 0 without any.
func (r Rounds) Last(now when.Instant, loc *time.Location) when.Instant {
	for d := 0; r.Days != 0 && d <= 7; d++ {
		rounds := courseOf(r.week(), when.DayStart(now, loc, -d), when.DayStart(now, loc, 1-d), loc).Rounds
		for _, at := range slices.Backward(rounds) {
			if at <= now {
				return at
			}
		}
	}
	return 0
}

func (r Rounds) valid() bool {
	return r.Days >= 0 && r.Days < 1<<7 && r.Minute >= 0 && r.Minute < EndOfDay
}

// daysOf are the days of a stream as they are in force; nil where it comes in as it is sent.
func (s Settings) daysOf(stream Stream) []Day {
	if p := s.Plan(); p != nil {
		return s.Days(*p, stream)
	}
	return s.own(stream).At.week()
}

// Holds says that some mail may not come in as it is sent: a plan, a hand or a stream's
// own rounds are there to hold it.
func (s Settings) Holds() bool {
	return s.On != "" || s.Hand.Mode != ModePlan || slices.ContainsFunc(s.Own, func(o OwnStream) bool { return o.At.Days != 0 })
}

// Days are the days of a stream under a plan.
func (s Settings) Days(p Plan, stream Stream) []Day {
	if days := p.Own[stream]; len(days) == 7 && s.Known(stream) {
		return days
	}
	if days := s.own(stream).At.week(); days != nil {
		return days
	}
	if s.along(stream) == StreamMachines {
		return p.Machines
	}
	return p.People
}

// validStreams says in part of a sentence what is wrong with the streams of the user's
// own.
func (s Settings) validStreams() error {
	if len(s.Own) > maxStreams {
		return fmt.Errorf("there is room for %d streams of your own: delete one", maxStreams)
	}
	names := map[string]bool{"people": true, "newsletters": true, "notices": true, "machines": true} // as rules call them
	for _, stream := range Streams {
		names[s.Name(stream)] = true
	}
	for i, o := range s.Own {
		low := strings.ToLower(o.Name)
		switch {
		case strings.TrimSpace(o.Name) == "" || len(o.Name) > maxName || strings.ContainsAny(o.Name, quoting):
			return fmt.Errorf("a stream needs a short name without commas and quotation marks, such as “choir”")
		case names[low]:
			return fmt.Errorf("there is a stream called “%s” already", o.Name)
		case o.ID == "" || slices.Contains(Streams, o.ID) || slices.ContainsFunc(s.Own[:i], func(x OwnStream) bool { return x.ID == o.ID }):
			return fmt.Errorf("the stream “%s” cannot be told from another", o.Name)
		case !slices.Contains(Streams, o.Along):
			return fmt.Errorf("“%s” goes along with people’s mail, or with newsletters and notices", o.Name)
		case !o.At.valid():
			return fmt.Errorf("“%s” can come in at one time of the days you choose", o.Name)
		}
		names[low] = true
	}
	for i, stream := range s.Together {
		if !s.Known(stream) || slices.Contains(s.Together[:i], stream) {
			return errors.New("what is to come together is a stream there is, once")
		}
	}
	return nil
}

// quoting are the signs that have a meaning in the words of a rule.
const quoting = ",;:\"“”„«»\n"

// tidyOwn is own without days of streams that draw none.
func tidyOwn(own map[Stream][]Day, tidy func([]Day) []Day) map[Stream][]Day {
	out := map[Stream][]Day{}
	for _, stream := range slices.Sorted(maps.Keys(own)) {
		if len(own[stream]) > 0 {
			out[stream] = tidy(own[stream])
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}
