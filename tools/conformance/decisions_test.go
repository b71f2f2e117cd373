package conformance

import (
	"regexp"
	"strings"

	hashicorp "github.com/hashicorp/go-version"

	"wexo/internal/core/version"
)

// all are the references, with what Wexo decides otherwise.
func all() []reference {
	maven := script("java", "-cp", "/usr/share/java/maven3-artifact.jar:/usr/share/java/commons-lang3.jar", "Maven.java")
	python := script("/usr/bin/python3", "python.py")
	return []reference{
		{"npm order", "", "npm", orders(semverText, semverSigns), npm, nil, false},
		{"npm ranges", "", "npm", ranges(semverText, npmRange, semverSigns, semverSigns+" ^~<>=|*"), npm, npmStar, false},
		{"x/mod order", "semver", "", orders(semverText, semverSigns), modules, looseSemver, false},
		{"packaging order", "pep440", "", orders(pythonText, pythonSigns), python, nil, false},
		{"packaging ranges", "", "pep440", ranges(pythonText, pythonRange, pythonSigns, pythonSigns+" ~=<>,"), python, pythonJunk, false},
		{"maven order", "maven", "", orders(mavenText, mavenSigns), maven, mavenJunk, true},
		{"maven ranges", "", "maven", ranges(mavenText, mavenRange, mavenSigns, mavenSigns+"[](), "), maven, mavenJunk, true},
		{"rubygems order", "rubygems", "", orders(rubyText, rubySigns), script("ruby", "gems.rb"), nil, false},
		{"rubygems ranges", "", "rubygems", ranges(rubyText, rubyRange, rubySigns, rubySigns+" ~<>=,"), script("ruby", "gems.rb"), nil, false},
		{"composer order", "composer", "", orders(composerText, composerSigns), script("php", "composer.php"), composerBranches, false},
		{"composer ranges", "", "composer", ranges(composerText, composerRange, composerSigns, composerSigns+" ^~<>=,|*@"), script("php", "composer.php"), composerJunk, false},
		{"elixir order", "", "hex", orders(semverText, semverSigns), script("elixir", "elixir.exs"), nil, false},
		{"elixir ranges", "", "hex", ranges(semverText, hexRange, semverSigns, semverSigns+" ~<>=!"), script("elixir", "elixir.exs"), nil, false},
		{"cargo order", "", "cargo", orders(semverText, semverSigns), cargo, nil, false},
		{"cargo ranges", "", "cargo", ranges(semverText, cargoRange, semverSigns, semverSigns+" ^~<>=,*"), cargo, nil, false},
		{"terraform ranges (go-version)", "", "terraform", ranges(terraformText, terraformRange, semverSigns, semverSigns+" ~<>=!,"), terraform, terraformJunk, false},
		{"go/version order", "go", "", orders(goText, "0123456789.-rcbeta"), goOrder, nil, false},
		{"java order", "java", "", orders(javaText, "0123456789.-+ae_u"), script("java", "Runtime.java"), javaForms, false},
		{"dpkg order", "debian", "", orders(debianText, debianSigns), dpkg, dpkgWarnings, false},
	}
}

var starInside = regexp.MustCompile(`\*[^ .|]|[0-9A-Za-z-]\*`)

// npmStar: npm strikes a star out wherever it stands, and reads what is left.
func npmStar(q question, _, ours string) string {
	if ours == "error" && starInside.MatchString(q.x) {
		return "a star inside a version, which npm strikes out"
	}
	return ""
}

var (
	pythonEpoch      = regexp.MustCompile(`[0-9]+!.*\.\*`)
	pythonCompatible = regexp.MustCompile(`(?i)~=\s*v?[0-9!.]+[-_.]?(a|b|c|rc|alpha|beta|pre|preview|post|rev|r|dev|-)`)
)

