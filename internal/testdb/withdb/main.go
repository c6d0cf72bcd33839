// Command withdb starts a PostgreSQL for tests, runs a command that finds it in its
// environment, and ends it.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"

	"neokinema/internal/testdb"
)

func main() {
	code, err := run(os.Args[1:])
	if err != nil {
		fmt.Fprintln(os.Stderr, "withdb:", err)
	}
	os.Exit(code)
}

func run(args []string) (code int, err error) {
	if len(args) == 0 {
		return 2, errors.New("name the command to run")
	}
	s, end, err := testdb.StartServer(context.Background())
	if err != nil {
		return 1, err
	}
	defer end()
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Env = append(os.Environ(), testdb.Env+"="+s.URL)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	err = cmd.Run()
	var ended *exec.ExitError
	if errors.As(err, &ended) {
		return ended.ExitCode(), nil
	}
	if err != nil {
		return 1, err
	}
	return 0, nil
}
