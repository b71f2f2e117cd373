package document

// Limits of one file and of the work that reading takes. A library is given nothing that
// goes beyond these. docs/security.md lists the limits.
const (
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
	most         = 256       // values of one pattern in a file

	maxSelector     = 1_000 // bytes of one selector or pattern
	maxInstructions = 2_000 // what a user's pattern compiles to

	// Work, in steps: a step is a byte parsed, a value looked at, or an instruction of a
	// pattern at a byte, and takes some nanoseconds. Readers spend them as they go.
	fileSteps = 100_000_000
	allSteps  = 4_000_000_000
)
