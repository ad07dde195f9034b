package post

// MaxMessage is the largest message that is taken in, in bytes.
const MaxMessage = 200 << 20

// Flags are what the place a message comes from says about it: Maildir's
// info suffix, or the Status and X-Status fields of an mbox.
type Flags struct {
	Known   bool // the place keeps flags at all
	Seen    bool
	Flagged bool
	Trashed bool
}

// Item is one message on its way in.
type Item struct {
	Raw   []byte
	Flags Flags

	UID     int64 // in the folder of an account it comes from; else 0
	Stub    int64 // bytes that the whole message has, if Raw is its header alone; else 0
	Reached int64 // once this is stored, all from or to that UID have been; 0: nothing is said
}
