package finding

import (
	"encoding/json"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// named is the question to a full-text index for an address among people; "" if it has no
// letters.
func named(address string) string {
	terms := search.TermsOf(`"` + strings.NewReplacer(`"`, " ", "@", " ").Replace(address) + `"`)
	must, _ := words.MatchTerms(terms)
	if must == "" {
		return ""
	}
	return "people : (" + must + ")"
}

// Exchanged gives the messages of a box that are in view and went between its reader and
// an address: what that has written, and what the reader has written to it. Of the newest
// looked at that name it, as they came, newest first.
func (t Finding) Exchanged(box int64, address string, looked int) (out []store.Message, err error) {
	match := named(address)
	if match == "" {
		return nil, nil
	}
	var all []store.Message
	err = t.db().Raw("SELECT x.* FROM (SELECT rowid FROM words WHERE words MATCH ? ORDER BY rowid DESC LIMIT ?) w CROSS JOIN messages x ON x.id = w.rowid WHERE +x.box_id = ? AND x.held = '' ORDER BY x.date DESC, x.id DESC",
		match, looked, box).Scan(&all).Error
	is := func(a mail.Address) bool { return a.Address == address }
	for _, m := range all {
		if m.FromAddr == address && !m.Own || m.Own && (slices.ContainsFunc(m.To, is) || slices.ContainsFunc(m.Cc, is)) {
			out = append(out, m)
		}
	}
	return out, err
}

// DocumentsWith gives up to n texts of these kinds that name an address among their
// people, the newest first.
func (t Finding) DocumentsWith(box int64, address string, n int, kinds ...search.DocumentKind) (out []store.Document, err error) {
	match := named(address)
	if match == "" {
		return nil, nil
	}
	err = t.db().Raw("SELECT d.* FROM (SELECT rowid FROM document_words WHERE document_words MATCH ? ORDER BY rowid DESC LIMIT ?) w CROSS JOIN documents d ON d.id = w.rowid WHERE +d.box_id = ? AND d.kind IN ? ORDER BY d.at DESC, d.id DESC",
		match, n, box, kinds).Scan(&out).Error
	return out, err
}

// FollowUps gives follow-ups of a box by their UIDs.
func (t Finding) FollowUps(box int64, uids []string) (map[string]store.FollowUp, error) {
	in, err := json.Marshal(uids)
	if err != nil {
		return nil, err
	}
	var rows []store.FollowUp
	err = t.db().Raw("SELECT f.* FROM json_each(?) x CROSS JOIN follow_ups f ON f.box_id = ? AND f.uid = x.value", string(in), box).Scan(&rows).Error
	out := map[string]store.FollowUp{}
	for _, r := range rows {
		out[r.UID] = r
	}
	return out, err
}
