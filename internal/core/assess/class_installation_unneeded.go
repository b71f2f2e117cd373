package assess

var installationUnneeded = Class{
	"installation-unneeded", 3, Note, "Installation unneeded", "Unneeded", "spare",
	"no repository that a machine matters to would run an installation on it; told with its size and what would go with it",
	nil, // judged machine by machine
}
