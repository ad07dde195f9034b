package queue

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
)

// What is written by hand is what encoding/json writes.
func TestTheOrderAsJSON(t *testing.T) {
	for _, q := range []Queue{
		{Groups: []QueueGroup{}, Slips: []Slip{}},
		{Groups: []QueueGroup{{Key: "without an order"}}},
		{Groups: []QueueGroup{{Key: "today", Count: 2, IDs: []byte("[7,9]")}, {Key: "null}", Name: `"<Mirela>"`, IDs: []byte("[]")}}, Slips: []Slip{{ID: 7, Subject: `{"groups":null`}}, Shown: 2, Left: 3},
	} {
		want, err := json.Marshal(q)
		require.NoError(t, err)
		got, err := q.AppendJSON(nil)
		require.NoError(t, err)
		require.Equal(t, string(want), string(got))
	}
}
