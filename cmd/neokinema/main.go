// Command neokinema is the one binary: server, demo, migration, simulation.
package main

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"

	"neokinema/internal/api"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/simcam/points"
)

const help = `neokinema: break down throws, jumps, starts and strides from slow-motion clips

  neokinema demo [--fresh] [--data DIR]   a private database with an invented club
  neokinema serve                         configured by NEO_DATABASE_URL, NEO_MEDIA_URL, NEO_ADDRESS, NEO_SECRET, NEO_DATA
  neokinema migrate                       bring the schema of NEO_DATABASE_URL up to date
  neokinema simulate --help               draw a clip of the simulated athlete with its truth
  neokinema clips [NAME...]              draw the demo's clips into internal/demo/clips
  neokinema contract [models|poses]       print the API description (OpenAPI), the JSON Schema of model files, or the small figures of phases
`

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	name, args := "", []string(nil)
	if len(os.Args) > 1 {
		name, args = os.Args[1], os.Args[2:]
	}
	commands := map[string]func(context.Context, []string) error{
		"demo": runDemo, "serve": runServe, "migrate": runMigrate, "simulate": runSimulate, "contract": runContract, "clips": runClips,
	}
	run, ok := commands[name]
	if !ok {
		fmt.Fprint(os.Stderr, help)
		os.Exit(2)
	}
	if err := run(ctx, args); err != nil && !errors.Is(err, flag.ErrHelp) && ctx.Err() == nil {
		fmt.Fprintln(os.Stderr, "neokinema:", err)
		os.Exit(1)
	}
}

func logTo(path string) (*slog.Logger, func(), error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return nil, nil, err
	}
	return slog.New(slog.NewJSONHandler(f, nil)), func() { f.Close() }, nil
}

func runDemo(ctx context.Context, args []string) error {
	flags := flag.NewFlagSet("demo", flag.ContinueOnError)
	fresh := flags.Bool("fresh", false, "begin anew: forget everything entered")
	data := flags.String("data", "data/demo", "folder for database, media and clips")
	address := flags.String("address", "127.0.0.1:8470", "where to serve; the next free port if taken")
	if err := flags.Parse(args); err != nil {
		return err
	}
	dir, err := filepath.Abs(*data)
	if err != nil {
		return err
	}
	if *fresh {
		// The drawn clips are kept: they are the same each time.
		for _, sub := range []string{"db", "media", "uploads", "work", "cache"} {
			if err := os.RemoveAll(filepath.Join(dir, sub)); err != nil {
				return err
			}
		}
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	log, done, err := logTo(filepath.Join(dir, "neokinema.log"))
	if err != nil {
		return err
	}
	defer done()
	secret, err := app.FreshSecret(dir, newSecret)
	if err != nil {
		return err
	}
	db, err := pglocal.Start(ctx, pglocal.Options{Dir: filepath.Join(dir, "db")})
	if err != nil {
		return err
	}
	defer db.Stop()
	a, err := app.Start(ctx, app.Config{DatabaseURL: db.URL, MediaURL: "file://" + filepath.Join(dir, "media") + "?create_dir=1&no_tmp_dir=1",
		Address: *address, Secret: secret, Data: dir, DemoUser: demo.Email}, log)
	if err != nil {
		return err
	}
	defer a.Close()
	l := demo.Loader{Store: a.Store, Account: a.Account, Intake: a.Intake, Bench: a.Bench, Watch: a.Watch, Logbook: a.Logbook, Clips: filepath.Join(dir, "clips"),
		Log: slog.New(slog.NewTextHandler(os.Stdout, &slog.HandlerOptions{ReplaceAttr: withoutTime}))}
	if err := l.Load(ctx); err != nil {
		return fmt.Errorf("loading the demo: %w", err)
	}
	return serve(ctx, a, *address, true)
}

func withoutTime(_ []string, a slog.Attr) slog.Attr {
	if a.Key == slog.TimeKey || a.Key == slog.LevelKey {
		return slog.Attr{}
	}
	return a
}

func newSecret() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails
	return hex.EncodeToString(b)
}

func serve(ctx context.Context, a *app.App, address string, next bool) error {
	l, err := app.Listen(address, next)
	if err != nil {
		return err
	}
	fmt.Printf("Neokinema is at http://%s  (Ctrl-C stops it)\n", l.Addr())
	return app.Serve(ctx, l, a.Handler)
}

func runServe(ctx context.Context, args []string) error {
	c, err := app.FromEnvironment(os.Getenv)
	if err != nil {
		return err
	}
	a, err := app.Start(ctx, c, slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	if err != nil {
		return err
	}
	defer a.Close()
	return serve(ctx, a, c.Address, false)
}

func runMigrate(ctx context.Context, _ []string) error {
	s, err := store.Open(ctx, os.Getenv("NEO_DATABASE_URL"), slog.New(slog.NewTextHandler(os.Stderr, nil)))
	if err != nil {
		return err
	}
	s.Close()
	return nil
}

func runContract(_ context.Context, args []string) error {
	make := api.Contract
	switch {
	case len(args) > 0 && args[0] == "models":
		make = api.ModelSchema
	case len(args) > 0 && args[0] == "poses":
		make = func() ([]byte, error) {
			poses, err := points.Poses()
			if err != nil {
				return nil, err
			}
			return json.Marshal(poses)
		}
	}
	raw, err := make()
	if err != nil {
		return err
	}
	_, err = io.WriteString(os.Stdout, string(raw)+"\n")
	return err
}
