package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk"
	"ebbe/internal/desk/decide"
	"ebbe/internal/identity"
)

// waves are the junk of the museum's world: what each writes under which subjects.
var waves = []struct {
	name, host, text string
	subjects         []string
}{
	{"Prize Office", "grand-prize-claims", "Congratulations! Your address was drawn among the winners of our lottery. Claim your prize of 850 000 within 48 hours: confirm your details at https://%s/claim and pay the small transfer fee.\n",
		[]string{"You have WON: claim your prize", "Final notice: your prize waits", "Winner notification, claim now"}},
	{"Slim Fast Store", "slimmer-pills-now", "Lose weight without effort! Our miracle pills are 90 % cheaper today only. Limited offer, order now at https://%s/pills and get a free bottle.\n",
		[]string{"90 % off miracle pills", "Lose 12 kilos, limited offer", "Free bottle today only"}},
	{"Mailbox Support", "mailbox-verify", "Your mailbox storage is full and will be closed. Verify your password immediately at https://%s/verify to keep your account.\n",
		[]string{"Your mailbox will be closed", "Verify your password immediately", "Account storage full"}},
	{"Coin Returns", "coin-returns", "Double your money in seven days! Our secret trading robot returned 340 % last month, guaranteed profit, no risk. Register at https://%s/join today.\n",
		[]string{"Guaranteed profit, no risk", "Double your money in 7 days", "Secret trading robot returned 340 %"}},
}

// junk is n messages of junk in the weeks before end.
func (w *world) junk(end time.Time, n int) (out []message) {
	for i := range n {
		wave := waves[i%len(waves)]
		out = append(out, w.ofWave(i, end.Add(-time.Duration(1+i*29)*time.Hour), wave.subjects[(i/len(waves))%len(wave.subjects)]))
	}
	return out
}

// ofWave is a message of the wave with that number.
func (w *world) ofWave(i int, at time.Time, subject string) message {
	wave := waves[i%len(waves)]
	host := fmt.Sprintf("%s%d.example", wave.host, i)
	return message{at: at, from: person{wave.name, fmt.Sprintf("%s%d@%s", strings.ToLower(wave.name[:4]), i, host)}, to: []person{solvei}, subject: subject, text: fmt.Sprintf(wave.text, host), id: w.id()}
}

// junkToday is what comes this night: two of the waves, one that is less like them, and
// one in the name of a colleague, of which the museum's server has found that it is not
// from where it says.
func (w *world) junkToday() []event {
	at := func(h, m int) time.Time {
		return w.today.Add(time.Duration(h)*time.Hour + time.Duration(m)*time.Minute)
	}
	like := person{jonas.name, "jonas.reyland@skagvikrnuseum.example"}
	return []event{
		{m: w.ofWave(40, at(3, 12), "Claim your prize of 850 000")},
		{m: w.ofWave(42, at(4, 40), "Verify your mailbox password")},
		{m: message{at: at(5, 31), from: person{"Harvest Credit", "offers@harvest-credit.example"}, to: []person{solvei}, subject: "A limited offer: money today, no risk", text: "Good day,\n\nour limited offer: register today and get your money within seven days, guaranteed, without risk.\n\nHarvest Credit\n"}},
		{m: message{at: at(5, 55), from: like, to: []person{solvei}, subject: "Are you at your desk?", text: "Solvei,\n\nI need four vouchers for the lenders before noon. Can you buy them and send me the numbers? I am in a meeting.\n\nJonas\n",
			headers: []string{"Authentication-Results: mx.skagvikmuseum.example; dmarc=fail header.from=skagvikrnuseum.example", "Received: from relay.elsewhere.example by mx.skagvikmuseum.example; " + at(5, 55).Format(time.RFC1123Z)}}},
	}
}

// lookThrough has the reader look through what lies in junk.
func (w *world) lookThrough(ctx context.Context, d *desk.Desk, who identity.Who) error {
	all, err := d.Junk.All(ctx, who)
	if err != nil {
		return err
	}
	var ids []int64
	for _, g := range all.Groups {
		ids = append(ids, g.IDs...)
	}
	if len(ids) == 0 {
		return nil
	}
	_, err = d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.AllJunk, Conversations: ids, Seen: inbox.Junk})
	return err
}