// pythonJunk: of === with a text that is no version the library fails, unless a
// specifier before it, in the order of a hash, made it stop asking; and ~= counts the
// parts of a text before it normalises them.
func pythonJunk(q question, _, ours string) string {
	switch {
	case ours == "error" && strings.Contains(q.x, "==="):
		return "=== with a text that is no version, of which the library fails by chance"
	case pythonEpoch.MatchString(q.x), strings.Contains(q.x+q.y, "!") && (strings.Contains(q.x, ".*") || strings.Contains(q.x, "~=")):
		return "an epoch together with .* or ~=, which the library lost until its release 24"
	case pythonCompatible.MatchString(q.x):
		return "~= with a prerelease in a spelling that is not the normal one"
	}
	return ""
}

// looseSemver: the scheme semver reads what people write, an x/mod version is strict.
func looseSemver(q question, theirs, _ string) string {
	if theirs != "error" {
		return ""
	}
	for _, text := range []string{q.x, q.y} {
		trimmed := strings.TrimLeft(strings.TrimSpace(text), "v= ")
		core, _, _ := strings.Cut(strings.ReplaceAll(trimmed, "+", "-"), "-")
		if trimmed != strings.TrimPrefix(text, "v") || strings.Count(core, ".") < 2 && core != trimmed {
			return "signs or spaces before the number, or a prerelease behind fewer than three numbers"
		}
	}
	return ""
}

var mavenPlain = regexp.MustCompile(`^[!-~]+$`)

// mavenJunk: Maven takes any text for a version, brackets and spaces and nothing at all.
func mavenJunk(q question, _, ours string) string {
	if strings.TrimSpace(q.x) != q.x || strings.TrimSpace(q.y) != q.y {
		return "spaces around the text, which Maven cuts off before it asks"
	}
	if ours != "error" {
		return ""
	}
	texts := []string{q.x, q.y}
	if q.kind == "range" {
		if rest := mavenRestriction.ReplaceAllString(q.x, ""); strings.ContainsAny(rest, "[](),") && strings.Trim(rest, ", ") != "" {
			return "a bracket or a comma inside a version"
		}
		if trimmed := strings.TrimSpace(q.x); trimmed == "" || !strings.HasPrefix(trimmed, "[") && !strings.HasPrefix(trimmed, "(") && strings.ContainsAny(trimmed, "[](),") {
			return "a bracket or a comma inside a version"
		}
		texts = append(strings.FieldsFunc(q.x, func(r rune) bool { return strings.ContainsRune("[](),", r) }), q.y)
		if strings.Contains(q.x, "[]") || strings.Contains(q.x, "[ ]") {
			texts = append(texts, "")
		}
	}
	for _, text := range texts {
		text = strings.TrimSpace(text)
		if !mavenPlain.MatchString(text) || strings.ContainsAny(text, "[](),") {
			return "a version that is empty or holds a space, a bracket or a comma"
		}
	}
	return ""
}

var mavenRestriction = regexp.MustCompile(`[\[(][^\[\](),]*(,[^\[\](),]*)?[\])]`)

// composerBranches are in no order; PHP's comparison gives some.
func composerBranches(q question, _, ours string) string {
	a, errA := version.Composer.Parse(q.x)
	b, errB := version.Composer.Parse(q.y)
	if errA == nil && errB == nil && strings.HasPrefix(a.String(), "dev-") && strings.HasPrefix(b.String(), "dev-") {
		return "two branches, which are in no order"
	}
	return composerJunk(q, "", ours)
}

var hugeNumber = regexp.MustCompile(`\d{18,}`)

func composerJunk(q question, _, ours string) string {
	switch {
	case hugeNumber.MatchString(q.x) && ours == "error":
		return "a range from a number that PHP counts as a fraction"
	case q.kind == "range" && composerInverted(q.x):
		return "a range that holds nothing, which the library joins to the one beside it"
	case ours == "error" && strings.Contains(strings.ToLower(q.x+q.y), "dev"):
		return "a branch without a name, or with a sign that git allows in none"
	}
	return ""
}

var (
	fourNumbers = regexp.MustCompile(`\d+\.\d+\.\d+\.\d`)
	signed      = regexp.MustCompile(`(^|[-.])-\d+(\.|$|\+|,| )`)
	zeroNumber  = regexp.MustCompile(`[-.]0\d+(\.|$|\+|,| )`)
)

