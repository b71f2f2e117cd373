package assess

var fileUnreadable = Class{
	"file-unreadable", 5, Warning, "File unreadable", "Unreadable", "unreadable",
	"a known file cannot be read or parsed, or only in part because it says more than the limits allow",
	nil, // of files, and of bounds that cannot be read
}
