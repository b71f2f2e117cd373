// Package fact holds what is known of a repository before anything is judged: what its files
// claim, and what it decides of itself. Claims know nothing of decisions, so the two meet here.
package fact

import (
	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
)

// Reading is everything one repository says.
type Reading struct {
	claim.Reading
	Settings policy.Settings `json:"settings,omitzero"` // what the repository decides of itself
	// Plain is what the repository says without its own rules, where they say how it is read.
	Plain *Reading `json:"plain,omitempty"`
}