// composerInverted tells whether one of several alternatives holds nothing.
func composerInverted(text string) bool {
	alternatives := strings.FieldsFunc(text, func(r rune) bool { return r == '|' })
	for _, a := range alternatives {
		set, err := version.ParseRange("composer", version.Composer, strings.TrimSpace(a))
		if err == nil && set.IsEmpty() && len(alternatives) > 1 {
			return true
		}
	}
	return false
}

func terraformJunk(q question, theirs, ours string) string {
	text := q.x + " " + q.y
	switch {
	case ours == "error" && fourNumbers.MatchString(text):
		return "more than three numbers, which no version of Terraform or a provider has"
	case ours == "error" && strings.Contains(text, "~"):
		return "a tilde in a prerelease, which no version of Terraform or a provider has"
	case signed.MatchString(text):
		return "an identifier of a hyphen and digits, which counts as a negative number there"
	case zeroNumber.MatchString(text):
		return "a number with a leading zero in a prerelease, which is there both older and newer than without"
	case ours != "error" && theirs != "error" && terraformCircle(q):
		return "a prerelease that another one continues with a word, where their order runs in a circle"
	}
	return ""
}

// terraformCircle tells whether one prerelease in the range continues the version's, or
// the other way round.
func terraformCircle(q question) bool {
	v, err := hashicorp.NewVersion(q.y)
	if err != nil || v.Prerelease() == "" {
		return false
	}
	for clause := range strings.SplitSeq(q.x, ",") {
		w, err := hashicorp.NewVersion(strings.TrimLeft(strings.TrimSpace(clause), "<>=!~ "))
		if err != nil || w.Prerelease() == v.Prerelease() {
			continue
		}
		if strings.HasPrefix(w.Prerelease(), v.Prerelease()+".") || strings.HasPrefix(v.Prerelease(), w.Prerelease()+".") {
			return true
		}
	}
	return false
}

var javaLarge = regexp.MustCompile(`[0-9]{10,}`)

var javaStrict = regexp.MustCompile(`^[1-9][0-9]*((\.0)*\.[1-9][0-9]*)*(-[a-zA-Z0-9]+)?(\+(0|[1-9][0-9]*)?)?(-[-a-zA-Z0-9.]+)?$`)

func javaForms(q question, theirs, ours string) string {
	for _, text := range []string{q.x, q.y} {
		first, _, _ := strings.Cut(text+".", ".")
		switch {
		case strings.HasPrefix(text, "1-") || strings.HasPrefix(text, "1+") || first == "1":
			return "version 1, which is also how 1.8 begins"
		case theirs == "error" && javaLarge.MatchString(text):
			return "a number larger than Java counts to"
		case theirs == "error" && !javaStrict.MatchString(text):
			return "zeros at the end of the numbers or before a number, and the old forms"
		}
	}
	if strings.Contains(strings.ToLower(q.x+" "+q.y), "-lts") || strings.Contains(q.x+q.y, "-ga") {
		return "-LTS right behind the numbers, where Java expects a prerelease"
	}
	return ""
}

// debianPolicy is the form that Debian's policy gives.
var debianPolicy = regexp.MustCompile(`^([0-9]+:[0-9A-Za-z.+~:-]*|[0-9A-Za-z.+~-]*[0-9A-Za-z.+~])(-[0-9A-Za-z.+~]+)?$`)

func dpkgWarnings(q question, _, ours string) string {
	if ours != "error" {
		return ""
	}
	for _, text := range []string{q.x, q.y} {
		if strings.HasPrefix(text, "-") || strings.Contains(text, ":-") || !debianPolicy.MatchString(text) || strings.Contains(text[strings.LastIndexByte(text, '-')+1:], ":") && strings.Contains(text, "-") {
			return "an empty version, or a sign or a place for one that dpkg warns of before it compares all the same"
		}
	}
	return ""
}
