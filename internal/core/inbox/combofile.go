package inbox

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// A combo in a file is JSON (RFC 8259): an object with the format's name and the combos,
// each step with its labels and its template by name, so that somebody else can use it.
type comboFile struct {
	Format string      `json:"format"`
	Combos []fileChain `json:"combos"`
}

type fileChain struct {
	Name  string     `json:"name"`
	Key   string     `json:"key,omitempty"`
	If    string     `json:"if,omitempty"`
	Size  int        `json:"size,omitempty"`
	Steps []fileStep `json:"steps"`
}

type fileStep struct {
	Kind     Kind     `json:"kind"`
	Phrase   string   `json:"phrase,omitempty"`
	Text     string   `json:"text,omitempty"`
	Template string   `json:"template,omitempty"`
	Stream   string   `json:"stream,omitempty"` // people or machines: one's own are known to nobody else
	Labels   []string `json:"labels,omitempty"`
	Ask      bool     `json:"ask,omitempty"`
}

const (
	comboFormat = "ebbe-combos-1"
	maxFile     = 200_000 // bytes
	// MaxCombos is how many combos somebody has at most.
	MaxCombos = 20
)

// WriteCombos gives combos as a file, with the names of labels and templates by their IDs.
func WriteCombos(combos []Chain, labels, templates map[int64]string) []byte {
	out := comboFile{Format: comboFormat, Combos: []fileChain{}}
	for _, c := range combos {
		f := fileChain{Name: c.Name, Key: c.Key, If: c.If, Size: c.Size, Steps: []fileStep{}}
		for _, s := range c.Steps {
			x := fileStep{Kind: s.Kind, Phrase: s.Phrase, Text: s.Text, Template: templates[s.Ref], Stream: s.Stream, Ask: s.Ask}
			for _, id := range s.Labels {
				if name := labels[id]; name != "" {
					x.Labels = append(x.Labels, name)
				}
			}
			f.Steps = append(f.Steps, x)
		}
		out.Combos = append(out.Combos, f)
	}
	raw, _ := json.MarshalIndent(out, "", "  ") // strings and numbers always can be
	return append(raw, '\n')
}

// ReadCombos reads combos from a file, without IDs, for somebody who has these labels and
// templates by name. What a step names and they do not have is asked each time, or left
// out, and said in left, in sentences. An error says what is wrong with the file.
func ReadCombos(raw []byte, labels, templates map[string]int64) (combos []Chain, left []string, err error) {
	var in comboFile
	switch {
	case len(raw) > maxFile:
		return nil, nil, errors.New("that file is too large to be one of combos")
	case json.Unmarshal(raw, &in) != nil || in.Format != comboFormat:
		return nil, nil, errors.New("that is no file of combos: one is made with “Share them in a file”")
	case len(in.Combos) == 0 || len(in.Combos) > MaxCombos:
		return nil, nil, fmt.Errorf("a file has from one to %d combos", MaxCombos)
	}
	for _, f := range in.Combos {
		c := Chain{Name: strings.TrimSpace(f.Name), Key: f.Key, If: f.If, Size: f.Size}
		for _, x := range f.Steps[:min(len(f.Steps), maxChain+1)] {
			s := ComboStep{Kind: x.Kind, Phrase: x.Phrase, Text: x.Text, Stream: x.Stream, Ask: x.Ask}
			if s.Kind == ToStream && s.Stream != "people" && s.Stream != "machines" {
				left = append(left, fmt.Sprintf("“%s” puts mail into a stream that only somebody else has, which is left out.", c.Name))
				continue
			}
			for _, name := range x.Labels {
				if id := labels[name]; id != 0 {
					s.Labels = append(s.Labels, id)
				} else {
					left = append(left, fmt.Sprintf("“%s” puts on the label “%s”, which you do not have.", c.Name, name))
				}
			}
			if s.Kind == Label && len(s.Labels) == 0 {
				s.Ask = true
			}
			if s.Ref = templates[x.Template]; x.Template != "" && s.Ref == 0 {
				left = append(left, fmt.Sprintf("“%s” begins with the template “%s”, which you do not have.", c.Name, x.Template))
			}
			c.Steps = append(c.Steps, s)
		}
		if err := c.Valid(); err != nil {
			left = append(left, fmt.Sprintf("Left out: %s.", err.Error()))
			continue
		}
		combos = append(combos, c)
	}
	return combos, left, nil
}
