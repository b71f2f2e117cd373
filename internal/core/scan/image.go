package scan

import (
	"path"
	"regexp"
	"strings"

	"github.com/distribution/reference"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// imageReference is a container image's name with its parts.
type imageReference struct {
	name   string // without registry, tag and digest
	tag    string
	tagAt  int // offset of the tag in the text; of the name where there is no tag
	digest string
}

// parseImage takes a reference apart; one that nobody could pull has no name.
func parseImage(text string) imageReference {
	named, err := reference.ParseNormalizedNamed(text)
	if err != nil {
		return imageReference{}
	}
	r := imageReference{name: strings.TrimPrefix(reference.Path(named), "library/")}
	if d, ok := named.(reference.Digested); ok {
		r.digest = d.Digest().String()
		r.tagAt = len(text) - len(r.digest)
	}
	if t, ok := named.(reference.Tagged); ok {
		r.tag = t.Tag()
		r.tagAt = len(text) - len(r.tag)
		if r.digest != "" {
			r.tagAt -= len(r.digest) + 1
		}
	}
	return r
}

// Image adds what a container image says of the tools it carries: the text as it stands,
// and what it comes to with its references put in. One that still holds a reference says
// nothing. It gives the claims it added, to be told more of.
func (s *File) Image(text string, offset int, c document.Composed, holds string) []claim.Claim {
	text, offset = strings.TrimPrefix(text, "docker://"), offset+len(text)-len(strings.TrimPrefix(text, "docker://"))
	replaced := strings.TrimPrefix(c.Text, "docker://")
	if strings.ContainsAny(replaced, "${}<>%") || replaced == "" {
		return nil
	}
	r := parseImage(replaced)
	start := len(s.Said.Claims)
	for _, carried := range s.Catalogue.ImagesOf(r.name) {
		at, size := tagAt(text)
		masked := parseImage(document.Mask(text))
		if r.tag == "" && r.digest == "" || masked.tag == "" && masked.digest == "" && text != replaced { // what is meant is not written there
			size = -1
		}
		v := document.Value{Text: r.tag, Offset: offset + at, Size: size, Given: c.From}
		if one, ok := s.imageClaim(carried, r, v, holds); ok {
			one.OneOf = c.Choice
			s.Add(one)
		}
	}
	s.imageNamed(text, offset, r, c, holds)
	return s.Said.Claims[start:]
}

// imageNamed adds what the last part of an image's name says, as in openjdk-17: the tag then
// counts the image's own builds.
func (s *File) imageNamed(text string, offset int, r imageReference, c document.Composed, holds string) {
	base := path.Base(r.name)
	for _, carried := range s.Catalogue.ImagesNamed(base) {
		m := carried.Image.Named.FindStringSubmatch(base)
		at := strings.LastIndex(text, base)
		v := document.Value{Text: base, Offset: offset + max(at, 0), Given: c.From, Means: strings.Join(m[1:], ".")}
		if at < 0 {
			v.Size = -1
		}
		one := s.Claim(carried.Tool, claim.Setup, v, "plain", holds)
		one.Digest, one.OneOf = r.digest, c.Choice
		s.Add(one)
	}
}

// tagAt is where a reference's tag stands, with its variables still in it; inside a
// variable where the tag is that variable's default.
func tagAt(text string) (at, size int) {
	r := parseImage(document.Mask(text))
	at = r.tagAt
	if from, to, ok := document.FallbackAt(text[at:]); ok {
		return at + from, to - from
	}
	end := len(text)
	if r.tag != "" && r.digest != "" {
		end -= len(r.digest) + 1
	}
	return at, end - at
}

// imageClaim is what one image says of one tool; false where its tag does not speak of it.
func (s *File) imageClaim(carried catalogue.ImageOf, r imageReference, v document.Value, holds string) (claim.Claim, bool) {
	reading, means, dialect := "", "", "image-tag"
	matched := false
	if carried.Image.Tag.Regexp != nil && r.tag != "" {
		m := carried.Image.Tag.FindStringSubmatchIndex(r.tag)
		if m == nil {
			return claim.Claim{}, false
		}
		v.Text, matched = r.tag[m[2]:m[3]], true
		if v.Given == nil {
			v.Offset, v.Size = v.Offset+m[2], m[3]-m[2]
		}
	}
	switch {
	case r.tag == "" && r.digest != "":
		v.Text, reading = r.digest, "kept"
	case r.tag == "":
		v.Text, dialect = "latest", "plain"
	case !matched && !digit.MatchString(v.Text):
		dialect = "plain"
		word, _, _ := strings.Cut(v.Text, "-")
		if means = word; !carried.Tool.IsAlias(word) {
			means, reading = "", "kept"
		}
	}
	c := s.Claim(carried.Tool, claim.Setup, v, dialect, holds)
	c.Reading, c.Means, c.Digest, c.Vendor = reading, means, r.digest, carried.Image.Vendor
	return c, true
}

var digit = regexp.MustCompile(`^v?\d`)
