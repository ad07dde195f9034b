package texting

import (
	"errors"
	"fmt"
	"strings"

	"github.com/nyaruka/phonenumbers"

	"ebbe/internal/core/mail"
)

// Number is a telephone number as ITU-T E.164 writes it: + and up to fifteen digits.
type Number string

// domain is the one of the addresses by which numbers stand where Ebbe has mail addresses; mail can
// never come from it or go there (RFC 2606, section 2).
const domain = "text.invalid"

// longestNumber is how much is read as one, in bytes.
const longestNumber = 60

// ReadNumber reads a number as people write them. One without the code of its country is of that
// region (ISO 3166-1, two letters); with none it cannot be known. An error is part of a sentence.
func ReadNumber(text, region string) (Number, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > longestNumber {
		return "", errors.New("that is no telephone number")
	}
	n, err := phonenumbers.Parse(text, strings.ToUpper(region))
	switch {
	case errors.Is(err, phonenumbers.ErrInvalidCountryCode) && !strings.HasPrefix(text, "+"):
		return "", fmt.Errorf("“%s” does not say of which country it is: begin with + and its code", text)
	case err != nil || !phonenumbers.IsPossibleNumber(n):
		return "", fmt.Errorf("“%s” is no telephone number", text)
	}
	return Number(phonenumbers.Format(n, phonenumbers.E164)), nil
}

// Say is a number as it is written for people, with the code of its country.
func (n Number) Say() string {
	p, err := phonenumbers.Parse(string(n), "")
	if err != nil {
		return string(n)
	}
	return phonenumbers.Format(p, phonenumbers.INTERNATIONAL)
}

// Region is of which country a number is (ISO 3166-1, two letters).
func (n Number) Region() string {
	p, err := phonenumbers.Parse(string(n), "")
	if err != nil {
		return ""
	}
	if r := phonenumbers.GetRegionCodeForNumber(p); r != "" {
		return r
	}
	return phonenumbers.GetRegionCodeForCountryCode(int(p.GetCountryCode())) // the first of those that share it
}

// Address is what stands for a number where there are mail addresses.
func (n Number) Address() string { return string(n) + "@" + domain }

// NumberOf is the number that an address stands for.
func NumberOf(address string) (Number, bool) {
	local, at, _ := strings.Cut(address, "@")
	return Number(local), at == domain && strings.HasPrefix(local, "+")
}

// IsText says that an address stands for a number, or a sender of texts that has none.
func IsText(address string) bool { return strings.HasSuffix(address, "@"+domain) }

// Sender is from whom a text came, as its gateway says: a number, or the name or short number of a
// machine, which nobody can answer.
func Sender(from, region string) (a mail.Address, answers bool) {
	if n, err := ReadNumber(from, region); err == nil && len(strings.TrimLeft(string(n), "+")) > 6 {
		return mail.Address{Name: n.Say(), Address: n.Address()}, true
	}
	name := strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if r < ' ' {
			return ' '
		}
		return r
	}, from)), " ")
	local := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(name))
	local = strings.Trim(local, "-")
	if local == "" {
		name, local = "Nobody", "nobody"
	}
	return mail.Address{Name: name, Address: local[:min(len(local), longestNumber)] + "@" + domain}, false
}

// Subject is what the conversation with somebody by text is called.
func Subject(a mail.Address) string {
	if n, ok := NumberOf(a.Address); ok {
		return "Texts with " + n.Say()
	}
	return "Texts from " + a.Name
}

// Root is the Message-ID (RFC 5322, section 3.6.4) to which all texts between a line and somebody
// refer, so that they are one conversation.
func Root(line Number, with mail.Address) string {
	local, _, _ := strings.Cut(with.Address, "@")
	return strings.TrimLeft(string(line), "+") + "." + strings.TrimLeft(local, "+") + "@" + domain
}
