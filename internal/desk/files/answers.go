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
	Message int64        `json:"message"`
	Number  int          `json:"number"` // which of its files, from 0
	File    mail.File    `json:"file"`
	At      when.Instant `json:"at"`
	From    mail.Address `json:"from"`
	Own     bool         `json:"own"`
}

// FilesView is the files of a conversation, or between the reader and a person, the newest first.
type FilesView struct {
	Of    string    `json:"of"`    // what the conversation, or the person, is called
	Files []FileRow `json:"files"` // a thousand at most
	Bytes int64     `json:"bytes"` // of those shown, together
}
