package assess

var toolsIncompatible = Class{
	"tools-incompatible", 4, Error, "Tools incompatible", "Incompatible", "untied",
	"a rule of what must go together is broken: by what is asked for, or by what would run together",
	nil, // judged over all tools of a folder
}

// The ways in which tools do not go together.
const (
	AskedTogether   Kind = "asked"   // what is asked for cannot go together
	RunningTogether Kind = "running" // what runs together does not
	JointTogether   Kind = "joint"   // no rule alone is broken, and all together cannot hold
)
