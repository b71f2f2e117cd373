// Package console holds the built web console, for embedding into the binary.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files is the built console; it holds no index.html where it was not built.
func Files() fs.FS {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		return embed.FS{}
	}
	return sub
}
