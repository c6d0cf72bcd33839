// Command neokinema is the one binary: server, demo, migration, simulation.
package main

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"neokinema/core/body"
	"neokinema/internal/api"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/simcam"
)

const help = `neokinema: break down throws, jumps, starts and strides from slow-motion clips

  neokinema demo [--fresh] [--data DIR]   a private database with an invented club
  neokinema serve                         configured by NEO_DATABASE_URL, NEO_MEDIA_URL, NEO_ADDRESS, NEO_SECRET, NEO_DATA
  neokinema migrate                       bring the schema of NEO_DATABASE_URL up to date
  neokinema simulate --help               draw a clip of the simulated athlete with its truth
  neokinema contract                      print the API description (OpenAPI)
`

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	name, args := "", []string(nil)
	if len(os.Args) > 1 {
		name, args = os.Args[1], os.Args[2:]
	}
	commands := map[string]func(context.Context, []string) error{
		"demo": runDemo, "serve": runServe, "migrate": runMigrate, "simulate": runSimulate, "contract": runContract,
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
	l := demo.Loader{Store: a.Store, Account: a.Account, Intake: a.Intake, Bench: a.Bench, Clips: filepath.Join(dir, "clips"),
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

func runContract(context.Context, []string) error {
	raw, err := api.Contract()
	if err != nil {
		return err
	}
	_, err = io.WriteString(os.Stdout, string(raw)+"\n")
	return err
}

func runSimulate(ctx context.Context, args []string) error {
	flags := flag.NewFlagSet("simulate", flag.ContinueOnError)
	spec := simcam.Spec{Faults: map[string]float64{}}
	out := flags.String("out", "start.mp4", "file to write; the truth goes beside it")
	sex := flags.String("sex", "male", "female or male, for proportions")
	leg := flags.String("front-leg", "left", "leg in the front block")
	flags.Float64Var(&spec.Athlete.Height, "height", 1.80, "standing height, m")
	flags.Float64Var(&spec.Direction, "direction", 1, "1 runs to the right, -1 to the left")
	flags.Float64Var(&spec.CaptureRate, "capture-rate", 240, "frames per second of the camera")
	flags.Float64Var(&spec.FileRate, "file-rate", 30, "frames per second at which the file plays")
	flags.BoolVar(&spec.TagRate, "tag", true, "note the capture rate in the file")
	flags.IntVar(&spec.Width, "width", 1280, "px")
	flags.IntVar(&spec.Height, "picture-height", 720, "px")
	flags.IntVar(&spec.Kit, "kit", 0, "clothing")
	faults := "name=size, may be given more than once:"
	for n, d := range simcam.StartFaults {
		faults += fmt.Sprintf("\n  %-11s %s (%g to %g, faultless %g)", n, d.Says, d.Min, d.Max, d.Clean)
	}
	flags.Func("fault", faults, func(v string) error {
		name, size, ok := strings.Cut(v, "=")
		n, err := strconv.ParseFloat(size, 64)
		if !ok || err != nil {
			return errors.New("a fault is name=size")
		}
		spec.Faults[name] = n
		return nil
	})
	if err := flags.Parse(args); err != nil {
		return err
	}
	spec.Athlete.Sex, spec.Athlete.FrontLeg = body.Sex(*sex), body.Side(*leg)
	if *sex != "male" && *sex != "female" || *leg != "left" && *leg != "right" {
		return errors.New("sex is female or male, front-leg is left or right")
	}
	scene, err := simcam.New(spec)
	if err != nil {
		return err
	}
	return scene.WriteClip(ctx, *out)
}
