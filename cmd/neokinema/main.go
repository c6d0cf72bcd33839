// Command neokinema is the one binary: server, demo, migration, simulation.
package main

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"golang.org/x/sync/errgroup"
	"gopkg.in/natefinch/lumberjack.v2"

	"neokinema/core/evaluate"
	"neokinema/core/sport"
	"neokinema/internal/api"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/guard"
	"neokinema/internal/inference"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/simcam/points"
)

const help = `neokinema: break down throws, jumps, starts and strides from slow-motion clips

  neokinema demo [--fresh] [--data DIR]   a private database with an invented club
  neokinema serve                         configured by NEO_… (docs/deploy.md)
  neokinema migrate                       bring the schema of NEO_DATABASE_URL up to date
  neokinema check                         look whether configuration, database, media, ffmpeg, clock and disk are in order
  neokinema backup FILE                   database and media into one file, while the server runs
  neokinema restore FILE                  a backup into an empty database and an empty media folder
  neokinema admin --help                  accounts and teams
  neokinema version                       this program, and the newest schema that it knows
  neokinema simulate --help               draw a clip of the simulated athlete with its truth
  neokinema clips [NAME...]               draw the demo's clips into internal/demo/clips
  neokinema contract [models|poses|events|edits|measures] print the API description (OpenAPI), the JSON Schema of model files, the small figures of phases, the tables of events and of kinds of edit, or that of measures
`

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	name, args := "", []string(nil)
	if len(os.Args) > 1 {
		name, args = os.Args[1], os.Args[2:]
	}
	commands := map[string]func(context.Context, []string) error{
		"demo": runDemo, "serve": runServe, "migrate": runMigrate, "check": runCheck, "backup": runBackup, "restore": runRestore, "admin": runAdmin, "version": runVersion, "simulate": runSimulate, "contract": runContract, "clips": runClips,
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

// logTo keeps a log in a file that does not grow without end.
func logTo(path string) (*slog.Logger, func()) {
	f := &lumberjack.Logger{Filename: path, MaxSize: 10, MaxBackups: 3} // MB
	return slog.New(slog.NewJSONHandler(f, nil)), func() { f.Close() }
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
	// A start that was stopped while the club was filled left this behind.
	cut := filepath.Join(dir, "filling")
	if _, err := os.Stat(cut); err == nil {
		*fresh = true
	}
	if *fresh {
		// The drawn clips are kept: they are the same each time.
		db, err := pglocal.Folder(filepath.Join(dir, "db"))
		if err != nil {
			return err
		}
		for _, path := range []string{db, filepath.Join(dir, "media"), filepath.Join(dir, "uploads"), filepath.Join(dir, "work"), filepath.Join(dir, "cache"), cut} {
			if err := os.RemoveAll(path); err != nil {
				return err
			}
		}
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	log, done := logTo(filepath.Join(dir, "neokinema.log"))
	defer done()
	secret, err := app.FreshSecret(dir, newSecret)
	if err != nil {
		return err
	}
	var club demo.Loader
	db, err := pglocal.Start(ctx, pglocal.Options{Dir: filepath.Join(dir, "db")})
	if err != nil {
		return err
	}
	defer db.Stop()
	a, err := app.Start(ctx, app.Config{DatabaseURL: db.URL, MediaURL: "file://" + filepath.Join(dir, "media"),
		Address: *address, Secret: secret, Data: dir, DemoUser: demo.Email, Filling: club.Progress, DrawEye: true, Library: inference.Beside()}, log)
	if err != nil {
		return err
	}
	defer a.Close()
	club.Store, club.Account, club.Intake, club.Bench, club.Watch, club.Logbook = a.Store, a.Account, a.Intake, a.Bench, a.Watch, a.Logbook
	club.Clips, club.Log = filepath.Join(dir, "clips"), slog.New(slog.NewTextHandler(os.Stdout, &slog.HandlerOptions{ReplaceAttr: withoutTime}))
	begun, err := club.Begin(ctx)
	if err != nil {
		return fmt.Errorf("beginning the demo: %w", err)
	}
	if !begun {
		return serve(ctx, a, *address, true)
	}
	// The club fills while somebody looks around already. What is cut off begins anew.
	if err := os.WriteFile(cut, nil, 0o600); err != nil {
		return err
	}
	g, ctx := errgroup.WithContext(ctx)
	g.Go(func() error { return serve(ctx, a, *address, true) })
	g.Go(func() error {
		if err := club.Fill(ctx); err != nil {
			if ctx.Err() != nil {
				return nil // it was stopped
			}
			return fmt.Errorf("loading the demo: %w", err)
		}
		fmt.Println("The club is complete.")
		return os.Remove(cut)
	})
	return g.Wait()
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

// serveMetrics answers at an address of its own, which need not be open to people.
func serveMetrics(ctx context.Context, a *app.App, address string, log *slog.Logger) error {
	if address == "" {
		return nil
	}
	l, err := app.Listen(address, false)
	if err != nil {
		return fmt.Errorf("metrics: %w", err)
	}
	mux := http.NewServeMux()
	mux.Handle("/metrics", a.Metrics.Handler())
	guard.Go(func() error { return app.Serve(ctx, l, mux) }, func(err error) {
		if err != nil {
			log.Error("metrics ended", "error", err)
		}
	})
	return nil
}

func runServe(ctx context.Context, args []string) error {
	c, err := app.FromEnvironment(os.Getenv)
	if err != nil {
		return err
	}
	log := slog.New(slog.NewJSONHandler(os.Stderr, nil))
	a, err := app.Start(ctx, c, log)
	if err != nil {
		return err
	}
	defer a.Close()
	if err := serveMetrics(ctx, a, c.Metrics, log); err != nil {
		return err
	}
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

// measureTable writes the measures that models can use as a table of Markdown.
func measureTable(w io.Writer) error {
	var b strings.Builder
	b.WriteString("| measure | value | unit | points, positions, readings | read in |\n|---|---|---|---|---|\n")
	for _, k := range evaluate.MeasureKinds() {
		unit := k.Unit
		if unit == "" {
			unit = "–"
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %d, %d, %d | %s |\n", k.Name, k.Doc, unit, k.Points, k.Positions, k.Readings, k.Scope)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

func runContract(_ context.Context, args []string) error {
	make := api.Contract
	switch {
	case len(args) > 0 && args[0] == "edits":
		make = func() ([]byte, error) { return json.Marshal(workspace.Kinds()) }
	case len(args) > 0 && args[0] == "events":
		make = func() ([]byte, error) { return json.Marshal(sport.Events()) }
	case len(args) > 0 && args[0] == "ages":
		make = func() ([]byte, error) {
			return json.Marshal(map[string]int{"adult": sport.Adult, "child": sport.Child})
		}
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
	if len(args) > 0 && args[0] == "measures" {
		return measureTable(os.Stdout)
	}
	raw, err := make()
	if err != nil {
		return err
	}
	// Indented, so that a change of the contract can be read in a diff.
	var out bytes.Buffer
	if err := json.Indent(&out, raw, "", "  "); err != nil {
		return err
	}
	out.WriteByte('\n')
	_, err = out.WriteTo(os.Stdout)
	return err
}
