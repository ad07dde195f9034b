package desk

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/phones"
	"ebbe/internal/desk/rules"
	"ebbe/internal/identity"
	"ebbe/internal/post/exchange"
	postoffice "ebbe/internal/post/office"
)

// Two teams whose rules forward and answer to each other, whose holds answer, and whose telephones
// do: one letter and one text make a handful of others, and then it is quiet.
func TestTwoTeamsThatAnswerEachOther(t *testing.T) {
	f := newTexted(t, nil)
	addresses := []string{"loans@skagvikmuseum.example", "shop@skagvikmuseum.example"}
	lines := []texting.Number{"+4721000011", "+4721000012"}
	f.post.Hear(func(a postoffice.Accepted) {
		for _, to := range a.To {
			for _, address := range addresses {
				if to == address {
					f.post.Put(to, postoffice.Inbox, f.clock.t, a.Raw)
				}
			}
		}
	})
	for i, name := range []string{"Loans", "Shop"} {
		box, err := f.Teams.Make(ctx, f.who, "", name)
		require.NoError(t, err)
		team, err := (identity.Boxes{Directory: f.People}).In(ctx, f.who, box)
		require.NoError(t, err)
		f.post.AddAccount(addresses[i], "low tide")
		a := account
		a.Address, a.Name, a.Login = addresses[i], name, ""
		_, err = f.Accounts.Put(ctx, team, "", a)
		require.NoError(t, err)
		_, err = f.Writing.PutTemplate(ctx, team, "", composing.TemplateView{Template: writing.Template{Name: "Thanks", Text: "Thank you from " + name}})
		require.NoError(t, err)
		for _, words := range []string{"with “crate”: forward to " + addresses[1-i], "with “crate”: reply with “thanks”", "with “crate”: give in turn"} {
			_, err = f.Rules.Save(ctx, team, "", rules.Saving{Words: words, Mode: sorting.On})
			require.NoError(t, err)
		}
		_, err = f.Delivery.Hold(ctx, team, delivery.Hand{Mode: delivery.ModeOpen})
		require.NoError(t, err)
		v, err := f.Phones.Put(ctx, team, "", phones.PhoneDraft{Name: name, Secret: "s3cret", Line: texting.Line{Number: lines[i], Gateway: exchange.Gateway(), Answer: texting.Answer{When: texting.Always, Text: "We have your text."}}})
		require.NoError(t, err)
		f.x.Serve(exchange.Line{Number: lines[i], Hook: v.Hook, Secret: "s3cret"})
		f.x.Connect(lines[i], exchange.Telephone{})
	}
	require.NoError(t, f.Mail.PassNow(ctx)) // what lies there from before is nothing that comes
	raw := strings.ReplaceAll(letter("c1@x", "Shop <"+addresses[1]+">", "About the crate"), "To: solvei@m.example", "To: "+addresses[0])
	f.post.Put(addresses[0], postoffice.Inbox, f.clock.t, []byte(strings.ReplaceAll(raw, "\n", "\r\n")))
	f.x.Text(string(lines[1]), lines[0], "Is anybody there?", f.clock.t)
	told := 0
	for range 30 {
		f.clock.t = f.clock.t.Add(10 * time.Minute)
		require.NoError(t, f.Mail.PassNow(ctx))
		require.NoError(t, f.Sending.Dispatch(ctx))
		f.x.Advance()
		for _, s := range f.x.Taken()[told:] { // the exchange brings what one line says to the other
			told++
			f.x.Text(string(s.From), s.To, s.Text, f.clock.t)
		}
	}
	require.LessOrEqual(t, len(f.post.Taken()), 4, "what a rule or a hold has sent makes no other rule send")
	require.NotEmpty(t, f.post.Taken(), "but something went")
	require.LessOrEqual(t, len(f.x.Taken()), 2, "each line answers the other once a day")
	require.NotEmpty(t, f.x.Taken())
	f.sound(t)
}
