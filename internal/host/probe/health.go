package probe

import (
	"context"
	"fmt"
	"path"
	"strings"
	"time"

	"wexo/internal/core/inventory"
)

// health finds what is wrong with an installation by its files alone.
func (p *probe) health(c *candidate, t told, in *inventory.Installation) {
	fail := func(health, format string, args ...any) {
		if in.Health == "good" {
			in.Health, in.HealthReason = health, fmt.Sprintf(format, args...)
		}
	}
	if c.broken != "" {
		fail("broken", "%s", c.broken)
		return
	}
	if p.empty(c.path) {
		fail("broken", "its executable is an empty file")
	}
	if reason := p.libraries(c); reason != "" {
		fail("broken", "it cannot start: %s", reason)
	}
	if n := p.need(c); n != nil {
		fail("broken", "half an installation: %s is missing", n.Why)
	}
	for _, part := range c.tool.Installation.Parts {
		if len(part.Shows) > 0 && !in.Parts[part.Name] && p.any(c.home, part.Shows) {
			fail("broken", "%s", part.Why)
		}
	}
	if c.refused != "" {
		fail("broken", "it does not start: %s", c.refused)
	}
	if in.Version == "" {
		why := "neither its files nor its executable tell a version"
		if len(c.notes) > 0 {
			why = "no file tells its version, and " + strings.Join(c.notes, ", and ")
		}
		fail("unknown", "%s", why)
	}
	if at, evidence, copied := p.copied(c, t); copied {
		c.doubtful = true
		fail("unknown", "its executable (of %s) is newer than its own files (of %s), by which it is %s: another version may have been copied over it",
			at.Format(time.DateOnly), evidence.Format(time.DateOnly), in.Version)
	}
}

func (p *probe) empty(at string) bool {
	info, err := p.disk.lstat(at)
	return err == nil && info.Mode().IsRegular() && info.Size() == 0
}

// laterBy is how much newer an executable has to be than the files beside it to be none of
// them: one build, and one unpacking, makes all of them within hours.
const laterBy = 48 * time.Hour

// copied reports whether an executable came later than the file that tells its version.
func (p *probe) copied(c *candidate, t told) (at, evidence time.Time, copied bool) {
	if t.file == "" || c.system || !within(c.home, t.file) {
		return at, evidence, false
	}
	exe, err := p.disk.lstat(c.path)
	real, realErr := p.disk.real(t.file)
	if err != nil || realErr != nil || !within(c.home, real) || !within(c.home, c.path) {
		return at, evidence, false
	}
	file, err := p.disk.lstat(real)
	if err != nil {
		return at, evidence, false
	}
	if one, ok := p.packageOf(c); ok { // its files are as old as their sources
		if one.list == "" {
			return at, evidence, false
		}
		if file, err = p.disk.lstat(one.list); err != nil {
			return at, evidence, false
		}
	}
	at, evidence = exe.ModTime().UTC(), file.ModTime().UTC()
	return at, evidence, at.Sub(evidence) > laterBy
}

// verify asks an executable of which the files leave a doubt.
func (p *probe) verify(ctx context.Context, c *candidate, in *inventory.Installation) {
	if !c.doubtful || in.Health != "unknown" {
		return
	}
	switch asked := p.askVersion(ctx, c); {
	case asked == "":
	case asked == in.Version || strings.HasPrefix(in.Version, asked):
		in.Health, in.HealthReason = "good", ""
	default:
		in.Health = "broken"
		in.HealthReason = fmt.Sprintf("its executable is %s and its own files are of %s: another version was copied over it", asked, in.Version)
		in.Version = asked
	}
}

// sized is what a folder takes on disk.
type sized struct {
	bytes   int64
	entries int
}

// mostSized is how many files are counted for one size.
const mostSized = 400_000

// size is what an installation takes on disk, in bytes: what is its own, or of one of the
// system's what its package takes.
func (p *probe) size(c *candidate, own string) int64 {
	if one, ok := p.packageOf(c); ok && one.size > 0 {
		return one.size
	}
	if c.tool.BundledWith != "" && p.origin(c) == "bundled" {
		return 0 // it is part of the other's
	}
	if p.disk.isDir(own, nil) {
		return p.sizeOf(own)
	}
	info, err := p.disk.lstat(own)
	if err != nil {
		return 0
	}
	return info.Size()
}

func (p *probe) sizeOf(dir string) int64 {
	var s sized
	p.measure(dir, &s)
	return s.bytes
}

// measure adds the sizes of all files below a folder; links count as nothing.
func (p *probe) measure(dir string, s *sized) {
	for _, e := range p.disk.entries(dir) {
		if s.entries++; s.entries > mostSized {
			return
		}
		if e.IsDir() {
			p.measure(path.Join(dir, e.Name()), s)
			continue
		}
		if info, err := e.Info(); err == nil && info.Mode().IsRegular() {
			s.bytes += info.Size()
		}
	}
}
