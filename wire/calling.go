package wire

import "oldledger/core/versioning"

// Calling is how an API is called.
type Calling struct {
	Versioning string          `json:"versioning"` // "path /v{line}"; "" where nobody said
	Undeclared string          `json:"undeclared"` // what its server does with input that is not declared; "" where nobody said
	Versions   []CalledVersion `json:"versions"`   // those that are answered, and drafts; the newest first
}

// CalledVersion is one version as callers choose it.
type CalledVersion struct {
	Ref     string             `json:"ref"`
	Says    string             `json:"says,omitempty"`  // "by the path, with /v2"
	Usual   bool               `json:"usual,omitempty"` // whether a call means it that says no version
	Faults  []versioning.Fault `json:"faults"`          // where its description says otherwise
	Clashes []versioning.Clash `json:"clashes"`         // other APIs whose calls nobody tells from its
}
