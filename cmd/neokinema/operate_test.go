package main

import (
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"neokinema/internal/app"
	"neokinema/internal/archive"
	"neokinema/internal/store"
	"neokinema/internal/testdb"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// said runs a command of the operator and gives what it printed.
func said(t *testing.T, run func(context.Context, []string) error, input string, args ...string) (string, error) {
	t.Helper()
	dir := t.TempDir()
	out, err := os.Create(filepath.Join(dir, "out"))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "in"), []byte(input), 0o600); err != nil {
		t.Fatal(err)
	}
	in, err := os.Open(filepath.Join(dir, "in"))
	if err != nil {
		t.Fatal(err)
	}
	oldOut, oldIn := os.Stdout, os.Stdin
	os.Stdout, os.Stdin = out, in
	failed := run(context.Background(), args)
	os.Stdout, os.Stdin = oldOut, oldIn
	if _, err := out.Seek(0, io.SeekStart); err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(out)
	if err != nil {
		t.Fatal(err)
	}
	out.Close()
	in.Close()
	return string(text), failed
}

// configured sets the environment of a house's server.
func configured(t *testing.T, c app.Config) {
	t.Helper()
	for k, v := range map[string]string{"NEO_DATABASE_URL": c.DatabaseURL, "NEO_MEDIA_URL": c.MediaURL, "NEO_SECRET": c.Secret, "NEO_DATA": filepath.Join(c.Data, "tools"), "NEO_UPLOADS": filepath.Join(c.Data, "uploads")} {
		t.Setenv(k, v)
	}
}

// A server that runs is backed up, everything is destroyed, and what is restored is what
// there was; the operator's commands work on it.
func TestOperating(t *testing.T) {
	h, end := testenv.Open("")
	defer end()
	c := h.Coach(t)
	at := c.Attempt()
	file := filepath.Join(t.TempDir(), "n.mp4")
	if err := (testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 30}).Make(file); err != nil {
		t.Fatal(err)
	}
	film, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	clip := c.Imported(c.Upload(at.ID, "n.mp4", film, len(film)))
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(3)}, {Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(map[string]any{"x": 5, "y": 6, "source": "hand", "confidence": 1})}}}, 200, nil)
	before := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	configured(t, h.Config)

	if text, err := said(t, runCheck, ""); err != nil || strings.Count(text, "good") < 7 || strings.Contains(text, "bad ") {
		t.Errorf("%v\n%s", err, text)
	}
	if text, _ := said(t, runVersion, ""); !strings.Contains(text, "schema") {
		t.Error(text)
	}
	kept := filepath.Join(t.TempDir(), "backup.tar")
	if text, err := said(t, runBackup, "", kept); err != nil || !strings.Contains(text, "1 clips") {
		t.Fatalf("%v %s", err, text)
	}
	if st, err := os.Stat(kept); err != nil || st.Mode().Perm() != 0o600 {
		t.Errorf("%v %v", st, err)
	}
	if _, err := said(t, runRestore, "", kept); err == nil || !strings.Contains(err.Error(), "empty one") {
		t.Errorf("into a database that has tables: %v", err)
	}

	// Accounts and teams.
	text, err := said(t, runAdmin, "four good words here\n", "user", "add", "second@club.example", "--team", c.User.TeamID.String(), "--name", "Second", "--role", "assistant")
	if err != nil {
		t.Fatalf("%v %s", err, text)
	}
	if _, err := said(t, runAdmin, "1234567890\n", "user", "password", "second@club.example"); err == nil || !strings.Contains(err.Error(), "guessed soon") {
		t.Errorf("a weak password: %v", err)
	}
	if _, err := said(t, runAdmin, "other good words now\n", "user", "password", "second@club.example"); err != nil {
		t.Error(err)
	}
	other := h.Guest(t)
	other.Do("POST", "/api/sign-in", map[string]string{"email": "second@club.example", "password": "other good words now"}, 200, nil)
	if text, err := said(t, runAdmin, "", "user", "list"); err != nil || !strings.Contains(text, "second@club.example") || !strings.Contains(text, "assistant") {
		t.Errorf("%v %s", err, text)
	}
	if _, err := said(t, runAdmin, "", "user", "remove", c.User.Email); err == nil || !strings.Contains(err.Error(), "needs an owner") {
		t.Errorf("the only owner: %v", err)
	}
	if _, err := said(t, runAdmin, "", "user", "remove", "second@club.example"); err != nil {
		t.Error(err)
	}
	other.Do("GET", "/api/queue", nil, 401, nil)
	if _, err := said(t, runAdmin, "", "team", "limit", c.User.TeamID.String(), "--gigabytes", "2.5", "--keep-days", "700"); err != nil {
		t.Error(err)
	}
	if text, err := said(t, runAdmin, "", "team", "list"); err != nil || !strings.Contains(text, "of 2.5 GB, clips go after 700 days") {
		t.Errorf("%v %s", err, text)
	}
	if _, err := said(t, runAdmin, "", "team", "remove", c.User.TeamID.String()); err == nil {
		t.Error("a team goes without a yes")
	}
	if text, err := said(t, runAdmin, "", "team", "remove", c.User.TeamID.String(), "--yes"); err != nil || !strings.Contains(text, "1 attempts, 1 clips") || !strings.Contains(text, "0 left over") {
		t.Errorf("%v %s", err, text)
	}
	if left := h.FilesOf(clip.ID); len(left) > 0 {
		t.Errorf("left: %v", left)
	}
	if _, err := said(t, runAdmin, "", "user", "list", "--nonsense"); err == nil {
		t.Error("a flag that is none")
	}

	// Into a new database and an empty folder.
	dir, err := os.MkdirTemp("", "neokinema-restored-")
	if err != nil {
		t.Fatal(err)
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	url, remove, err := testdb.New(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	defer remove()
	cfg := h.Config
	cfg.DatabaseURL, cfg.MediaURL, cfg.Data = url, "file://"+dir+"/media", dir
	configured(t, cfg)
	cut := filepath.Join(dir, "cut.tar")
	raw, err := os.ReadFile(kept)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(cut, raw[:700], 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := said(t, runRestore, "", cut); err == nil || !strings.Contains(err.Error(), "backup") {
		t.Errorf("half a backup: %v", err)
	}
	if text, err := said(t, runRestore, "", kept); err != nil || !strings.Contains(text, "1 clips") {
		t.Fatalf("%v %s", err, text)
	}
	again, endAgain := testenv.Start(func(c *app.Config) { c.DatabaseURL, c.MediaURL = cfg.DatabaseURL, cfg.MediaURL })
	defer endAgain()
	back := again.Guest(t)
	back.User = store.User{Email: c.User.Email}
	back.SignIn()
	list, err := archive.Same(before, back.Do("GET", "/api/team/export.zip", nil, 200, nil))
	if err != nil || len(list) > 0 {
		t.Errorf("%q %v", list, err)
	}
	back.Do("GET", "/api/clips/"+clip.ID.String()+"/frames/3?width=0", nil, 200, nil)
}
