package assess

var fileUnclaimed = Class{
	"file-unclaimed", 1, Note, "File unclaimed", "Unclaimed", "unclaimed",
	"a file looks like a version file and belongs to no known tool",
	nil, // of files
}
