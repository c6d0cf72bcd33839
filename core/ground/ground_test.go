package ground

import (
	"encoding/json"
	"errors"
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
)

var known = [9]float64{62, -14, 500, 3, 21, 420, 0.004, -0.03, 1}

func same(_ int, p r2.Vec) r2.Vec { return p }

// Every template seen through a known map gives the map back.
func TestTemplatesThroughAKnownMap(t *testing.T) {
	for _, tp := range Templates() {
		if tp.ID == "free" || tp.ID == "bar" {
			continue // what is typed, and what stands upright: package camera
		}
		m := ControlPoints{Template: tp.ID}
		for i, p := range tp.Places {
			if p.Line {
				p.Along = -2 - float64(i) // wherever the coach clicks
			}
			q := apply(known, r2.Vec{X: p.Along, Y: p.Right})
			if p.Line {
				p.Along = 0
			}
			m.Points = append(m.Points, ControlPoint{Name: p.Name, Along: p.Along, Right: p.Right, Line: p.Line, X: q.X, Y: q.Y})
		}
		pl, err := Fit(m, same)
		if err != nil {
			t.Fatalf("%s: %v", tp.ID, err)
		}
		if pl.ErrorPx > 1e-6 || pl.ErrorCm > 1e-6 {
			t.Errorf("%s: %g px, %g cm", tp.ID, pl.ErrorPx, pl.ErrorCm)
		}
		for _, line := range tp.Lines {
			for _, g := range line {
				g := r2.Vec{X: g[0], Y: g[1]}
				if d := r2.Norm(r2.Sub(pl.Picture(g), apply(known, g))); d > 1e-5*(1+r2.Norm(apply(known, g))) {
					t.Errorf("%s: %v lies %g px off", tp.ID, g, d)
				}
				if d := r2.Norm(r2.Sub(pl.Ground(pl.Picture(g)), g)); d > 1e-7 {
					t.Errorf("%s: there and back %g m", tp.ID, d)
				}
			}
		}
	}
}

// A misplaced mark is named, and more marks average scatter away.
func TestErrorsAreShown(t *testing.T) {
	m := ControlPoints{}
	r := rand.New(rand.NewPCG(4, 4))
	for i := range 12 {
		g := r2.Vec{X: float64(i%4) * 2, Y: -float64(i/4) * 1.22}
		q := apply(known, g)
		m.Points = append(m.Points, ControlPoint{Name: string(rune('a' + i)), Along: g.X, Right: g.Y, X: q.X + r.NormFloat64(), Y: q.Y + r.NormFloat64()})
	}
	pl, err := Fit(m, same)
	if err != nil || pl.ErrorPx < 0.3 || pl.ErrorPx > 2 {
		t.Fatalf("%+v %v", pl, err)
	}
	m.Points[6].X += 40
	if pl, err = Fit(m, same); err != nil || pl.Worst != "g" || pl.ErrorPx < 5 {
		t.Errorf("%+v %v", pl, err)
	}
}

func TestWhatMakesNoPlane(t *testing.T) {
	at := func(p ...[2]float64) (m ControlPoints) {
		for _, g := range p {
			q := apply(known, r2.Vec{X: g[0], Y: g[1]})
			m.Points = append(m.Points, ControlPoint{Along: g[0], Right: g[1], X: q.X, Y: q.Y})
		}
		return m
	}
	for name, c := range map[string]struct {
		m    ControlPoints
		want error
	}{
		"three":            {at([2]float64{0, 0}, [2]float64{1, 0}, [2]float64{0, 1}), ErrFew},
		"four on a line":   {at([2]float64{0, 0}, [2]float64{1, 0}, [2]float64{2, 0}, [2]float64{3, 0}), ErrLine},
		"three on a line":  {at([2]float64{0, 0}, [2]float64{1, 0}, [2]float64{2, 0}, [2]float64{0, 1}), ErrLine},
		"all on one place": {at([2]float64{1, 1}, [2]float64{1, 1}, [2]float64{1, 1}, [2]float64{1, 1}), ErrLine},
	} {
		if _, err := Fit(c.m, same); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	if (ControlPoints{Points: []ControlPoint{{Along: math.NaN()}}}).Check() == nil || (ControlPoints{Points: []ControlPoint{{Along: 900}}}).Check() == nil {
		t.Error("absurd places are taken")
	}
}

// Against OpenCV's findHomography; the table was made by
// figures/reference/opencv_homography.py --table with OpenCV 4.6.
func TestHomographyAgainstOpenCV(t *testing.T) {
	raw, err := os.ReadFile("testdata/opencv.json")
	if err != nil {
		t.Fatal(err)
	}
	var cases []struct {
		From, To [][2]float64
		Want     [9]float64
	}
	if err := json.Unmarshal(raw, &cases); err != nil || len(cases) < 4 {
		t.Fatalf("%d cases, %v", len(cases), err)
	}
	for i, c := range cases {
		var from, to []r2.Vec
		for k := range c.From {
			from, to = append(from, r2.Vec{X: c.From[k][0], Y: c.From[k][1]}), append(to, r2.Vec{X: c.To[k][0], Y: c.To[k][1]})
		}
		h, err := Homography(from, to)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range from {
			if d := r2.Norm(r2.Sub(apply(h, p), apply(c.Want, p))); d > 0.01 {
				t.Errorf("case %d: %v lies %.4f px from where OpenCV puts it", i, p, d)
			}
		}
	}
}

// A place of which only its line is known is found on it, and absurd heights are refused.
func TestPlacesOnALine(t *testing.T) {
	see := func(p r2.Vec) r2.Vec { return apply(known, p) }
	for along := -9.0; along < 4; along += 1.3 {
		p := ControlPoint{Name: "edge", Right: -0.61, Line: true}
		want := r2.Vec{X: along, Y: -0.61}
		if got := p.Settled(see, r2.Vec{X: -2}, see(want)); r2.Norm(r2.Sub(got, want)) > 1e-4 {
			t.Errorf("%v is found at %v", want, got)
		}
	}
	if !(ControlPoint{Line: true}).Loose() || !(ControlPoint{Rim: 1}).Loose() || (ControlPoint{Along: 3}).Loose() {
		t.Error("what is loose")
	}
	for _, up := range []float64{-1, 9, math.NaN()} {
		if err := (ControlPoints{Points: []ControlPoint{{Name: "bar", Up: up}}}).Check(); err == nil {
			t.Errorf("a bar at %g m", up)
		}
	}
	if p, err := Through(known); err != nil || r2.Norm(r2.Sub(p.Ground(p.Picture(r2.Vec{X: 2, Y: 1})), r2.Vec{X: 2, Y: 1})) > 1e-9 {
		t.Errorf("there and back: %v", err)
	}
	if _, err := Through([9]float64{}); err == nil {
		t.Error("a map of nothing")
	}
}
