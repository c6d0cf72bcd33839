package main

import (
	"bufio"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/account"
	"neokinema/internal/app"
	"neokinema/internal/backup"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/store"
)

const adminHelp = `neokinema admin: accounts and teams, with the configuration of the server in NEO_…

  neokinema admin user list
  neokinema admin user add EMAIL --team ID [--name NAME] [--role owner|coach|assistant]
  neokinema admin user password EMAIL
  neokinema admin user remove EMAIL
  neokinema admin team list
  neokinema admin team add NAME --email EMAIL --name NAME     a team with its owner
  neokinema admin team limit ID [--gigabytes N] [--keep-days N]   0: no limit
  neokinema admin team remove ID --yes                         everything of it, for good

A new password is read from standard input, one line.
`

func quietLog() *slog.Logger {
	return slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))
}

// opened connects everything, without working on imports.
func opened(ctx context.Context) (*app.App, app.Config, error) {
	c, err := app.FromEnvironment(os.Getenv)
	if err != nil {
		return nil, c, err
	}
	a, err := app.Open(ctx, c, quietLog())
	if err != nil {
		return a, c, err
	}
	if have, known, err := a.Store.Schema(ctx); err != nil || have > known {
		a.Close()
		return nil, c, errors.Join(err, fmt.Errorf("the database has schema %d, and this program knows %d: use the newer program", have, known))
	}
	return a, c, nil
}

func runVersion(context.Context, []string) error {
	fmt.Println("neokinema", app.Version())
	return nil
}

