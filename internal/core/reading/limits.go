package reading

// Limits of reading a repository. A file or tree beyond them costs only itself, and what
// was left out is told of. docs/security.md lists the limits.
const (
	MaxKnown  = 8 << 20  // bytes of a known file; lock files are long
	MaxShape  = 64 << 10 // bytes of a file that is looked at for its shape
	MaxClaims = 10_000   // of one file

	MaxDepth    = 40      // folders below the root
	MaxFiles    = 500_000 // files of one repository
	MaxFolders  = 100_000 // folders of one repository
	MaxAllUses  = 100_000 // files of one repository that show what is used
	MaxAll      = 50_000  // claims of one repository
	MaxProblems = 5_000   // of one repository
	// MaxSame is how often one folder is read where git holds it at many places: a tree of
	// some dozen objects can be made to have more folders than any disk could hold.
	MaxSame = 500

	maxDot     = 3 // folders below a dot-folder
	maxLooks   = 10 * MaxClaims
	maxText    = 1024 // bytes of a text in which variables are replaced
	maxDemands = 500  // different demands of a lock file; real ones have some dozens
)
