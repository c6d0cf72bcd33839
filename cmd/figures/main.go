// Command figures measures and prints what the project promises; see package
// figures. It exits with 1 when something falls short.
package main

import (
	"fmt"
	"os"

	"neokinema/figures"
)

func main() {
	short, err := figures.Run(os.Stdout, os.Args[1:])
	if err != nil {
		fmt.Fprintln(os.Stderr, "figures:", err)
		os.Exit(2)
	}
	if short > 0 {
		os.Exit(1)
	}
}
