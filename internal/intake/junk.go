package intake

import (
	"slices"
	"strings"

	"golang.org/x/net/publicsuffix"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/junking"
	"ebbe/internal/store/mailboxes"
)

// JunkLearned is how long after a message came what it was in the end is learned.
const JunkLearned = when.Instant(90 * 24 * 3_600_000)

const knownLately = 500 // people last written to, with whom strangers are compared

// judging is what is needed to look for junk in a batch.
type judging struct {
	model sorting.JunkModel
	own   []string       // domains of the reader's servers and addresses
	known []mail.Address // whom the reader has written to lately, and their own domains; read once one is needed
	read  bool
	tests []junking.Test
}

// loadJunk loads what is needed to look for junk in the messages of a batch.
func (b *batcher) loadJunk(batch []Parsed) error {
	var signs []sorting.JunkSign
	for _, p := range batch {
		signs = append(signs, p.Junk.All...)
	}
	if len(signs) == 0 {
		return nil
	}
	var err error
	if b.junk.model, err = junking.Tests(b.t).Model(b.box, signs); err != nil {
		return err
	}
	b.junk.own, err = ownDomains(b.t, b.box, b.own)
	return err
}

// OwnDomains are those of the servers and addresses of a box: what servers of these say of a
// message is believed (mail.FoundBy, mail.Trust).
func OwnDomains(t store.Tx, box int64) ([]string, error) {
	own, err := OwnAddresses(t, box)
	if err != nil {
		return nil, err
	}
	return ownDomains(t, box, own)
}

func ownDomains(t store.Tx, box int64, own map[string]bool) (out []string, err error) {
	accounts, err := mailboxes.Accounts(t).Accounts(box)
	if err != nil {
		return nil, err
	}
	for _, a := range accounts {
		out = append(out, domainOf(a.Mailbox.Host))
	}
	for a := range own {
		if _, d, ok := strings.Cut(a, "@"); ok && !texting.IsText(a) {
			out = append(out, domainOf(d))
		}
	}
	return out, nil
}

// domainOf is the domain of a host that one owner has as a whole.
func domainOf(host string) string {
	if d, err := publicsuffix.EffectiveTLDPlusOne(strings.ToLower(host)); err == nil {
		return d
	}
	return ""
}

// lookForJunk notes what the junk test looks at in a message that is about to be added.
func (b *batcher) lookForJunk(m *store.Message, p Parsed) error {
	if m.Own || b.o.Carried != nil || len(p.Junk.All) == 0 {
		return nil
	}
	score, most := b.junk.model.Judge(p.Junk.All)
	var words []string
	for _, s := range most {
		if text := p.Junk.Texts[s]; text != "" {
			words = append(words, strings.ReplaceAll(text, " ", "_"))
		}
	}
	_, domain, _ := strings.Cut(m.FromAddr, "@")
	test := junking.Test{MessageID: m.ID, BoxID: b.box, FromAddr: m.FromAddr, Came: max(m.Date, b.now-JunkLearned), Signs: sorting.SignBytes(p.Junk.All), Score: int(1000 * score),
		Words: strings.Join(words, " "), Found: mail.FoundBy(p.Body.Trace, b.junk.own, domain), Script: p.Script}
	if b.gated && b.wrote[m.FromAddr] == 0 {
		var err error
		if test.Seems, err = b.seems(m, domain); err != nil {
			return err
		}
	}
	b.junk.tests = append(b.junk.tests, test)
	return nil
}

// seems is whom a stranger may be taken for: somebody of that name whom the reader
// writes to, or a domain that looks like one they know.
func (b *batcher) seems(m *store.Message, domain string) (string, error) {
	if texting.IsText(m.FromAddr) {
		return "", nil // their name is the reader's own word
	}
	named := len([]rune(m.FromName)) >= 5
	if named {
		known, err := junking.Tests(b.t).Namesake(b.box, m.FromName, m.FromAddr)
		if err != nil || known != "" && elsewhere(known, domain) && !texting.IsText(known) {
			return known, err
		}
	}
	if !b.junk.read {
		known, err := junking.Tests(b.t).Written(b.box, knownLately)
		if err != nil {
			return "", err
		}
		known = slices.DeleteFunc(known, func(a mail.Address) bool { return texting.IsText(a.Address) })
		b.junk.known, b.junk.read = known, true
		for _, d := range b.junk.own {
			b.junk.known = append(b.junk.known, mail.Address{Address: "@" + d})
		}
	}
	for _, k := range b.junk.known {
		if domainIn(k) == domain {
			return "", nil
		}
	}
	looks := mail.Looks(m.FromName)
	for _, k := range b.junk.known {
		switch {
		case named && k.Name != "" && k.Address != m.FromAddr && mail.Looks(k.Name) == looks && elsewhere(k.Address, domain):
			return k.Address, nil
		case mail.Alike(domain, domainIn(k)):
			return "@" + domainIn(k), nil
		}
	}
	return "", nil
}

func domainIn(a mail.Address) string { return a.Address[strings.LastIndexByte(a.Address, '@')+1:] }

// elsewhere says that an address is not of the owner of a domain.
func elsewhere(address, domain string) bool {
	return domainOf(domainIn(mail.Address{Address: address})) != domainOf(domain)
}
