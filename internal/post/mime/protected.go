package mime

import (
	"strings"

	"github.com/smallstep/pkcs7"

	"ebbe/internal/core/mail"
)

// maxSigned is how many bytes of a signed message are unwrapped.
const maxSigned = 32 << 20

// protectionOf says how a message is protected as a whole (RFC 8551, section 3.2; RFC 3156),
// and gives what stands within a signature that has been wrapped around it, nil if none has.
func protectionOf(root *node, text string) (p mail.Protection, within *node) {
	switch protocol := strings.ToLower(root.params["protocol"]); root.kind {
	case "multipart/signed":
		if strings.Contains(protocol, "pkcs7-signature") {
			return mail.SMIMESigned, nil
		}
		if strings.Contains(protocol, "pgp-signature") {
			return mail.PGPSigned, nil
		}
	case "multipart/encrypted":
		return mail.PGPEncrypted, nil
	case "application/pkcs7-mime", "application/x-pkcs7-mime":
		if how := strings.ToLower(root.params["smime-type"]); how == "signed-data" || how == "" {
			if within := unwrapped(root.content()); within != nil {
				return mail.SMIMESigned, within
			}
		}
		return mail.SMIMEEncrypted, nil
	}
	switch text = strings.TrimLeft(text, " \t\r\n"); { // as programs of before RFC 3156 have it
	case strings.HasPrefix(text, "-----BEGIN PGP MESSAGE-----"):
		return mail.PGPEncrypted, nil
	case strings.HasPrefix(text, "-----BEGIN PGP SIGNED MESSAGE-----"):
		return mail.PGPSigned, nil
	}
	return mail.Unprotected, nil
}

// unwrapped is the part that a signature is wrapped around (RFC 5652, section 5); nil if
// there is none, or it cannot be read.
func unwrapped(content []byte) (within *node) {
	if len(content) > maxSigned {
		return nil
	}
	defer func() {
		if recover() != nil { // a reader of what others have wrapped can stumble
			within = nil
		}
	}()
	wrapped, err := pkcs7.Parse(content)
	if err != nil || len(wrapped.Content) == 0 {
		return nil
	}
	within, err = takeApart(wrapped.Content)
	if err != nil {
		return nil
	}
	return within
}
