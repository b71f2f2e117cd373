// Package inventory is what one machine has: its installations, what is first on
// PATH, the user's defaults and overriding variables, and the questions asked of
// them (the newest in a range, the one a path leads to).
package inventory

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
)

// Format is the name and version of the inventory format.
const Format = "wexo.inventory/1"

// Inventory is what one machine has, at one time.
type Inventory struct {
	Format        string         `json:"format"`
	Machine       MachineInfo    `json:"machine"`
	TakenAt       time.Time      `json:"takenAt"`
	Installations []Installation `json:"installations"`
	FirstOnPath   []OnPath       `json:"firstOnPath"`
	Defaults      []Default      `json:"defaults"`
	Overrides     []Override     `json:"overrides"`
}

// MachineInfo names a machine. Kind is laptop, build-agent, image, subsystem, server or empty.
type MachineInfo struct {
	Name string `json:"name"`
	OS   string `json:"os"`
	Arch string `json:"arch"`
	Kind string `json:"kind"`
	Home string `json:"home,omitempty"` // the user's home folder, for paths that begin with ~
}

// Installation is one toolchain on one machine.
type Installation struct {
	Tool         string            `json:"tool"`
	Version      string            `json:"version"` // empty where it cannot be told
	Vendor       string            `json:"vendor"`
	Variant      string            `json:"variant"`
	Package      string            `json:"package"` // runtime, kit or empty
	Path         string            `json:"path"`    // the executable itself, links followed
	Home         string            `json:"home"`
	Origin       string            `json:"origin"` // versioned-root, system, standalone or bundled
	Health       string            `json:"health"` // good, broken or unknown
	HealthReason string            `json:"healthReason,omitempty"`
	Arch         string            `json:"arch"`
	SizeBytes    int64             `json:"sizeBytes"`
	Components   map[string]string `json:"components"`
	Packages     map[string]string `json:"packages"`
}

// OnPath is the executable of a tool that a terminal finds first.
type OnPath struct {
	Tool    string `json:"tool"`
	Path    string `json:"path"`
	Version string `json:"version"`
	Shim    bool   `json:"shim"`
}

// Default is the user's own choice where no repository decides.
type Default struct {
	Tool   string `json:"tool"`
	Raw    string `json:"raw"`
	Source string `json:"source"`
}

// Override is an environment variable that beats a repository's pin.
type Override struct {
	Tool     string `json:"tool"`
	Variable string `json:"variable"`
	Raw      string `json:"raw"`
}

// Parse reads an inventory; errors say where it goes wrong.
func Parse(data []byte) (Inventory, error) {
	var inv Inventory
	if err := json.Unmarshal(data, &inv); err != nil {
		var syntax *json.SyntaxError
		var kind *json.UnmarshalTypeError
		switch {
		case errors.As(err, &syntax):
			return inv, fmt.Errorf("line %d: %w", lineAt(data, syntax.Offset), err)
		case errors.As(err, &kind):
			return inv, fmt.Errorf("line %d: %s should be %s", lineAt(data, kind.Offset), kind.Field, kind.Type)
		}
		return inv, err
	}
	if err := inv.Check(); err != nil {
		return inv, err
	}
	var top map[string]json.RawMessage
	if err := json.Unmarshal(data, &top); err != nil {
		return inv, err
	}
	return inv, complete(slices.Sorted(maps.Keys(top)))
}

func lineAt(data []byte, offset int64) int {
	return strings.Count(string(data[:min(max(offset, 0), int64(len(data)))]), "\n") + 1
}
