package claim

// Limits of reading. A file or tree beyond them costs only itself, and what was left out
// is told of. Every limit of this package stands here; docs/security.md lists them.
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

	maxDot = 3 // folders below a dot-folder

	// Within one file. A library is given nothing that goes beyond these.
	maxNesting   = 200       // brackets, blocks or elements inside each other
	maxHCL       = 1 << 20   // bytes: its scanner makes a hundred of each
	maxChain     = 1_000     // operators or steps of one expression
	maxTemplate  = 10_000    // parts of one text with places to fill in
	maxControls  = 200       // conditions and loops of one such text
	maxParts     = 64        // parts of one dotted key
	maxValues    = 1_000_000 // values, aliases not followed
	maxNodes     = 2_000_000 // values, aliases followed
	maxElements  = 400_000   // XML elements
	maxLines     = 400_000   // lines of a file that is read by lines
	maxKeys      = 10_000    // keys of one TOML table: the library compares each with all before it
	maxDocuments = 64        // YAML documents
	maxLooks     = 10 * MaxClaims
	most         = 256  // values of one pattern in a file
	maxText      = 1024 // bytes of a text in which variables are replaced
	maxDemands   = 500  // different demands of a lock file; real ones have some dozens

	// Work, in steps: a step is a byte parsed, a value looked at, or an instruction of a
	// pattern at a byte, and takes some nanoseconds. Readers spend them as they go.
	fileSteps = 100_000_000
	allSteps  = 4_000_000_000

	// Of a user's rules.
	maxRules        = 200   // claims of one file of rules, and globs of one of its lists
	maxRuleText     = 1_000 // bytes of one glob, selector or pattern
	maxInstructions = 2_000 // what a pattern compiles to
)