// runCheck says of each part whether it is in order, and fails when one is not.
func runCheck(ctx context.Context, _ []string) error {
	bad := 0
	say := func(what string, err error, good string) {
		if err != nil {
			bad++
			fmt.Printf("bad   %-13s %v\n", what, err)
			return
		}
		fmt.Printf("good  %-13s %s\n", what, good)
	}
	c, err := app.FromEnvironment(os.Getenv)
	say("configuration", err, "complete")
	err = media.CheckTools()
	say("ffmpeg", err, "installed")
	if !media.Shut() {
		fmt.Println("note  ffmpeg        this machine does not let it run without a network of its own; forced readers alone keep it from opening connections")
	}
	s, err := store.Connect(ctx, c.DatabaseURL)
	if err == nil {
		defer s.Close()
		have, known, schemaErr := s.Schema(ctx)
		if schemaErr == nil && have > known {
			schemaErr = fmt.Errorf("schema %d was made by a newer program; this one knows %d", have, known)
		}
		good := fmt.Sprintf("answers; schema %d", have)
		if have < known {
			good += fmt.Sprintf(", which the next start brings to %d", known)
		}
		say("database", schemaErr, good)
		var now time.Time
		err := s.DB.GetContext(ctx, &now, `SELECT now()`)
		if off := time.Since(now); err == nil && (off > 5*time.Second || off < -5*time.Second) {
			err = fmt.Errorf("this machine and the database differ by %s", off.Round(time.Second))
		}
		say("clock", err, "agrees with the database")
	} else {
		say("database", err, "")
	}
	dir, err := os.MkdirTemp("", "neokinema-check-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	shelf, err := intake.NewMediaStore(ctx, c.MediaURL, dir)
	if err == nil {
		defer shelf.Close()
		err = shelf.Check(ctx)
	}
	say("media", err, "can be written and read")
	for what, at := range map[string]string{"data folder": c.Data, "uploads": c.Uploads} {
		say(what, writable(at), "can be written, with room")
	}
	if bad > 0 {
		return fmt.Errorf("%d parts are not in order", bad)
	}
	return nil
}

// leastRoom is what a disk should have free, bytes: a clip with its proxy.
const leastRoom = 5 << 30

func writable(dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, "check-")
	if err != nil {
		return err
	}
	f.Close()
	if err := os.Remove(f.Name()); err != nil {
		return err
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(dir, &disk); err != nil {
		return err
	}
	if free := int64(disk.Bavail) * disk.Bsize; free < leastRoom {
		return fmt.Errorf("only %.1f GB are free in %s", float64(free)/1e9, dir)
	}
	return nil
}

func runBackup(ctx context.Context, args []string) error {
	if len(args) != 1 {
		return errors.New("name the file to write: neokinema backup FILE")
	}
	a, c, err := opened(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	// Under another name until it is whole: half a backup must not look like one.
	part := args[0] + ".part"
	f, err := os.OpenFile(part, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	defer os.Remove(part)
	buffered := bufio.NewWriterSize(f, 1<<20)
	made, err := a.Backup(c).Write(ctx, buffered, a.Scratch())
	if err := errors.Join(err, buffered.Flush(), f.Sync(), f.Close()); err != nil {
		return err
	}
	if err := os.Rename(part, args[0]); err != nil {
		return err
	}
	fmt.Printf("%s: schema %d, %d clips, %d films\n", args[0], made.Schema, made.Clips, made.Films)
	return nil
}

func runRestore(ctx context.Context, args []string) error {
	if len(args) != 1 {
		return errors.New("name the backup: neokinema restore FILE")
	}
	c, err := app.FromEnvironment(os.Getenv)
	if err != nil {
		return err
	}
	if err := store.Vacant(ctx, c.DatabaseURL); err != nil {
		return err
	}
	f, err := os.Open(args[0])
	if err != nil {
		return err
	}
	defer f.Close()
	if err := backup.Whole(f); err != nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "neokinema-restore-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	shelf, err := intake.NewMediaStore(ctx, c.MediaURL, filepath.Join(dir, "cache"))
	if err != nil {
		return err
	}
	defer shelf.Close()
	got, err := backup.Read(ctx, bufio.NewReaderSize(f, 1<<20), dir, c.DatabaseURL, c.Uploads, shelf, store.KnownSchema())
	if err != nil {
		return err
	}
	s, err := store.Open(ctx, c.DatabaseURL, quietLog())
	if err != nil {
		return err
	}
	s.Close()
	fmt.Printf("restored what was backed up on %s: %d clips, %d films\n", got.Made.Format(time.RFC3339), got.Clips, got.Films)
	return nil
}

func runAdmin(ctx context.Context, args []string) error {
	if len(args) < 2 {
		fmt.Fprint(os.Stderr, adminHelp)
		return flag.ErrHelp
	}
	what, rest := args[0]+" "+args[1], args[2:]
	name := ""
	if len(rest) > 0 && !strings.HasPrefix(rest[0], "-") {
		name, rest = rest[0], rest[1:]
	}
	flags := flag.NewFlagSet("admin", flag.ContinueOnError)
	team := flags.String("team", "", "id of the team")
	person := flags.String("name", "", "name of the person")
	email := flags.String("email", "", "e-mail of the owner")
	role := flags.String("role", "coach", "owner, coach or assistant")
	gigabytes := flags.Float64("gigabytes", 0, "room for clips; 0: no limit")
	days := flags.Int("keep-days", 0, "days after which clips go; 0: never")
	yes := flags.Bool("yes", false, "really")
	if err := flags.Parse(rest); err != nil {
		return err
	}
	a, _, err := opened(ctx)
	if err != nil {
		return err
	}
	defer a.Close()
	if have, known, err := a.Store.Schema(ctx); err != nil || have < known {
		return errors.Join(err, fmt.Errorf("the database has schema %d of %d: start the server once, or run neokinema migrate", have, known))
	}
	switch what {
	case "user list":
		list, err := a.Store.Accounts(ctx)
		for _, u := range list {
			fmt.Printf("%-34s %-10s %-24s %s %s\n", u.Email, u.Role, u.Name, u.TeamID, u.Team)
		}
		return err
	case "team list":
		list, err := a.Store.Teams(ctx)
		for _, t := range list {
			fmt.Printf("%s %-30s %d accounts, %d athletes, %d clips, %.1f GB%s\n", t.ID, t.Name, t.Accounts, t.Athletes, t.Clips, float64(t.Bytes)/1e9, limits(t))
		}
		return err
	case "team add":
		password, err := typed()
		if err != nil {
			return err
		}
		u, err := a.Account.Create(ctx, account.NewTeam{Team: name, Name: *person, Credentials: account.Credentials{Email: *email, Password: password}})
		if err == nil {
			fmt.Println(u.TeamID)
		}
		return err
	case "user add":
		id, err := uuid.Parse(*team)
		if err != nil {
			return errors.New("say to which team: --team ID (neokinema admin team list)")
		}
		password, err := typed()
		if err != nil {
			return err
		}
		if *person == "" {
			*person, _, _ = strings.Cut(name, "@")
		}
		_, err = a.Account.Add(ctx, id, *person, account.Credentials{Email: name, Password: password}, store.Role(*role))
		return err
	case "user password":
		u, err := a.Store.UserByEmail(ctx, name)
		if err != nil {
			return err
		}
		password, err := typed()
		if err != nil {
			return err
		}
		return a.Account.SetPassword(ctx, u, password, uuid.Nil)
	case "user remove":
		u, err := a.Store.UserByEmail(ctx, name)
		if err != nil {
			return err
		}
		return a.Store.RemoveMember(ctx, u.TeamID, u.ID)
	case "team limit", "team remove":
		id, err := uuid.Parse(name)
		if err != nil {
			return errors.New("name the team by its id (neokinema admin team list)")
		}
		if what == "team limit" {
			return a.Store.SetLimits(ctx, id, int64(*gigabytes*1e9), *days)
		}
		if !*yes {
			return errors.New("this deletes everything of the team for good; say --yes to do it")
		}
		d, err := a.Intake.DeleteTeam(ctx, id)
		if err == nil {
			fmt.Printf("deleted: %d attempts, %d clips, %d files (%.1f MB); %d left over\n", d.Attempts, d.Clips, d.Files, float64(d.Bytes)/1e6, d.LeftOver)
		}
		return err
	}
	fmt.Fprint(os.Stderr, adminHelp)
	return flag.ErrHelp
}

func limits(t store.TeamRow) (out string) {
	if t.Quota > 0 {
		out += fmt.Sprintf(" of %.1f GB", float64(t.Quota)/1e9)
	}
	if t.KeepDays > 0 {
		out += fmt.Sprintf(", clips go after %d days", t.KeepDays)
	}
	return out
}

// typed reads a new password from standard input.
func typed() (string, error) {
	fmt.Fprint(os.Stderr, "new password: ")
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}
