package backup_test

import (
	"archive/tar"
	"bytes"
	"encoding/json"
	"io/fs"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/google/uuid"
	_ "gocloud.dev/blob/fileblob"

	"neokinema/internal/backup"
	"neokinema/internal/intake"
)

// file is one of a backup that somebody has made or changed.
type file struct{ name, text string }

func about(change func(*backup.About)) file {
	a := backup.About{Format: "neokinema-backup", Schema: 3, Clips: 1}
	if change != nil {
		change(&a)
	}
	raw, _ := json.Marshal(a)
	return file{"backup.json", string(raw)}
}

func packed(t testing.TB, files ...file) []byte {
	t.Helper()
	var out bytes.Buffer
	w := tar.NewWriter(&out)
	for _, f := range files {
		if err := w.WriteHeader(&tar.Header{Name: f.name, Mode: 0o600, Size: int64(len(f.text))}); err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(f.text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestAFileThatIsNoWholeBackupIsRefused(t *testing.T) {
	dump, end := file{"database.dump", strings.Repeat("d", 3000)}, file{"gone.json", "[]"}
	clip := file{"media/" + uuid.NewString() + "/original", strings.Repeat("m", 5000)}
	whole := packed(t, about(nil), dump, clip, end)
	if err := backup.Whole(bytes.NewReader(whole)); err != nil {
		t.Fatalf("a whole backup: %v", err)
	}
	noise := make([]byte, 20000)
	r := rand.New(rand.NewPCG(1, 2))
	for i := range noise {
		noise[i] = byte(r.Uint32())
	}
	for name, raw := range map[string][]byte{
		"nothing":          nil,
		"noise":            noise,
		"text":             []byte("clip;athlete\n1;2\n"),
		"an empty archive": packed(t),
		"no database":      packed(t, about(nil), clip, end),
		"no end":           packed(t, about(nil), dump, clip),
		"another order":    packed(t, dump, about(nil), end),
		"something behind": packed(t, about(nil), dump, end, clip),
	} {
		if err := backup.Whole(bytes.NewReader(raw)); err == nil || !strings.Contains(err.Error(), "no backup") {
			t.Errorf("%s: %v", name, err)
		}
	}
	// Cut anywhere before its last file it is not whole.
	last := bytes.LastIndex(whole, []byte("gone.json"))
	for at := 0; at < last; at += 97 {
		if err := backup.Whole(bytes.NewReader(whole[:at])); err == nil {
			t.Errorf("cut after %d of %d bytes it passes for whole", at, len(whole))
		}
	}
}

func TestAHostileBackupWritesNothingOutsideItsFolders(t *testing.T) {
	id := uuid.NewString()
	for name, c := range map[string]struct {
		files []file
		says  string
	}{
		"nothing":               {nil, "no backup"},
		"another program's":     {[]file{{"index.html", "<p>"}}, "no backup"},
		"another format":        {[]file{about(func(a *backup.About) { a.Format = "else" })}, "no backup"},
		"no JSON":               {[]file{{"backup.json", "{"}}, "no backup"},
		"of a newer program":    {[]file{about(func(a *backup.About) { a.Schema = 99 })}, "newer"},
		"an upload outside":     {[]file{about(nil), {"uploads/../../outside", "x"}}, "strange file"},
		"an upload at the root": {[]file{about(nil), {"uploads//etc/outside", "x"}}, "strange file"},
		"an upload's neighbour": {[]file{about(nil), {"uploads/" + id + "/../outside", "x"}}, "strange file"},
		"media outside":         {[]file{about(nil), {"media/../outside", "x"}}, "no media"},
		"media of no clip":      {[]file{about(nil), {"media/outside/original", "x"}}, "no media"},
		"media by another name": {[]file{about(nil), {"media/" + id + "/../../outside", "x"}}, "no media"},
		"a page among media":    {[]file{about(nil), {"media/" + id + "/index.html", "x"}}, "no media"},
		"no list at the end":    {[]file{about(nil), {"gone.json", "{"}}, "no backup"},
	} {
		t.Run(name, func(t *testing.T) {
			top := t.TempDir()
			media, uploads, work := filepath.Join(top, "in", "media"), filepath.Join(top, "in", "uploads"), filepath.Join(top, "in", "work")
			if err := os.MkdirAll(work, 0o700); err != nil {
				t.Fatal(err)
			}
			shelf, err := intake.NewMediaStore(t.Context(), (&url.URL{Scheme: "file", Path: media}).String(), filepath.Join(top, "in", "copies"))
			if err != nil {
				t.Fatal(err)
			}
			_, err = backup.Read(t.Context(), bytes.NewReader(packed(t, c.files...)), work, "postgres://nobody@127.0.0.1:1/none", uploads, shelf, 9)
			if err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%v, want one that says %q", err, c.says)
			}
			err = filepath.WalkDir(top, func(path string, d fs.DirEntry, err error) error {
				if err == nil && !d.IsDir() && strings.Contains(path, "outside") {
					t.Errorf("it wrote %s", path)
				}
				return err
			})
			if err != nil {
				t.Error(err)
			}
		})
	}
}

func TestWhatWasUploadedAndNotImportedComesBack(t *testing.T) {
	dir := t.TempDir()
	shelf, err := intake.NewMediaStore(t.Context(), (&url.URL{Scheme: "file", Path: filepath.Join(dir, "media")}).String(), filepath.Join(dir, "copies"))
	if err != nil {
		t.Fatal(err)
	}
	id, film := uuid.New(), uuid.New()
	uploads := filepath.Join(dir, "uploads")
	a, err := backup.Read(t.Context(), bytes.NewReader(packed(t, about(nil),
		file{"media/" + film.String() + "/original", "a film"},
		file{"uploads/" + id.String(), "half a clip"},
		file{"uploads/" + id.String() + ".info", "{}"},
	)), dir, "postgres://nobody@127.0.0.1:1/none", uploads, shelf, 9)
	if err != nil || a.Clips != 1 || a.Schema != 3 {
		t.Fatalf("%+v, %v", a, err)
	}
	for path, want := range map[string]string{
		filepath.Join(uploads, id.String()):                    "half a clip",
		filepath.Join(uploads, id.String()+".info"):            "{}",
		filepath.Join(dir, "media", film.String(), "original"): "a film",
	} {
		if got, err := os.ReadFile(path); err != nil || string(got) != want {
			t.Errorf("%s holds %q (%v), want %q", filepath.Base(path), got, err, want)
		}
	}
}
