package wire

// Checkpoint is the journal as it is, signed.
type Checkpoint struct {
	Size       int64    `json:"size"`
	Checkpoint string   `json:"checkpoint"` // a signed note
	Key        string   `json:"key"`
	Proof      []string `json:"proof,omitempty"` // that it goes on from the size that was asked for: hashes in base64
}
