package resolve

import (
	"strconv"
	"strings"
	"sync"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

// Want is what a claim asks for of a tool, as it is written. Equal wants are one value.
type Want struct {
	claim.Wanted
	Tool    *catalogue.Tool
	Raw     string
	Means   string // what is read in place of Raw; empty where Raw itself is
	Minimum bool   // this or newer
	Brings  bool   // the build fetches this version itself
	Fetched bool   // the tool's own programs do, as far as the machine lets them
	Err     error  // the text could not be read; the set is then empty
	id      uint32
}

// On is what is asked for on a day, with the names looked up that stand for versions.
// Floating is true where that changes with time, or is no version at all.
func (w *Want) On(on *day.Day) (set version.Set, floating bool) {
	set = w.Set
	look := func(name string) {
		alias, _ := w.Tool.AliasOn(name, on)
		set, floating = set.Unite(alias.Set), floating || alias.Floating
	}
	switch {
	case w.Alias != "":
		set = version.None(w.Tool.Scheme())
		look(w.Alias)
	case len(w.Fallbacks) > 0:
		for _, f := range w.Fallbacks {
			if f.Alias != "" {
				look(f.Alias)
			}
		}
	}
	switch {
	case w.Err != nil:
		return set, floating
	case w.Kept:
		return set, floating || w.Tool.IsDevelopment(w.Raw)
	}
	return set, floating || w.System || set.IsAll()
}

// ID tells wants apart.
func (w *Want) ID() string { return strconv.FormatUint(uint64(w.id), 36) }

// Wants holds every want once. It may be used from several goroutines.
type Wants struct {
	mu  sync.Mutex
	all map[wantKey]*Want
}

type wantKey struct {
	tool                                                      *catalogue.Tool
	raw, means, dialect, reading, fallbacks, demanded, vendor string
	brings, fetched, silent                                   bool
}

// Of is what a claim asks for. Paths and components ask for no version of the tool.
func (w *Wants) Of(c *claim.Claim, t *catalogue.Tool) *Want {
	key := wantKey{tool: t, raw: c.Raw, means: c.Means, dialect: c.Dialect, reading: c.Reading, fallbacks: strings.Join(c.Fallbacks, "\x00"), brings: c.Brings, fetched: c.Fetched, vendor: c.Vendor,
		silent: c.Reading == "path" || c.Role == claim.Component}
	if c.Locked != nil {
		key.raw, key.demanded = "", c.Locked.Range // whatever the demand is called that comes to it
	}
	w.mu.Lock()
	known := w.all[key]
	w.mu.Unlock()
	if known != nil {
		return known
	}
	out := &Want{Tool: t, Raw: key.raw, Means: c.Means, Minimum: c.Reading == "minimum" || c.Reading == "level" || c.Dialect == "go-minimum", Brings: c.Brings, Fetched: c.Fetched}
	if !key.silent {
		out.Wanted, out.Err = c.Want(t)
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.all == nil {
		w.all = map[wantKey]*Want{}
	}
	if known := w.all[key]; known != nil {
		return known
	}
	out.id = uint32(len(w.all) + 1)
	w.all[key] = out
	return out
}

// Ranged is a want that is no claim's: what a baseline demands of a tool.
func (w *Wants) Ranged(t *catalogue.Tool, text string, set version.Set) *Want {
	key := wantKey{tool: t, raw: text, dialect: "baseline", demanded: set.Canonical()}
	w.mu.Lock()
	defer w.mu.Unlock()
	if known := w.all[key]; known != nil {
		return known
	}
	if w.all == nil {
		w.all = map[wantKey]*Want{}
	}
	out := &Want{Tool: t, Raw: text, Wanted: claim.Wanted{Set: set}, id: uint32(len(w.all) + 1)}
	w.all[key] = out
	return out
}

// Len is how many different wants there are.
func (w *Wants) Len() int {
	w.mu.Lock()
	defer w.mu.Unlock()
	return len(w.all)
}
