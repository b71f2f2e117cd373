// Package trust is the line between what the lead decides and what a repository, an image or a
// stranger's folder says: who controls what, and what may be run, read, decided and shown because
// of it. The code that draws each row is named by its tests; docs/security.md shows the rows, and
// a test holds that every row has tests that are there.
package trust

// Row is what somebody who controls something may do by it.
type Row struct {
	Who    string // what is controlled, and so who speaks
	Run    string
	Read   string
	Decide string
	Show   string
	Tests  []string // names of test functions, or of attacks in quotes
}

const (
	nothing = "nothing"
	// usual is what everything that is told passes.
	usual = "text without controls"
)

// Line is the line, from those who may least to those who may most.
var Line = []Row{
	{
		Who:    "a repository's files, as committed or unpacked",
		Run:    "nothing: no toolchain of it is an installation, wherever it lies, and `with` puts none on PATH",
		Read:   "its own tree; no link leads out of it",
		Decide: "what it asks for; what its `.wexo.yaml` takes away is counted and told, and `repositories-decide` says which of it holds; no severity, horizon, policy by tag, or earlier end",
		Show:   "the values that it claims and their keys; rules and words of its own, without controls",
		Tests:  []string{"TestNothingOfAHostileTreeIsStarted", "TestWhereFilesComeFrom", "TestWhatGitTracks", "TestWhatOwnRulesTakeAway", "TestWhoBuildsWhat", "TestTheLaterEndHolds", "TestOnlyTheClaim", "\"a stranger's tree in a home\"", "\"repositories that silence what is found in them\""},
	},
	{
		Who:    "a `wexo.yaml`, catalogue or data file that a repository, an archive or somebody else's folder holds",
		Run:    nothing,
		Read:   nothing,
		Decide: "nothing: it is told as not used, and `--config`, `--catalogue` or `--data` names it",
		Show:   "that it is there",
		Tests:  []string{"TestWhichConfigurationCounts", "TestADataFileOfSomebodys", "\"a stranger's tree in a home\""},
	},
	{
		Who:    "a repository's `.git`",
		Run:    "nothing: no git is started",
		Read:   "its objects, refs and tables; nothing below it is followed out, and no configuration of it is obeyed. What it names outright (`objects`, `commondir`, alternates) may lie elsewhere, and in a service below the roots alone",
		Decide: "which commit is read, and its address at a host",
		Show:   "that address, the refs' names",
		Tests:  []string{"TestPartsThatLeadOut", "TestAnyNameOfABranch", "TestRefsInTables", "TestModesAreReadAsGitDoes", "TestDeltasHaveAnEnd", "\"ways out of the roots\""},
	},
	{
		Who:    "a container image, or a folder given as `--root`",
		Run:    nothing,
		Read:   "itself, through one root that nothing leaves; 4 GB unpacked, 50 times its size, and a disk with room",
		Decide: "what that machine has and prefers",
		Show:   "its names and versions",
		Tests:  []string{"TestAnImageThatIsATrap", "TestAllowance", "\"a stranger's tree on a machine and in an image\"", "\"images that are traps\""},
	},
	{
		Who:    "an executable on this machine",
		Run:    "itself, to tell its version, where no file does: only what nobody else may write, that no repository or source holds and that is not surveyed; without network, in an empty place, for two seconds",
		Read:   "what any program of the account may",
		Decide: "its own version",
		Show:   usual,
		Tests:  []string{"TestAskingHasLimits", "TestNothingThatIsPointedAtIsStarted"},
	},
	{
		Who:    "a catalogue folder that the user names",
		Run:    "executables by its names, with one of few arguments; others where a configuration that is named says `trusted: true`",
		Read:   "files of installations that it names",
		Decide: "what is known of tools, rules and baselines",
		Show:   usual,
		Tests:  []string{"TestTheArgumentsOfACatalogue", "TestMistakesInAToolsFile"},
	},
	{
		Who:    "a machine that sends its inventory (a **collector**'s token)",
		Run:    nothing,
		Read:   "nothing but the answer",
		Decide: "what one machine has: the one that its token was made for, or the first that nobody holds",
		Show:   usual,
		Tests:  []string{"TestInventoriesOfOddClocksAndOthersMachines", "\"machines, bodies and paths of others\""},
	},
	{
		Who:    "a **reader**'s token",
		Run:    nothing,
		Read:   "every report; of files the claim's own line, all but its value and key masked",
		Decide: nothing,
		Show:   nothing,
		Tests:  []string{"TestTheAccessMatrix", "TestTheTextAroundAClaim", "\"secrets beside claims\""},
	},
	{
		Who:    "a **lead**'s token",
		Run:    nothing,
		Read:   "as a reader; with `show-lines: around` the lines beside a claim, without what looks like a secret",
		Decide: "repositories below the roots, surveys, machines",
		Show:   nothing,
		Tests:  []string{"TestTheAccessMatrix", "TestTheLinesAroundAClaim", "TestMask"},
	},
	{
		Who:    "an **owner**'s token",
		Run:    nothing,
		Read:   "as a lead",
		Decide: "tokens and sessions; not the service's files and roots",
		Show:   nothing,
		Tests:  []string{"TestTheAccessMatrix"},
	},
	{
		Who:    "whoever connects without a token",
		Run:    nothing,
		Read:   "`/health`, `/ready`, the contract, the console's files",
		Decide: "nothing; ten tries to sign in a minute and address",
		Show:   nothing,
		Tests:  []string{"TestHealthAndConsole", "TestACrowd", "TestWhoDoesNotRead", "TestGuessingIsSlow", "\"who asks and does not read\""},
	},
	{
		Who:    "the data file, by whatever name",
		Run:    nothing,
		Read:   nothing,
		Decide: "everything the service knows; one service holds it, one that is gone or newer is not written",
		Show:   nothing,
		Tests:  []string{"TestOneServiceADataFile", "TestADataFileThatIsGone", "TestAFileOfANewerVersion", "\"other names of the data file\""},
	},
	{
		Who:    "options, variables, the user's configuration folder, PATH and start-up files",
		Run:    "what the user has `with` run",
		Read:   "what the account may",
		Decide: "everything",
		Show:   "everything",
		Tests:  []string{"TestWhichConfigurationCounts", "TestWith", "TestStartupFiles"},
	},
}
