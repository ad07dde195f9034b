package numbers

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// Spread is how values lie: half are at most Median, nine of ten at most Ninety.
type Spread struct {
	N      int `json:"n"`
	Tenth  int `json:"tenth"`
	Median int `json:"median"`
	Ninety int `json:"ninety"`
}

// SpreadOf is the spread of values, of each so many.
func SpreadOf(values map[int]int) (s Spread) {
	for _, n := range values {
		s.N += n
	}
	if s.N == 0 {
		return s
	}
	at := func(tenths int) int { // the smallest value that so many tenths are at most
		need, have := (s.N*tenths+9)/10, 0
		keys := slices.Sorted(maps.Keys(values))
		for _, v := range keys {
			if have += values[v]; have >= need {
				return v
			}
		}
		return keys[len(keys)-1]
	}
	s.Tenth, s.Median, s.Ninety = at(1), at(5), at(9)
	return s
}

// SpreadIn is the spread of values in whatever order, which it changes.
func SpreadIn(values []int32) Spread {
	n := len(values)
	if n == 0 {
		return Spread{}
	}
	at := func(tenths int) int { return int(nth(values, (n*tenths+9)/10-1)) }
	return Spread{N: n, Tenth: at(1), Median: at(5), Ninety: at(9)}
}

// nth is the value that would be at place k if values were in order, which it changes: quickselect, which
// takes a time that grows with their number, not with sorting them.
func nth(values []int32, k int) int32 {
	from, to := 0, len(values)-1
	for from < to {
		pivot := values[from+(to-from)/2]
		i, j := from, to
		for i <= j {
			for values[i] < pivot {
				i++
			}
			for values[j] > pivot {
				j--
			}
			if i <= j {
				values[i], values[j] = values[j], values[i]
				i, j = i+1, j-1
			}
		}
		switch {
		case k <= j:
			to = j
		case k >= i:
			from = i
		default:
			return values[k]
		}
	}
	return values[k]
}

// Part is how much of something was of one sort.
type Part struct {
	Sort string `json:"sort"`
	N    int    `json:"n"`
}

// Pace is how long decisions of a sort took, in seconds.
type Pace struct {
	Sort   string `json:"sort"`
	Spread `tstype:",extends"`
}

// Figures are what a stretch of days comes to.
type Figures struct {
	Came      int    `json:"came"` // conversations that came into view, without those that were imported
	How       []Part `json:"how"`  // by how they came
	Decided   int    `json:"decided"`
	Decisions []Part `json:"decisions"` // by kind, whoever decided
	By        []Part `json:"by"`        // by who decided: "person", "rule", "clock", "server", "mail"
	Became    []Part `json:"became"`    // by from where it had come and what was decided: "people archive"
	Sent      int    `json:"sent"`
	Undone    int    `json:"undone"` // steps that were taken back
	ByRule    int    `json:"byRule"` // conversations decided by rules
	RuleBack  int    `json:"ruleBack"`

	Took    Spread `json:"took"` // seconds for each decision
	Paces   []Pace `json:"paces"`
	Looks   int    `json:"looks"`   // how often what a person decided had been opened
	Own     int    `json:"own"`     // conversations that a person decided
	AtFirst int    `json:"atFirst"` // of those, decided at first sight

	Stood  Spread `json:"stood"`  // hours in the inbox before a decision
	Waited Spread `json:"waited"` // hours until an answer that was waited for
	Early  []Part `json:"early"`
	Work   []Part `json:"work"`
	Junk   []Part `json:"junk"`
	Lists  int    `json:"lists"` // that were left
	Rested []Part `json:"rested"`

	Held    Spread        `json:"held"`    // hours for which messages were held before they came in
	Through []Part        `json:"through"` // messages that were let through, by what
	Rules   []RuleFigures `json:"rules"`   // what each rule did, that with most of it first
	Notices int           `json:"notices"` // notifications that the reader was shown; not of a team

	Hours [7][24]int `json:"hours" tstype:"number[][]"` // a person's decisions, by weekday (0 is Sunday) and hour
}

// RuleFigures are what a rule did.
type RuleFigures struct {
	Rule    int64 `json:"rule"`
	Did     int   `json:"did"`     // with messages that came in
	Decided int   `json:"decided"` // conversations that left the inbox by it
	Through int   `json:"through"` // messages
	Sent    int   `json:"sent"`
	Told    int   `json:"told"`
	Back    int   `json:"back"` // what it had done and was taken back
}

// all is how much a rule did, also what was taken back.
func (r RuleFigures) all() int { return r.Did + r.Through + r.Sent + r.Told + r.Back }

// of is the number of a rule that a detail of Ruled is about.
func (r *RuleFigures) of(what string) *int {
	switch what {
	case RuleDid:
		return &r.Did
	case RuleDecided:
		return &r.Decided
	case RuleThrough:
		return &r.Through
	case RuleSent:
		return &r.Sent
	case RuleTold:
		return &r.Told
	}
	return &r.Back
}

