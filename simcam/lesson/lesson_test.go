package lesson

import (
	"bytes"
	"errors"
	"image/jpeg"
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/models"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
)

// Every fault of every event can be looked for, somewhere and by a rule.
func TestASightForEveryFault(t *testing.T) {
	for _, e := range move.Events() {
		m, err := models.Load(e.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range e.Variants {
			for _, sign := range audit.SignsOf(e.ID, v.ID) {
				at := slices.IndexFunc(sights, func(s Sight) bool {
					return s.Event == e.ID && s.Dial == sign.Fault && (s.Variant == "" || s.Variant == v.ID)
				})
				if at < 0 {
					t.Errorf("%s %s: nobody says where to look for %s", e.ID, v.ID, sign.Fault)
				} else if s := sights[at]; len(s.Watch) < 30 {
					t.Errorf("%s %s: %q", e.ID, sign.Fault, s.Watch)
				} else if _, ok := m.Position(s.At); !ok {
					t.Errorf("%s %s: no position %s", e.ID, sign.Fault, s.At)
				}
			}
		}
	}
}

// Some scenes of each sort, audited: all of the bank is, by ./neo figures eye.
func TestScenesAreTrue(t *testing.T) {
	kinds := map[Sort]int{}
	for _, n := range []int{0, 1, 4, 13, 26, 72, Scenes() - 2, Scenes() - 3, Scenes() - 11} {
		clips, err := Scene(n)
		if err != nil {
			t.Log(err) // a few scenes show nobody: the bank does without
			continue
		}
		for i, c := range clips {
			kinds[c.Sort]++
			if len(c.ID) != 16 || strings.Trim(c.ID, "0123456789abcdef") != "" {
				t.Errorf("%q tells something", c.ID)
			}
			for _, w := range Audit(c) {
				t.Error(w)
			}
			if c.Sort == Sized && (i == 0) != (c.Size < 0) || c.Sort == Sized && i > 1 && c.Size <= clips[i-1].Size {
				t.Errorf("%s: size %g", c.ID, c.Size)
			}
		}
	}
	if kinds[Sized] < 12 || kinds[Two] < 2 || kinds[Dark] < 1 {
		t.Errorf("%v", kinds)
	}
}

// A truth that is spoilt is found.
func TestTheAuditFindsWhatIsWrong(t *testing.T) {
	clips, err := Scene(1)
	if err != nil {
		t.Fatal(err)
	}
	for name, spoil := range map[string]func(*Clip){
		"the other size": func(c *Clip) { c.Size = -c.Size },
		"another angle":  func(c *Clip) { c.Angle += 3 },
		"another corner": func(c *Clip) { c.Lines[1][0] += 4 },
		"fewer frames":   func(c *Clip) { c.Frames-- },
		"a moment too late": func(c *Clip) {
			c.Moments = map[string]int{"catch2": 3}
		},
	} {
		c := clips[len(clips)-1]
		spoil(&c)
		if len(Audit(c)) == 0 {
			t.Errorf("%s: nothing is found", name)
		}
	}
}

func TestDrawnOnOneSheet(t *testing.T) {
	n := 0
	for slots()[n].sight.Dial != "shoulders" {
		n++
	}
	clips, err := Scene(n)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := clips[0].Draw(func() error { return nil })
	if err != nil {
		t.Fatal(err)
	}
	sheet, err := jpeg.Decode(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	if b := sheet.Bounds(); b.Dx() != Columns*Width || b.Dy() != (clips[0].Frames+Columns-1)/Columns*Height {
		t.Errorf("%v for %d frames", b, clips[0].Frames)
	}
	stop := errors.New("stop")
	if _, err := clips[0].Draw(func() error { return stop }); !errors.Is(err, stop) {
		t.Errorf("goes on: %v", err)
	}
}

// How long a clip is tells nothing of whether it can be said: no length parts those that end early from the
// others much better than a coin.
func TestLengthTellsNothing(t *testing.T) {
	var dark, plain []int
	for n, s := range slots() {
		if s.sort == Sized && n >= 40 || s.sort == Two { // the first four of each event
			continue
		}
		clips, err := Scene(n)
		if err != nil {
			continue // a few scenes show nobody: the bank does without
		}
		for _, c := range clips[:1] {
			if c.Sort == Dark {
				dark = append(dark, c.Frames)
			} else {
				plain = append(plain, c.Frames)
			}
		}
	}
	if len(dark) < 20 || len(plain) < 30 {
		t.Fatalf("%d and %d clips", len(dark), len(plain))
	}
	upTo := func(list []int, n int) float64 {
		k := 0
		for _, f := range list {
			if f <= n {
				k++
			}
		}
		return float64(k) / float64(len(list))
	}
	for n := range 200 {
		if hit := 0.5 + math.Abs(upTo(dark, n)-upTo(plain, n))/2; hit > 0.7 {
			t.Errorf("who calls clips of up to %d pictures undecidable is right %.0f times in 100", n, 100*hit)
		}
	}
}
