package inbox

import "ebbe/internal/core/mail"

// Place is where a conversation is; it is in exactly one.
type Place = mail.Place
