package probe

import (
	"path"
	"strings"
)

// systemDrive is where Windows lies, unless it says something else.
const systemDrive = "C:"

// shares stands for the folders of other machines, which begin with two strokes.
const shares = "unc:"

// fromWindows is a path of Windows as it is kept here: with slashes, and as if the drive of
// the system were all there is. Other drives are folders of that, such as /d:, and so are
// the shares of other machines, /unc:.
func fromWindows(at, system string) string {
	if at == "" {
		return ""
	}
	at = strings.ReplaceAll(at, `\`, "/")
	at = strings.TrimPrefix(at, "//?/")
	switch {
	case strings.HasPrefix(at, "//"):
		return path.Clean("/" + shares + "/" + at)
	case isDrive(at) && strings.EqualFold(at[:2], system):
		return path.Clean("/" + at[2:])
	case isDrive(at):
		return path.Clean("/" + strings.ToLower(at[:2]) + "/" + at[2:])
	}
	return path.Clean("/" + at)
}

// toWindows is a path that is kept here as Windows writes it.
func toWindows(at, system string) string {
	rest, ok := strings.CutPrefix(at, "/")
	if !ok {
		return at
	}
	first, below, _ := strings.Cut(rest, "/")
	switch {
	case first == shares:
		return `\\` + strings.ReplaceAll(below, "/", `\`)
	case len(first) == 2 && isDrive(first):
		system, rest = strings.ToUpper(first), below
	}
	return system + `\` + strings.ReplaceAll(rest, "/", `\`)
}

// isDrive reports whether a path begins with a drive.
func isDrive(at string) bool {
	return len(at) > 1 && at[1] == ':' && (at[0]|0x20 >= 'a' && at[0]|0x20 <= 'z')
}
