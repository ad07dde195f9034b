package inbox

import "ebbe/internal/core/mail"

// Place is where a conversation is; it is in exactly one.
type Place = mail.Place

// Places are all there are.
var Places = []Place{Inbox, Snoozed, Held, Archived, Bin, Junk}
