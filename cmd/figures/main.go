// Command figures measures and prints what the project promises; see package
// figures. It exits with 1 when something falls short. With -write the lines go into
// docs/figures.md too.
package main

import (
	"flag"
	"fmt"
	"os"

	"neokinema/figures"
)

const document = "docs/figures.md"

func main() {
	write := flag.Bool("write", false, "put what is measured into "+document)
	flag.Parse()
	lines, tables, short, err := figures.Run(os.Stdout, flag.Args())
	if err == nil && *write {
		err = put(lines, tables)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "figures:", err)
		os.Exit(2)
	}
	if short > 0 {
		os.Exit(1)
	}
}

func put(lines []string, tables string) error {
	raw, err := os.ReadFile(document)
	if err != nil {
		return err
	}
	next, err := figures.Put(string(raw), lines)
	if err == nil && tables != "" {
		next, err = figures.PutTables(next, tables)
	}
	if err != nil {
		return err
	}
	return os.WriteFile(document, []byte(next), 0o644)
}
