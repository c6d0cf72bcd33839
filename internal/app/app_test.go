package app

import (
	"context"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestServeRefusesToStartWithAReason(t *testing.T) {
	good := map[string]string{"NEO_DATABASE_URL": "postgres://u:p@127.0.0.1:1/x", "NEO_MEDIA_URL": "file:///tmp/media", "NEO_SECRET": strings.Repeat("s", 32), "NEO_ADDRESS": "127.0.0.1:8470"}
	if _, err := FromEnvironment(func(k string) string { return good[k] }); err != nil {
		t.Fatalf("a good configuration: %v", err)
	}
	for key, bad := range map[string]string{"NEO_DATABASE_URL": "mysql://x", "NEO_MEDIA_URL": "/srv/media", "NEO_SECRET": "short", "NEO_ADDRESS": "8470"} {
		_, err := FromEnvironment(func(k string) string {
			if k == key {
				return bad
			}
			return good[k]
		})
		if err == nil || !strings.Contains(err.Error(), key) {
			t.Errorf("%s=%s: %v", key, bad, err)
		}
	}
	_, err := FromEnvironment(func(string) string { return "" })
	if err == nil || strings.Count(err.Error(), "\n  - ") != 3 {
		t.Errorf("all that is wrong is told at once: %v", err)
	}
	c, _ := FromEnvironment(func(k string) string { return good[k] })
	if _, err := Start(context.Background(), c, slog.New(slog.DiscardHandler)); err == nil || !strings.Contains(err.Error(), "database does not answer") {
		t.Errorf("without a database: %v", err)
	}
}

func TestListenTakesTheNextFreePort(t *testing.T) {
	first, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer first.Close()
	if l, err := Listen(first.Addr().String(), false); err == nil {
		l.Close()
		t.Error("a taken port was taken again")
	}
	second, err := Listen(first.Addr().String(), true)
	if err != nil {
		t.Fatal(err)
	}
	defer second.Close()
	if second.Addr().(*net.TCPAddr).Port <= first.Addr().(*net.TCPAddr).Port {
		t.Errorf("%s after %s", second.Addr(), first.Addr())
	}
}

func TestServeStopsCleanly(t *testing.T) {
	l, err := Listen("127.0.0.1:0", false)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if err := Serve(ctx, l, nil); err != nil {
		t.Error(err)
	}
}

func TestSecretIsMadeOnceAndKeptPrivate(t *testing.T) {
	dir := t.TempDir()
	made := 0
	fresh := func() string { made++; return strings.Repeat("k", 40) }
	for range 2 {
		if s, err := FreshSecret(dir, fresh); err != nil || len(s) != 40 {
			t.Fatal(s, err)
		}
	}
	st, err := os.Stat(filepath.Join(dir, "secret"))
	if err != nil || made != 1 || st.Mode().Perm() != 0o600 {
		t.Errorf("made %d times, %v %v", made, st.Mode(), err)
	}
}
