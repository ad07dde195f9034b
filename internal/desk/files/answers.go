package files

import (
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post/fileshow"
)

// FileLook is how a file is shown, and what there is to go to in it.
type FileLook struct {
	File   mail.File     `json:"file"`
	Shows  fileshow.Kind `json:"shows"`
	Says   string        `json:"says,omitempty"` // what there is to know of it, in sentences
	Turns  int           `json:"turns"`          // parts of it that one can turn to
	Places int           `json:"places"`         // where what was looked for stands in it
}

// FileRow is a file in a list, with the message it came with.
type FileRow struct {
	Message      int64        `json:"message"`
	Number       int          `json:"number"` // which of its files, from 0
	Conversation int64        `json:"conversation"`
	File         mail.File    `json:"file"`
	At           when.Instant `json:"at"`
	From         mail.Address `json:"from"`
	Own          bool         `json:"own"`
	Subject      string       `json:"subject"`
}

// FilesView is the files of a conversation or of a person, the newest first.
type FilesView struct {
	Of    string    `json:"of"`             // what the conversation or the person is called
	Files []FileRow `json:"files"`          // of a person a page of them
	Next  string    `json:"next,omitempty"` // what comes after them; empty: nothing
	Bytes int64     `json:"bytes"`          // of those shown, together
}