// Over is what counts come to.
func Over(counts []Count) Figures {
	var f Figures
	parts := map[*[]Part]map[string]int{}
	part := func(of *[]Part, sort string, n int) {
		if parts[of] == nil {
			parts[of] = map[string]int{}
		}
		parts[of][sort] += n
	}
	took, stood, waited, held := map[string]map[int]int{}, map[int]int{}, map[int]int{}, map[int]int{}
	rules := map[int64]*RuleFigures{}
	for _, c := range counts {
		switch c.Measure {
		case Came:
			if part(&f.How, c.Detail, c.N); c.Detail != "import" {
				f.Came += c.N
			}
		case Decided:
			f.Decided += c.N
			part(&f.Decisions, c.Detail, c.N)
			part(&f.By, c.By, c.N)
			switch c.By {
			case "person":
				f.Own += c.N
			case "rule":
				f.ByRule += c.N
			}
		case Hours:
			day, hour, _ := strings.Cut(c.Detail, " ")
			d, _ := strconv.Atoi(day) // they were written as numbers
			h, _ := strconv.Atoi(hour)
			f.Hours[d%7][h%24] += c.N
		case Became:
			part(&f.Became, c.Detail, c.N)
		case Undone:
			if f.Undone += c.N; c.By == "rule" {
				f.RuleBack += c.N
			}
		case Sent:
			f.Sent += c.N
		case Looked:
			f.Looks += c.N
		case AtFirst:
			f.AtFirst += c.N
		case Took:
			kind, seconds, _ := strings.Cut(c.Detail, " ")
			n, _ := strconv.Atoi(seconds) // it was written as a number
			for _, sort := range []string{"", kind} {
				if took[sort] == nil {
					took[sort] = map[int]int{}
				}
				took[sort][n] += c.N
			}
		case Stood:
			stood[int(LengthOf(c.Detail)/Hour)] += c.N
		case Waited:
			waited[int(LengthOf(c.Detail)/Hour)] += c.N
		case Early:
			part(&f.Early, c.Detail, c.N)
		case Work:
			part(&f.Work, c.Detail, c.N)
		case JunkMail:
			part(&f.Junk, c.Detail, c.N)
		case ListsLeft:
			f.Lists += c.N
		case Rested:
			part(&f.Rested, c.Detail, c.N)
		case Held:
			held[int(LengthOf(c.Detail)/Hour)] += c.N
		case Through:
			part(&f.Through, c.Detail, c.N)
		case Ruled:
			rule, what, _ := strings.Cut(c.Detail, " ")
			id, _ := strconv.ParseInt(rule, 10, 64) // it was written as a number
			if rules[id] == nil {
				rules[id] = &RuleFigures{Rule: id}
			}
			*rules[id].of(what) += c.N
		}
	}
	for _, of := range []*[]Part{&f.How, &f.Decisions, &f.By, &f.Became, &f.Early, &f.Work, &f.Junk, &f.Rested, &f.Through} {
		*of = []Part{}
		for sort, n := range parts[of] {
			if n != 0 {
				*of = append(*of, Part{sort, n})
			}
		}
		slices.SortFunc(*of, func(a, b Part) int { return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Sort, b.Sort)) })
	}
	f.Took, f.Paces = SpreadOf(took[""]), []Pace{}
	for sort, values := range took {
		if sort != "" {
			f.Paces = append(f.Paces, Pace{sort, SpreadOf(values)})
		}
	}
	slices.SortFunc(f.Paces, func(a, b Pace) int { return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Sort, b.Sort)) })
	f.Stood, f.Waited, f.Held, f.Rules = SpreadOf(stood), SpreadOf(waited), SpreadOf(held), []RuleFigures{}
	for _, r := range rules {
		if r.all() > 0 {
			f.Rules = append(f.Rules, *r)
		}
	}
	slices.SortFunc(f.Rules, func(a, b RuleFigures) int { return cmp.Or(cmp.Compare(b.all(), a.all()), cmp.Compare(a.Rule, b.Rule)) })
	return f
}

// Evening is how a day ended: how many were left after the last that somebody did.
type Evening struct {
	Day  int64
	Left int
}

// Zeros are the days on which nothing was left in the evening, and how long they went on: a day off, or
// one on which nothing was done and which nobody expects work of, does not break a run.
type Zeros struct {
	Days    int `json:"days"`    // working days that ended at zero
	Of      int `json:"of"`      // working days on which something was done, or should have been
	Run     int `json:"run"`     // of working days, up to the last
	Longest int `json:"longest"` // run
}

// ZerosOf counts the working days [from, to) that ended at zero; off says which days are none.
func ZerosOf(evenings []Evening, from, to int64, off func(day int64) bool) (z Zeros) {
	left := map[int64]int{}
	for _, e := range evenings {
		left[e.Day] = e.Left
	}
	for day := from; day < to; day++ {
		n, acted := left[day]
		if off(day) {
			continue
		}
		z.Of++
		if acted && n == 0 {
			z.Days++
			z.Run++
			z.Longest = max(z.Longest, z.Run)
		} else {
			z.Run = 0
		}
	}
	return z
}
