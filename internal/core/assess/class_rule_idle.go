package assess

var ruleIdle = Class{
	"rule-idle", 5, Note, "Rule idle", "Idle", "idle",
	"a rule of a repository's own changes nothing: no file is called so, or nothing in it is selected; a file of rules stands where nobody reads it; or an entry of the estate's configuration matches nothing that is there (a warning)",
	nil, // of files
}
