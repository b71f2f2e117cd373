package cli

// Status is an exit status of a command, with what it means there.
type Status struct {
	Status int
	Means  string
}

// Words of statuses that many commands share.
const (
	done      = "done"
	wrongUse  = "wrong usage or configuration"
	unservice = "the service does not answer, or says no"
)

// Statuses are the exit statuses of every command, by its words behind "wexo"; the documentation
// has them from here. That of with is its command's, once that runs.
func Statuses() map[string][]Status {
	service := []Status{{0, done}, {2, wrongUse}, {3, unservice}}
	return map[string][]Status{
		"catalogue check": {{0, "nothing is wrong"}, {2, "something is, or wrong usage"}},
		"catalogue show":  {{0, done}, {2, "no tool is called so, or wrong usage"}},
		"demo":            {{0, done}, {2, wrongUse}, {3, "it cannot be laid out or served"}},
		"inventory":       {{0, done}, {2, wrongUse}, {3, "what was named is not there or cannot be read"}},
		"lines":           {{0, done}, {2, wrongUse}},
		"needs":           {{0, "all that matters was seen, and what is needed is listed"}, {2, wrongUse}, {3, "something was not found, not read or not decided: more may be needed"}},
		"order":           {{0, done}, {2, "a version or the scheme is none, or wrong usage"}},
		"reconcile":       {{0, "all can hold together"}, {1, "it cannot"}, {2, wrongUse}, {3, "something was not found or not read, or it was not decided"}},
		"rules":           {{0, done}, {2, wrongUse}},
		"satisfies":       {{0, "a version is in the range"}, {1, "none is"}, {2, "the range or a version is none, or wrong usage"}},
		"serve":           {{0, "it was stopped"}, {2, wrongUse}, {3, "it cannot serve: the address is taken, the data file cannot be used"}},
		"survey":          {{0, "nothing at or above --fail-on, and everything was seen"}, {1, "findings at or above it"}, {2, wrongUse}, {3, "something was not found, not read or not decided, so that what rests on it is not known"}},
		"trace":           {{0, "everything was seen that may speak of it"}, {2, wrongUse}, {3, "something was not found or not read that may"}},
		"with":            {{0, "the command's own status; without one, the lines are printed"}, {2, wrongUse}, {3, "nothing fits what the folder asks for, or not all is known that it asks for"}},

		"findings": service, "machines changes": service, "machines list": service, "machines remove": service, "machines send": service,
		"repositories list": service, "repositories remove": service,
		"repositories add": {{0, done}, {2, wrongUse}, {3, unservice + ", or a folder could not be looked into"}},
		"machines unit":    {{0, done}, {2, wrongUse}, {3, "the files cannot be written"}},
		"sessions list":    service, "sessions remove": service, "tokens add": service, "tokens list": service, "tokens remove": service,
		"tokens recover": {{0, done}, {2, wrongUse}, {3, "the data file cannot be used"}},
	}
}
