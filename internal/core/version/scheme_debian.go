package version

import (
	"errors"
	"strings"
)

// Debian's package versions: [epoch:]upstream[-revision]. A tilde sorts before
// everything, even the end; letters before other signs; runs of digits as numbers.
//
// The key: the epoch, then upstream and revision, each as signs and numbers in turn;
// no revision is revision 0.
const (
	debTilde = 0x01
	debEnd   = 0x02 // the end of a run of signs, and of a part
	debOther = 0x80 // added to signs other than letters
)

func parseDebian(raw string) (Version, error) {
	epoch, upstream, revision, err := readDebian(strings.TrimSpace(raw))
	if err != nil {
		return Version{}, err
	}
	key := appendNumber(make([]byte, 0, 48), epoch)
	key = appendDebian(key, upstream)
	key = appendDebian(key, revision)
	numbers, rest, _ := numbersOf(upstream)
	return plainVersion(string(key), strings.TrimSpace(raw), len(numbers), false, revision != "" || rest != "" || len(numbers) > 2), nil
}

func readDebian(s string) (epoch, upstream, revision string, err error) {
	if before, after, ok := strings.Cut(s, ":"); ok {
		if !allDigits(before) || len(trimZeros(before)) > 10 || len(trimZeros(before)) == 10 && trimZeros(before) > "2147483647" {
			return "", "", "", errors.New("the epoch before the colon is not a number up to 2147483647")
		}
		epoch, s = before, after
	}
	upstream = s
	if at := strings.LastIndexByte(s, '-'); at >= 0 {
		upstream, revision = s[:at], s[at+1:]
		if revision == "" {
			return "", "", "", errors.New("nothing follows the last hyphen")
		}
	}
	if upstream == "" || upstream[0] == '-' {
		return "", "", "", errNumber
	}
	if !debianSigns(upstream, ".+-~:") || !debianSigns(revision, ".+~") {
		return "", "", "", errors.New("it holds other than letters, digits and . + - ~")
	}
	return epoch, upstream, revision, nil
}

func debianSigns(s, others string) bool {
	run := 0
	for i := range len(s) {
		if !digit(s[i]) && !letter(s[i]) && strings.IndexByte(others, s[i]) < 0 {
			return false
		}
		if run++; !digit(s[i]) {
			run = 0
		}
		if run > maxDigits {
			return false
		}
	}
	return true
}

func appendDebian(key []byte, s string) []byte {
	for {
		for s != "" && !digit(s[0]) {
			switch c := s[0]; {
			case c == '~':
				key = append(key, debTilde)
			case letter(c):
				key = append(key, c)
			default:
				key = append(key, c+debOther)
			}
			s = s[1:]
		}
		digits, rest := cutDigits(s)
		key = appendNumber(append(key, debEnd), digits)
		if s = rest; s == "" {
			return append(key, debEnd)
		}
	}
}

func lineDebian(raw string) (from, to string, err error) {
	epoch, upstream, revision, err := readDebian(strings.TrimSpace(raw))
	numbers, rest, numberErr := numbersOf(upstream)
	if err != nil || numberErr != nil || rest != "" || revision != "" {
		return "", "", errors.New("not a partial version")
	}
	return debianNumbers(epoch, numbers), debianNumbers(epoch, bumped(numbers)), nil
}

// debianNumbers begins the keys of everything with these numbers, before 3.12~rc1 too.
func debianNumbers(epoch string, numbers []string) string {
	key := appendDebian(appendNumber(nil, epoch), strings.Join(numbers, "."))
	return string(key[:len(key)-1])
}

func printDebian(key string) (text, mark string) {
	epoch, key, _ := cutNumber(key)
	upstream, key, _ := cutDebian(key)
	revision, _, whole := cutDebian(key)
	if epoch != "0" || strings.Contains(upstream, ":") {
		text = epoch + ":"
	}
	text += upstream
	if revision != "0" && revision != "" || strings.Contains(upstream, "-") {
		text += "-" + revision
	}
	return text, starred(whole)
}

// cutDebian reads one part back; whole tells whether its end was there.
func cutDebian(key string) (part, rest string, whole bool) {
	var b strings.Builder
	for {
		c, after := cutTag(key)
		for c > debEnd || c == debTilde {
			switch {
			case c == debTilde:
				b.WriteByte('~')
			case c >= debOther:
				b.WriteByte(c - debOther)
			default:
				b.WriteByte(c)
			}
			c, after = cutTag(after)
		}
		if c != debEnd {
			return b.String(), after, false
		}
		n, rest, ok := cutNumber(after)
		if !ok {
			return b.String(), after, false
		}
		b.WriteString(n)
		if rest != "" && rest[0] == debEnd {
			return b.String(), rest[1:], true
		}
		if rest == "" {
			return b.String(), "", false
		}
		key = rest
	}
}
