package assess

var rulesUndecided = Class{
	"rules-undecided", 11, Error, "Rules undecided", "Undecided", "question",
	"more is said of a folder's tools than can be weighed together, or a rule has more choices than are written out: whether all can hold is not known",
	nil, // of views
}
