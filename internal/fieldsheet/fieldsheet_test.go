package fieldsheet_test

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"neokinema/core/workshop"
	"neokinema/internal/fieldsheet"
	"neokinema/internal/paper"
)

func plan(t *testing.T, question string, values workshop.Values) fieldsheet.Sheet {
	t.Helper()
	a, err := workshop.Ask(question, values, nil)
	if err != nil {
		t.Fatal(err)
	}
	return fieldsheet.Sheet{Title: "High jump run-up", Name: "Ása <Dorn> & Co", Inputs: []string{"radius of the curve 9 m"}, Answer: a}
}

// printed is the text of a page, line by line as it lies there, and how many pages there are.
func printed(t *testing.T, size paper.Size, sh fieldsheet.Sheet) (text string, pages int) {
	t.Helper()
	var out bytes.Buffer
	if err := fieldsheet.WritePDF(&out, size, sh); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "plan.pdf")
	if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	raw, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return string(raw), bytes.Count(raw, []byte("\f"))
}

// Every mark stands on one page of either paper with what is laid out by tape.
func TestOnePageWithEveryMark(t *testing.T) {
	sh := plan(t, "high-plan", nil)
	for _, size := range []paper.Size{paper.A4, paper.Letter} {
		text, pages := printed(t, size, sh)
		if pages != 1 {
			t.Errorf("%s: %d pages", size, pages)
		}
		for i, p := range sh.Answer.Places {
			line := ""
			for _, l := range strings.Split(text, "\n") {
				if strings.HasPrefix(strings.TrimSpace(l), fmt.Sprintf("%d ", i+1)) {
					line = l
				}
			}
			for _, want := range []float64{p.Y, p.Near, p.Far} {
				if !strings.Contains(line, fmt.Sprintf("%.2f m", want)) {
					t.Errorf("%s: %s has no %.2f m: %q", size, p.Name, want, line)
				}
			}
		}
		if !strings.Contains(text, "Ása <Dorn>") || !strings.Contains(text, "drawn 1 : ") {
			t.Errorf("%s: %.400s", size, text)
		}
	}
	text, _ := printed(t, paper.A4, plan(t, "javelin-plan", workshop.Values{"lengths": {List: []float64{1.9, 2, 1.7, 2.1, 1.6}}}))
	for _, want := range []string{"from the edge", "30.10 m", "11.10 m", "Room behind the arc"} {
		if !strings.Contains(text, want) {
			t.Errorf("the javelin's page has no %q", want)
		}
	}
}

// A picture is XML, and its feet lie as far apart as the plan's do, by the scale that it says.
func TestPictureIsToScale(t *testing.T) {
	sh := plan(t, "high-plan", workshop.Values{"leg": {Value: 1}})
	var out bytes.Buffer
	if err := fieldsheet.WriteSVG(&out, sh); err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Title  string `xml:"title"`
		Circle []struct {
			X float64 `xml:"cx,attr"`
			Y float64 `xml:"cy,attr"`
		} `xml:"circle"`
	}
	if err := xml.Unmarshal(out.Bytes(), &doc); err != nil {
		t.Fatal(err)
	}
	var scale float64
	if _, err := fmt.Sscanf(doc.Title[strings.LastIndex(doc.Title, ",")+2:], "%f px", &scale); err != nil {
		t.Fatalf("%q: %v", doc.Title, err)
	}
	// Left feet are round.
	var left []workshop.Place
	for _, p := range sh.Answer.Places {
		if p.Foot == "left" {
			left = append(left, p)
		}
	}
	if len(doc.Circle) != len(left) || len(left) < 4 {
		t.Fatalf("%d circles for %d left feet", len(doc.Circle), len(left))
	}
	for i := 1; i < len(left); i++ {
		want := scale * math.Hypot(left[i].X-left[i-1].X, left[i].Y-left[i-1].Y)
		got := math.Hypot(doc.Circle[i].X-doc.Circle[i-1].X, doc.Circle[i].Y-doc.Circle[i-1].Y)
		if math.Abs(got-want) > 0.3 {
			t.Errorf("from foot %d to the next %.1f px, want %.1f", i, got, want)
		}
	}
	if err := fieldsheet.WriteSVG(&out, fieldsheet.Sheet{Title: "nothing"}); err == nil {
		t.Error("an answer without a drawing is drawn")
	}
}
