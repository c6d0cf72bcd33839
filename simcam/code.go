package simcam

import (
	"crypto/sha256"
	"embed"
	"fmt"
	"io/fs"
	"strings"
	"sync"
)

//go:embed *.go film/*.go figure/*.go
var sources embed.FS

// Code names the code that draws: another drawing has another name, so that clips which are
// kept are drawn anew when it changes. What moves is part of a scene's [Truth].
var Code = sync.OnceValue(func() string {
	sum := sha256.New()
	err := fs.WalkDir(sources, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := sources.ReadFile(path)
		fmt.Fprintf(sum, "%s %d\n", path, len(raw))
		sum.Write(raw)
		return err
	})
	if err != nil {
		panic(err) // what is compiled in can be read
	}
	return fmt.Sprintf("%x", sum.Sum(nil))
})
