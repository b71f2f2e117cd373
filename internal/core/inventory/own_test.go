package inventory_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wexo/internal/core/inventory"
)

// TestAlone: of an inventory that does not say what is an installation's own, a folder is
// taken to be only where its name says so.
func TestAlone(t *testing.T) {
	for home, want := range map[string]string{
		"/opt/node/22.11.0": "/opt/node/22.11.0", "/usr/lib/jvm/jdk-22": "/usr/lib/jvm/jdk-22", `C:\Program Files\node-22`: `C:\Program Files\node-22`,
		"/opt/node": "exe", "/usr": "exe", "/": "exe", "": "exe", "/usr/local": "exe", "/home/fern22": "exe", "/root": "exe", `C:\Users\fern22`: "exe", "/home/fern/.local": "exe", "/opt22": "exe",
	} {
		in := inventory.Installation{Tool: "node", Version: "22.11.0", Origin: "versioned-root", Home: home, Path: "exe"}
		assert.Equal(t, want, in.Alone(), home)
		in.Own = "told"
		assert.Equal(t, "told", in.Alone(), home)
	}
	for dir, common := range map[string]bool{`C:\Users\fern\AppData\Local\Programs`: true, `C:\Program Files (x86)`: true, "/home/fern": true, "/Users/fern": true, "/home/fern/.local/bin": true,
		`C:\`: true, "/opt/tools": false, "/home/fern/tools": false, `D:\sdk\go`: false} {
		assert.Equal(t, common, inventory.IsCommon(dir), dir)
	}
}
