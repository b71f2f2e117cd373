package version

import (
	"errors"
	"slices"
	"strings"
)

// Maven's versions: any text, read as numbers and qualifiers, where hyphens and
// changes between digits and letters open a list inside the list.
//
// Maven compares list by list and takes what is missing as null, which it places by
// what stands on the other side. Taken literally, a few mixed forms run in a circle
// (1 < 1.sp.1 < 1-alpha < 1); the key gives every element its place against null and
// so cuts those circles, and agrees with Maven on everything else.
//
// The key: an element a place, by tag; mavenEnd is null. Zeros are counted, since a
// zero is null unless something follows it.
const (
	mavenEarly      = 0x01 // a qualifier before the release: one byte, its rank
	mavenEmptyEarly = 0x02 // an empty qualifier, with something early behind it
	mavenEarlyList  = 0x03 // a list that sorts before null
	mavenZerosEarly = 0x04 // zeros, counted, then one of the first two
	mavenEnd        = 0x05
	mavenEmpty      = 0x06 // an empty qualifier, with something late behind it
	mavenLate       = 0x07 // sp, or any other word
	mavenList       = 0x08 // a list that sorts after null
	mavenZerosLate  = 0x09 // zeros, counted, then one of the two qualifiers above
	mavenZeros      = 0x0a // zeros, counted down, then a number
	mavenNumber     = 0x0b
)

// mavenRanks are the qualifiers with a place of their own; "" is the release.
var mavenRanks = []string{"alpha", "beta", "milestone", "rc", "snapshot", "", "sp"}

const mavenRelease = 5 // the rank of ""

// mavenItem is a number, a qualifier or a list; a list is always the last of its list.
type mavenItem struct {
	number string // "" where it is none
	word   string
	list   []mavenItem
}

func (i mavenItem) isNumber() bool { return i.number != "" }
func (i mavenItem) isList() bool   { return i.list != nil }

func (i mavenItem) null() bool {
	return i.number == "0" || i.number == "" && !i.isList() && i.word == ""
}

func parseMaven(raw string) (Version, error) {
	s := strings.ToLower(strings.TrimSpace(raw))
	if s == "" {
		return Version{}, errors.New("nothing is written")
	}
	for i := range len(s) {
		if s[i] <= ' ' || s[i] > '~' || strings.IndexByte("[](),<>=|;*", s[i]) >= 0 {
			return Version{}, errors.New("it holds a space, a bracket, a comma, one of < > = | ; * or other than ASCII")
		}
	}
	items := mavenItems(s, false)
	key := appendMaven(make([]byte, 0, 48), items)
	if len(key) > 1<<12 {
		return Version{}, errors.New("it is too deeply nested")
	}
	digits, rest, _ := numbersOf(s)
	return plainVersion(string(key), strings.TrimSpace(raw), len(digits), mavenEarlier(items), len(digits) > 2 || rest != ""), nil
}

// mavenEarlier tells whether what follows the leading numbers puts a version before them.
func mavenEarlier(items []mavenItem) bool {
	for _, item := range items {
		if !item.isNumber() {
			return mavenSign([]mavenItem{item}) < 0
		}
	}
	return false
}

// mavenItems reads one list; what opens a list inside it is read by calling itself.
func mavenItems(s string, digits bool) []mavenItem {
	var items []mavenItem
	start := 0
	nested := func(from int, digits bool) []mavenItem {
		return mavenNormal(append(items, mavenItem{list: mavenItems(s[from:], digits)}))
	}
	for i := start; i < len(s); i++ {
		c := s[i]
		switch {
		case c == '.':
			items = append(items, mavenPart(s[start:i], digits, true, false))
			start = i + 1
		case c == '-':
			items = append(items, mavenPart(s[start:i], digits, true, false))
			return nested(i+1, digits)
		case digit(c) && !digits && i > start:
			word := mavenPart(s[start:i], false, false, true)
			if len(items) > 0 {
				inner := mavenNormal([]mavenItem{word, {list: mavenItems(s[i:], true)}})
				return mavenNormal(append(items, mavenItem{list: inner}))
			}
			items = append(items, word)
			return nested(i, true)
		case digit(c):
			digits = true
		case digits && i > start:
			items = append(items, mavenPart(s[start:i], true, false, false))
			return nested(i, false)
		default:
			digits = false
		}
	}
	if start == len(s) {
		return mavenNormal(items)
	}
	part := mavenPart(s[start:], digits, false, false)
	if !digits && len(items) > 0 {
		return mavenNormal(append(items, mavenItem{list: mavenNormal([]mavenItem{part})}))
	}
	return mavenNormal(append(items, part))
}

// mavenPart is one number or qualifier; nothing before a separator is a zero.
func mavenPart(s string, digits, separated, beforeDigit bool) mavenItem {
	switch {
	case s == "" && separated:
		return mavenItem{number: "0"}
	case digits:
		return mavenItem{number: shown(s)}
	}
	if beforeDigit {
		switch s {
		case "a":
			s = "alpha"
		case "b":
			s = "beta"
		case "m":
			s = "milestone"
		}
	}
	switch s {
	case "ga", "final", "release":
		s = ""
	case "cr":
		s = "rc"
	}
	return mavenItem{word: s}
}

