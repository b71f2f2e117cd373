package assess

var ruleIdle = Class{
	"rule-idle", 5, Note, "Rule idle", "Idle", "idle",
	"a rule of a repository's own changes nothing: no file is called so, or nothing in it is selected; or a file of rules stands where nobody reads it",
	nil, // of files
}
