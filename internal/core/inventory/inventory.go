// Package inventory is what one machine has: its installations, what is first on
// PATH, the user's defaults and overriding variables, and the questions asked of
// them (the newest in a range, the one a path leads to).
package inventory

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"path"
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
	Proxies       []Proxy        `json:"proxies,omitempty"`
	SearchPath    []PathFolder   `json:"searchPath,omitempty"` // PATH in order, the folders with a known tool and those that are not there
	Startup       []StartupLine  `json:"startup,omitempty"`
	Editors       []Wiring       `json:"editors,omitempty"`
	Checkouts     []Checkout     `json:"checkouts"`             // null where nobody looked for any
	PassedOver    []PassedOver   `json:"passedOver,omitempty"`  // executables that look like tools and are not taken for installations
	ReportEvery   string         `json:"reportEvery,omitempty"` // how often it is sent: 6h
}

// Every is how often the inventory is sent; zero where that is not told.
func (inv Inventory) Every() time.Duration {
	d, err := time.ParseDuration(inv.ReportEvery)
	if err != nil {
		return 0
	}
	return d
}

// MachineInfo names a machine. Kind is laptop, build-agent, image, subsystem, server or empty.
type MachineInfo struct {
	Name string `json:"name"`
	OS   string `json:"os"`
	Arch string `json:"arch"`
	Kind string `json:"kind"`
	Home string `json:"home,omitempty"` // the user's home folder, for paths that begin with ~
	// Parent is the machine that this one is a part of: the host of a subsystem.
	Parent string `json:"parent,omitempty"`
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
	// Parts says of what a kit can hold beside its programs (compiler, debugger, build-tool,
	// headers, sources) whether it is there.
	Parts map[string]bool `json:"parts,omitempty"`
	// SystemPackage is the package of the system that the executable belongs to, with its version.
	SystemPackage string `json:"systemPackage,omitempty"`
	// Fetching is "off" where a file of its own lets it fetch no other version.
	Fetching string `json:"fetching,omitempty"`
	// Own is the folder, or where it shares one the executable, that is the installation's
	// alone; see Alone.
	Own string `json:"own,omitempty"`
}

// OnPath is the executable of a tool that a terminal finds first.
type OnPath struct {
	Tool    string `json:"tool"`
	Path    string `json:"path"`
	Version string `json:"version"`
	Shim    bool   `json:"shim"` // it is a proxy, which passes the call on
}

// Default is the user's own choice where no repository decides.
type Default struct {
	Tool   string `json:"tool"`
	Raw    string `json:"raw"`
	Source string `json:"source"`
	// Path is the home of the installation that is named, where the text names one by its
	// folder and not by a version.
	Path string `json:"path,omitempty"`
}

// Override is an environment variable that beats a repository's pin.
type Override struct {
	Tool     string `json:"tool"`
	Variable string `json:"variable"`
	Raw      string `json:"raw"`
	Source   string `json:"source,omitempty"` // the file that sets it, where it is not of the environment
}

// Proxy is an executable that stands for several installations and picks one by the folder
// in which it is called: a script, or a program under many names.
type Proxy struct {
	Tool    string `json:"tool"`
	Path    string `json:"path"`              // by which it is called
	Leads   string `json:"leads"`             // links followed
	Root    string `json:"root"`              // the folder that holds what it picks from
	Picks   string `json:"picks,omitempty"`   // the home of what it runs where no folder decides
	Version string `json:"version,omitempty"` // of that
	Because string `json:"because,omitempty"` // why: the file or variable that says so
	// Folders are those for which its settings pick something of their own, with all below them.
	Folders []FolderChoice `json:"folders,omitempty"`
}

// FolderChoice is what a proxy picks in a folder.
type FolderChoice struct {
	Folder  string `json:"folder"`
	Raw     string `json:"raw"`
	Home    string `json:"home,omitempty"` // of the installation; empty where there is none
	Version string `json:"version,omitempty"`
	Source  string `json:"source"`
}

// PathFolder is one folder of PATH.
type PathFolder struct {
	Folder string       `json:"folder"`
	There  bool         `json:"there"`          // it is a folder that can be read
	From   string       `json:"from,omitempty"` // the start-up file and line that puts it there
	Tools  []PathedTool `json:"tools,omitempty"`
}

// PathedTool is an executable of a known tool in a folder of PATH.
type PathedTool struct {
	Tool    string `json:"tool"`
	Name    string `json:"name"`              // by which it is called
	Leads   string `json:"leads"`             // links followed; empty where they lead nowhere
	Version string `json:"version,omitempty"` // of the installation it belongs to; of a proxy what it picks
	Proxy   bool   `json:"proxy,omitempty"`
	Wins    bool   `json:"wins,omitempty"` // it is the first of its name; the others are shadowed
}

// StartupLine is what a shell's start-up file adds to PATH, or sets that matters to a tool.
type StartupLine struct {
	File     string `json:"file"`
	Line     int    `json:"line"`
	Variable string `json:"variable"` // PATH, or the one that is set
	Raw      string `json:"raw"`      // as written
	Value    string `json:"value"`    // a folder, or the value, with the home written out
}

// Wiring is what an editor or build tool on the machine knows: a named installation of a
// table, or a setting of the user's that points at one.
type Wiring struct {
	Tool    string `json:"tool"`
	Kind    string `json:"kind"`              // one of the Wired constants
	Editor  string `json:"editor"`            // what it is a file of
	Name    string `json:"name,omitempty"`    // by which projects call it
	Path    string `json:"path,omitempty"`    // the home or executable it stands for
	Version string `json:"version,omitempty"` // as the table says; of what is at the path where it says nothing
	Default bool   `json:"default,omitempty"` // new projects take it
	Source  string `json:"source"`
	Line    int    `json:"line"`
}

// The kinds of wirings.
const (
	WiredName    = "name"    // an entry of a table, called by its name
	WiredSetting = "setting" // a setting of the user's
)

// PassedOver is an executable that looks like a tool's and is not taken for an installation,
// since it is part of somebody's source: nothing chooses it, and nothing runs it.
type PassedOver struct {
	Tool string `json:"tool"`
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Checkout is a repository that lies on the machine.
type Checkout struct {
	Path     string `json:"path"`
	Identity string `json:"identity"` // what the repository is, whatever it is called; or its name; its folder's name where it is empty
}

// Names gives what a repository may be by which the checkout is one of it: what it is, or what it
// is called.
func (c Checkout) Names() string {
	if c.Identity != "" {
		return c.Identity
	}
	return path.Base(slashed(c.Path))
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
			return inv, fmt.Errorf("line %d: %s should be %s", lineAt(data, kind.Offset), kind.Field, kindName(kind.Type.Kind().String()))
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