// mavenNormal drops what is null at the end and before the list that ends it.
func mavenNormal(items []mavenItem) []mavenItem {
	for i := len(items) - 1; i >= 0; i-- {
		switch {
		case items[i].isList() && len(items[i].list) == 0, items[i].null():
			items = slices.Delete(items, i, i+1)
		case !items[i].isList():
			return items
		}
	}
	if items == nil {
		items = []mavenItem{}
	}
	return items
}

// mavenSign compares a list with null.
func mavenSign(items []mavenItem) int {
	for _, i := range items {
		switch {
		case i.isList():
			if sign := mavenSign(i.list); sign != 0 {
				return sign
			}
		case i.isNumber():
			if i.number != "0" {
				return 1
			}
		default:
			if rank := slices.Index(mavenRanks, i.word); rank < 0 || rank > mavenRelease {
				return 1
			} else if rank < mavenRelease {
				return -1
			}
		}
	}
	return 0
}

func appendMaven(key []byte, items []mavenItem) []byte {
	for len(items) > 0 {
		i := items[0]
		switch {
		case i.isList():
			tag := byte(mavenList)
			if mavenSign(i.list) < 0 {
				tag = mavenEarlyList
			}
			return appendMaven(append(key, tag), i.list)
		case i.number == "0":
			zeros := 0
			for zeros < len(items)-1 && items[zeros].number == "0" {
				zeros++
			}
			items = items[zeros:]
			key = appendMavenZeros(key, byte(zeros), items)
			continue
		case i.isNumber():
			key = appendNumber(append(key, mavenNumber), i.number)
		default:
			key = appendMavenWord(key, i.word, items[1:])
		}
		items = items[1:]
	}
	return append(key, mavenEnd)
}

// appendMavenZeros writes how many zeros come before the first of items, so that
// more of them are nearer to null.
func appendMavenZeros(key []byte, zeros byte, items []mavenItem) []byte {
	switch {
	case items[0].isNumber():
		return append(key, mavenZeros, 255-zeros)
	case mavenSign(items) < 0:
		return append(key, mavenZerosEarly, zeros)
	}
	return append(key, mavenZerosLate, zeros)
}

func appendMavenWord(key []byte, word string, rest []mavenItem) []byte {
	rank := slices.Index(mavenRanks, word)
	switch {
	case rank < 0:
		return appendWord(append(key, mavenLate, byte(len(mavenRanks))), word)
	case rank < mavenRelease:
		return append(key, mavenEarly, byte(rank))
	case rank > mavenRelease:
		return append(key, mavenLate, byte(rank))
	case mavenSign(rest) < 0:
		return append(key, mavenEmptyEarly)
	}
	return append(key, mavenEmpty)
}

func lineMaven(raw string) (from, to string, err error) {
	numbers, rest, err := numbersOf(strings.TrimSpace(raw))
	if err != nil || rest != "" {
		return "", "", errors.New("not a partial version")
	}
	return mavenNumbers(numbers), mavenNumbers(bumped(numbers)), nil
}

// mavenNumbers begins the keys of everything with these numbers.
func mavenNumbers(numbers []string) string {
	var items []mavenItem
	for _, n := range numbers {
		items = append(items, mavenItem{number: n})
	}
	key := appendMaven(nil, mavenNormal(items))
	return string(key[:len(key)-1])
}

func printMaven(key string) (text, mark string) {
	items, _, whole := cutMaven(key)
	if text = mavenText(items); text == "" {
		text = "0"
	}
	return text, starred(whole)
}

// cutMaven reads a list back; whole tells whether its end was there.
func cutMaven(key string) (items []mavenItem, rest string, whole bool) {
	for {
		tag, after := cutTag(key)
		switch tag {
		case mavenEnd:
			return items, after, true
		case mavenEarlyList, mavenList:
			inner, rest, whole := cutMaven(after)
			return append(items, mavenItem{list: inner}), rest, whole
		case mavenZerosEarly, mavenZerosLate, mavenZeros:
			zeros, rest := cutTag(after)
			if tag == mavenZeros {
				zeros = 255 - zeros
			}
			for range zeros {
				items = append(items, mavenItem{number: "0"})
			}
			key = rest
		case mavenNumber:
			n, rest, _ := cutNumber(after)
			items, key = append(items, mavenItem{number: n}), rest
		case mavenEarly, mavenLate:
			rank, rest := cutTag(after)
			word := ""
			if int(rank) < len(mavenRanks) {
				word, key = mavenRanks[rank], rest
			} else {
				word, key = cutWord(rest)
			}
			items = append(items, mavenItem{word: word})
		case mavenEmpty, mavenEmptyEarly:
			items, key = append(items, mavenItem{}), after
		default:
			return items, key, false
		}
	}
}

// mavenText writes a list so that it reads back as the same list.
func mavenText(items []mavenItem) string {
	var b strings.Builder
	for n, i := range items {
		if i.isList() {
			b.WriteString("-" + mavenText(i.list))
			break
		}
		if n > 0 {
			b.WriteByte('.')
		}
		switch {
		case i.isNumber():
			b.WriteString(i.number)
		case i.word == "":
			b.WriteString("final")
		default:
			b.WriteString(i.word)
		}
		if !i.isNumber() && n > 0 && n == len(items)-1 { // a word at the end would open a list
			b.WriteString(".0")
		}
	}
	return b.String()
}
