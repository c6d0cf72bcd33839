// Package web carries the built front end inside the binary.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var files embed.FS

// Files is the built front end. It is empty until `./neo` has built it.
func Files() fs.FS {
	sub, err := fs.Sub(files, "dist")
	if err != nil {
		panic(err) // the folder is part of the checkout
	}
	return sub
}
