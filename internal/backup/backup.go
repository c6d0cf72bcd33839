// Package backup writes a whole server into one file and reads it back: the database as
// it was at one moment, with all media that belong to it.
package backup

import (
	"archive/tar"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/intake"
	"neokinema/internal/store"
)

// Files of a backup, in their order. It is a tar file, so that it can be looked into
// without this program.
const (
	about    = "backup.json"   // what it is
	database = "database.dump" // for pg_restore
	media    = "media/"        // by the names that they have on the shelf
	uploads  = "uploads/"      // of clips that are not imported yet
	gone     = "gone.json"     // what was deleted while the backup was written
	format   = "neokinema-backup"
)

// About tells what a backup is.
type About struct {
	Format string    `json:"format"`
	Schema int64     `json:"schema"`
	Made   time.Time `json:"made"`
	Clips  int       `json:"clips"`
	Films  int       `json:"films"`
}

// House is what is backed up.
type House struct {
	Store    *store.Store
	Shelf    *intake.MediaStore
	Uploads  string // folder
	Database string // URL, for PostgreSQL's own tools
}

// tool finds one of PostgreSQL's programs: the newest that is installed.
func tool(name string) (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name) // the pattern is sound
	sort.Strings(found)
	if len(found) > 0 {
		return found[len(found)-1], nil
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is not installed; install Debian's package postgresql-client", name)
	}
	return path, nil
}

// Write writes a backup. Work goes on meanwhile: the database is read as it was at the
// beginning; media never change, and what is deleted meanwhile is noted.
func (h House) Write(ctx context.Context, to io.Writer, dir string) (About, error) {
	dump, err := tool("pg_dump")
	if err != nil {
		return About{}, err
	}
	have, _, err := h.Store.Schema(ctx)
	if err != nil {
		return About{}, err
	}
	a := About{Format: format, Schema: have, Made: time.Now().UTC()}
	out := tar.NewWriter(to)
	var clips, films []uuid.UUID
	file := filepath.Join(dir, database)
	err = h.Store.Snapshot(ctx, func(id string, c, f []uuid.UUID) error {
		clips, films = c, f
		cmd := exec.CommandContext(ctx, dump, "--format=custom", "--no-owner", "--no-privileges", "--snapshot="+id, "--file="+file, "--dbname="+h.Database)
		if said, err := cmd.CombinedOutput(); err != nil {
			return fmt.Errorf("pg_dump: %w: %s", err, said)
		}
		return nil
	})
	defer os.Remove(file)
	if err != nil {
		return a, err
	}
	a.Clips, a.Films = len(clips), len(films)
	if err := putJSON(out, about, a); err != nil {
		return a, err
	}
	if err := putFile(out, database, file); err != nil {
		return a, err
	}
	var missing []uuid.UUID
	for _, id := range append(clips, films...) {
		n := 0
		err := h.Shelf.Each(ctx, id, func(name string, size int64, r io.Reader) error {
			n++
			return put(out, media+id.String()+"/"+name, size, r)
		})
		if err != nil {
			return a, err
		}
		upload := filepath.Join(h.Uploads, id.String())
		switch _, err := os.Stat(upload); {
		case err == nil:
			err = errors.Join(putFile(out, uploads+id.String(), upload), putFile(out, uploads+id.String()+".info", upload+".info"))
			if err != nil {
				return a, err
			}
		case n == 0:
			missing = append(missing, id)
		}
	}
	// Of those without media, some never had any; the others were deleted meanwhile.
	lost, err := h.Store.Unknown(ctx, missing)
	if err != nil {
		return a, err
	}
	if err := putJSON(out, gone, lost); err != nil {
		return a, err
	}
	return a, out.Close()
}

func put(out *tar.Writer, name string, size int64, r io.Reader) error {
	if err := out.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: size, ModTime: time.Now()}); err != nil {
		return err
	}
	_, err := io.Copy(out, r)
	return err
}

func putJSON(out *tar.Writer, name string, v any) error {
	raw, err := json.MarshalIndent(v, "", " ")
	if err != nil {
		return err
	}
	return put(out, name, int64(len(raw)), strings.NewReader(string(raw)))
}

func putFile(out *tar.Writer, name, path string) error {
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil // taken over meanwhile
	}
	if err != nil {
		return err
	}
	defer f.Close()
	i, err := f.Stat()
	if err != nil {
		return err
	}
	return put(out, name, i.Size(), io.LimitReader(f, i.Size()))
}

// Whole refuses a file that is no backup, or one that was cut, before anything is read
// into a database.
func Whole(f io.Reader) error {
	in := tar.NewReader(f)
	first, last := "", ""
	dumped := false
	for {
		h, err := in.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("this file is cut, or no backup: %w", err)
		}
		if first == "" {
			first = h.Name
		}
		last = h.Name
		dumped = dumped || h.Name == database
	}
	if first != about || last != gone || !dumped {
		return errors.New("this file is cut, or no backup of Neokinema")
	}
	return nil
}

// Read puts a backup into a database that has nothing and a shelf for its media. known
// is the newest schema that this program knows. The database is brought up to date by
// the next start.
func Read(ctx context.Context, from io.Reader, dir, databaseURL, uploadsDir string, shelf *intake.MediaStore, known int) (About, error) {
	var a About
	restore, err := tool("pg_restore")
	if err != nil {
		return a, err
	}
	in := tar.NewReader(from)
	for {
		f, err := in.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return a, fmt.Errorf("this backup is cut or no backup: %w", err)
		}
		if a.Format == "" && f.Name != about {
			return a, errors.New("this file is no backup of Neokinema")
		}
		switch {
		case f.Name == about:
			if err := json.NewDecoder(in).Decode(&a); err != nil || a.Format != format {
				return a, errors.New("this file is no backup of Neokinema")
			}
			if a.Schema > int64(known) {
				return a, fmt.Errorf("this backup has schema %d, made by a newer Neokinema; this one knows %d. Restore it with the newer program", a.Schema, known)
			}
			if err := os.MkdirAll(uploadsDir, 0o700); err != nil {
				return a, err
			}
		case f.Name == database:
			file := filepath.Join(dir, database)
			if err := keep(in, file); err != nil {
				return a, err
			}
			cmd := exec.CommandContext(ctx, restore, "--exit-on-error", "--no-owner", "--no-privileges", "--dbname="+databaseURL, file)
			said, err := cmd.CombinedOutput()
			_ = os.Remove(file)
			if err != nil {
				return a, fmt.Errorf("pg_restore: %w: %s", err, said)
			}
		case strings.HasPrefix(f.Name, media):
			if err := shelf.Put(ctx, strings.TrimPrefix(f.Name, media), in); err != nil {
				return a, err
			}
		case strings.HasPrefix(f.Name, uploads):
			name := strings.TrimPrefix(f.Name, uploads)
			if _, err := uuid.Parse(strings.TrimSuffix(name, ".info")); err != nil {
				return a, fmt.Errorf("the backup has a strange file %q", f.Name)
			}
			if err := keep(in, filepath.Join(uploadsDir, name)); err != nil {
				return a, err
			}
		case f.Name == gone:
			var lost []uuid.UUID
			if err := json.NewDecoder(in).Decode(&lost); err != nil {
				return a, fmt.Errorf("this backup is cut or no backup: %w", err)
			}
			if err := store.Forget(ctx, databaseURL, lost); err != nil {
				return a, err
			}
		}
	}
	if a.Format == "" {
		return a, errors.New("this file is no backup of Neokinema")
	}
	return a, nil
}

func keep(r io.Reader, path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(f, r)
	return errors.Join(err, f.Close())
}
