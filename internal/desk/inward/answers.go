package inward

// InwardView is what the user's addresses into Ebbe are made of.
type InwardView struct {
	Key  string `json:"key"`  // the secret part, where they have just been made; it is told once
	Made bool   `json:"made"` // there are some
	Host string `json:"host"` // empty: nothing is taken there
}
