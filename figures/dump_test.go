package figures

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/sync/errgroup"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/repair"
	"neokinema/internal/inference"
	"neokinema/internal/testenv"
	"neokinema/models"
	"neokinema/simcam/hard"
	"neokinema/simcam/points"
	"neokinema/web"
)

func TestDump(t *testing.T) {
	if os.Getenv("DUMP") == "" {
		t.Skip()
	}
	networks, err := inference.Open(testenv.Library(), web.Files())
	if err != nil {
		t.Fatal(err)
	}
	var g errgroup.Group
	g.SetLimit(2)
	for _, c := range hard.Set() {
		if c.Report == (os.Getenv("NEO_HARD") != "check") {
			continue
		}
		g.Go(func() error {
			x, err := readHard(c, networks)
			if err != nil {
				return err
			}
			e := evaluate.Begin(x.model, x.input, nil)
			tall := e.StandingHeight()
			truth := x.film.Truth
			type foot struct {
				Down             []bool
				Ankle, Heel, Toe [][3]float64
			}
			d := struct {
				Name, Event string
				Rate, Tall  float64
				Throw       bool
				Feet        [2]foot
				Hip         [][3]float64
			}{Name: c.Name, Event: c.Spec.Event, Rate: x.film.Rate, Tall: tall}
			if tall > 0 {
				read := func(id string) (out [][3]float64) {
					p := e.Movement.Paths[id]
					for f := range truth.Frames {
						q, ok := p.Seen(f)
						pt, _ := x.input.Points.At(id, f)
						if !ok {
							out = append(out, [3]float64{-999, -999, 0})
							continue
						}
						out = append(out, [3]float64{q.X / tall, q.Y / tall, pt.Confidence})
					}
					return out
				}
				for k, side := range []body.Side{body.Left, body.Right} {
					d.Feet[k] = foot{Ankle: read(string(side) + "_ankle"), Heel: read(string(side) + "_heel"), Toe: read(string(side) + "_toe")}
					for f := range truth.Frames {
						d.Feet[k].Down = append(d.Feet[k].Down, points.Down(truth, side, f))
					}
				}
			}
			raw, _ := json.Marshal(d)
			return os.WriteFile("/tmp/feet/"+c.Name+".json", raw, 0o644)
		})
	}
	if err := g.Wait(); err != nil {
		t.Fatal(err)
	}
}

// quick is a clip with its raw draft, repaired, without a look at the pictures.
func quick(t *testing.T, c hard.Clip) *hardClip {
	film, err := c.Draw(t.Context(), testenv.Drawn())
	if err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile("/tmp/drafts/" + strings.TrimSuffix(filepath.Base(film.Path), ".mp4") + ".json")
	if err != nil {
		t.Fatal(err)
	}
	x := &hardClip{film: film}
	if err := json.Unmarshal(raw, &x.raw); err != nil {
		t.Fatal(err)
	}
	m, _ := models.Load(c.Spec.Event)
	x.model = m.As(film.Truth.Variant)
	who := c.Spec.Athlete
	who.ThrowingHand, who.TakeoffLeg = c.Spec.Hand, c.Spec.Leg
	in := points.Input(film.Truth, kinematics.Points{})
	in.Athlete, in.Camera = who, nil
	in.Clip.CaptureRate = film.Rate
	in.Points = kinematics.Points{}
	for id, tr := range x.raw {
		in.Points[id] = tr.Clone()
	}
	for id, change := range repair.Draft(m, in).Changes {
		in.Points[id].Apply(change, false)
	}
	x.input = in
	var talls []float64
	for _, f := range film.Truth.Frames {
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, l := range f.Landmarks {
			lo, hi = math.Min(lo, l.Image[1]), math.Max(hi, l.Image[1])
		}
		talls = append(talls, hi-lo)
	}
	x.tall = middle(talls)
	return x
}

func TestSides(t *testing.T) {
	if os.Getenv("DUMP") == "" {
		t.Skip()
	}
	var rawAll, outAll share
	for _, c := range hard.Set() {
		if c.Report {
			continue
		}
		x := quick(t, c)
		truth := x.film.Truth
		for _, part := range []string{"hip", "knee", "ankle", "shoulder", "wrist"} {
			for k, pp := range []evaluateP{evaluateP(x.raw), evaluateP(x.input.Points)} {
				s := []byte{}
				for f := range truth.Frames {
					l, okL := pp["left_"+part].At(f)
					r, okR := pp["right_"+part].At(f)
					wl, wr := truth.Frames[f].Landmarks["left_"+part].Image, truth.Frames[f].Landmarks["right_"+part].Image
					d := hyp(wl[0]-wr[0], wl[1]-wr[1])
					ch := byte('.')
					switch {
					case !okL || !okR:
						ch = ' '
					default:
						right := hyp(l.X-wl[0], l.Y-wl[1]) + hyp(r.X-wr[0], r.Y-wr[1])
						wrong := hyp(l.X-wr[0], l.Y-wr[1]) + hyp(r.X-wl[0], r.Y-wl[1])
						both := hyp(l.X-r.X, l.Y-r.Y)
						switch {
						case min(right, wrong) > 0.5*x.tall:
							ch = '!'
						case d < 0.06*x.tall:
							ch = '.'
						case both < 0.3*d:
							ch = '='
						case right < wrong:
							ch = 'o'
							if part == "knee" || part == "ankle" {
								[]*share{&rawAll, &outAll}[k].add(true)
							}
						default:
							if part == "knee" || part == "ankle" {
								[]*share{&rawAll, &outAll}[k].add(false)
							}
							ch = 'x'
						}
					}
					s = append(s, ch)
				}
				fmt.Printf("%-20s %-8s %s %s\n", c.Name, part, []string{"raw", "out"}[k], s)
			}
		}
	}
	fmt.Println("raw", rawAll.percent(), "out", outAll.percent())
}

func hyp(a, b float64) float64 { return math.Hypot(a, b) }

type evaluateP = kinematics.Points
