package reading

import "wexo/internal/core/scan"

// Limits of reading a repository. A file or tree beyond them costs only itself, and what
// was left out is told of. docs/security.md lists the limits.
const (
	MaxKnown  = scan.MaxKnown
	MaxShape  = scan.MaxShape
	MaxClaims = scan.MaxClaims

	MaxDepth    = 40      // folders below the root
	MaxFiles    = 500_000 // files of one repository
	MaxFolders  = 100_000 // folders of one repository
	MaxAllUses  = 100_000 // files of one repository that show what is used
	MaxAll      = 50_000  // claims of one repository
	MaxProblems = 5_000   // of one repository
	// MaxSame is how often one folder is read where git holds it at many places: a tree of
	// some dozen objects can be made to have more folders than any disk could hold.
	MaxSame = 500

	maxDot     = 3   // folders below a dot-folder
	maxDemands = 500 // different demands of a lock file; real ones have some dozens
)
