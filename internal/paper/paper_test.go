package paper_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"neokinema/internal/paper"
)

func text(t *testing.T, raw []byte) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "x.pdf")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

// Whatever is written stands there, or as a box that is explained; marks that cannot be printed
// leave no trace.
func TestAnyTextIsPrinted(t *testing.T) {
	for _, c := range []struct {
		says, want string
		lacks      bool
	}{
		{"Curve 9.5 m ± 0.4, −3°", "Curve 9.5 m ± 0.4, −3°", false},
		{"Zoë Ægir", "Zoë Ægir", false},
		{"e\u0301clair", "éclair", false},
		{"two\u200bwords", "twowords", false},
		{"日本", "□□", true},
		{"bad \xff byte", "bad □ byte", true},
	} {
		s := paper.New(paper.A4, "P", "Title "+c.says, "footer")
		s.Style(11, "", paper.Ink)
		s.MultiCell(0, 5, c.says, "", "L", false)
		var out bytes.Buffer
		if err := s.Close(&out); err != nil {
			t.Fatal(err)
		}
		got := text(t, out.Bytes())
		if !strings.Contains(got, c.want) {
			t.Errorf("%q is printed as %q", c.says, got)
		}
		if explained := strings.Contains(got, "not in the font"); explained != c.lacks {
			t.Errorf("%q: explained %v", c.says, explained)
		}
		if !strings.Contains(got, "footer · page 1 of 1") {
			t.Errorf("no footer in %q", got)
		}
	}
}

// Sizes by the names that requests give them, and as wide as the paper is.
func TestSizes(t *testing.T) {
	for name, want := range map[string]paper.Size{"letter": paper.Letter, "Letter": paper.Letter, "A4": paper.A4, "": paper.A4, "A3": paper.A4} {
		if got := paper.Named(name); got != want {
			t.Errorf("%q is %s", name, got)
		}
	}
	for size, want := range map[paper.Size]float64{paper.A4: 210, paper.Letter: 215.9} {
		s := paper.New(size, "P", "", "")
		if got := s.Width + 2*paper.Margin; got < want-0.2 || got > want+0.2 {
			t.Errorf("%s is %.1f mm wide", size, got)
		}
	}
}
