package throw_test

import (
	"errors"
	"math"
	"sort"
	"testing"

	"neokinema/core/body"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func film(event string, hand body.Side, rate float64, place string) simcam.Spec {
	return simcam.Spec{Event: event, Hand: hand, Direction: 1, Camera: simcam.Camera{Place: place}, CaptureRate: rate, FileRate: 30, Width: 1280, Height: 720,
		Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}}
}

func shoot(t *testing.T, s simcam.Spec, off points.Scatter) points.Thrown {
	t.Helper()
	out, err := points.Throw(s, off)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return math.NaN()
	}
	sort.Float64s(v)
	return v[len(v)/2]
}

// One camera behind or beside the circle, careful points: directions, speeds, turns
// against the truth; a left-hander the same.
func TestOneCameraReadsTheTurns(t *testing.T) {
	for _, event := range []string{"hammer", "weight", "discus"} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			for _, place := range []string{"back", "side"} {
				s := shoot(t, film(event, hand, 120, place), points.Careful)
				o := throw.New(s.Clip)
				for who, limit := range map[string]float64{"ball": 5, "hips": 8, "chest": 8} {
					off, inside := s.Azimuths(o, who)
					if m := median(off); !(m < limit) {
						t.Errorf("%s %s %s, %s: off by %.1f degrees", event, hand, place, who, m)
					}
					if share := float64(inside) / float64(len(off)); share < 0.75 {
						t.Errorf("%s %s %s, %s: the truth lies in only %.0f %% of the intervals", event, hand, place, who, 100*share)
					}
				}
				limit := map[string]float64{"hammer": 3, "weight": 8, "discus": 12}[event]
				if m := median(s.Speeds(o)); !(m < limit) {
					t.Errorf("%s %s %s: speed off by %.1f %%", event, hand, place, m)
				}
			}
		}
	}
}

// Turns are counted and measured: three or four of them, one or two winds.
func TestTurnsAreCounted(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	near, all := 0, 0
	for turns := 3; turns <= 4; turns++ {
		for winds := 1; winds <= 2; winds++ {
			spec := film("hammer", body.Right, 120, "back")
			spec.Turns, spec.Winds = turns, winds
			s := shoot(t, spec, points.Careful)
			o := throw.New(s.Clip)
			got := o.Turns(s.Clip.Contacts, 7.26)
			if len(got) != turns {
				t.Fatalf("%d turns, want %d", len(got), turns)
			}
			if w := o.Winds(got); len(w) != winds {
				t.Errorf("%d turns: winds at %v, want %d", turns, w, winds)
			}
			for i, g := range got {
				n := string(rune('1' + i))
				for what, f := range map[string]int{"zero": g.Zero, "lift": g.Lift, "high": g.High, "catch": g.Catch} {
					all++
					if d := f - s.Truth.Positions[what+n]; max(d, -d) <= 2 {
						near++
					} else if max(d, -d) > 8 {
						t.Errorf("turn %s: %s at %d, truth %d", n, what, f, s.Truth.Positions[what+n])
					}
				}
				if g.Last {
					t.Errorf("turn %s is said to be cut short by the release", n)
				}
				if i > 0 && (g.Gain == nil || math.Abs(g.Gain.Value-(g.Speed.Value-got[i-1].Speed.Value)) > 1e-9) {
					t.Errorf("turn %s: gain %v", n, g.Gain)
				}
				if g.Low == nil || math.Abs(g.Low.Value) > 40 {
					t.Errorf("turn %s: low point at %v", n, g.Low)
				}
				if sum := g.Double.Value + g.Single.Value - g.Time.Value; math.Abs(sum) > 1e-9 {
					t.Errorf("turn %s: both feet and one foot do not make the turn: %g s", n, sum)
				}
			}
			if o.Mirrored(got) {
				t.Error("a right-hander is taken for a left-hander")
			}
		}
	}
	if float64(near) < 0.93*float64(all) {
		t.Errorf("%d of %d moments of the turns lie within two frames", near, all)
	}
}

// With the wrong hand on the card the ball would be low on the side of the throw,
// and that is noticed.
func TestWrongHandIsNoticed(t *testing.T) {
	s := shoot(t, film("hammer", body.Right, 120, "back"), points.Careful)
	s.Clip.Left = true
	o := throw.New(s.Clip)
	// The turns of the other foot are none; the ball alone tells.
	var contacts = s.Clip.Contacts
	for i := range contacts {
		contacts[i].Foot = contacts[i].Foot.Other()
	}
	if got := o.Turns(contacts, 7.26); !o.Mirrored(got) {
		t.Errorf("%d turns with low points that raise no question", len(got))
	}
}

// A third of the ball behind netting: the orbit bridges; half a turn in one piece is
// refused.
func TestHiddenBall(t *testing.T) {
	off := points.Careful
	off.Hidden = 0.34
	s := shoot(t, film("hammer", body.Right, 120, "back"), off)
	o := throw.New(s.Clip)
	if o.Ball == nil {
		t.Fatal(o.Why["ball"])
	}
	if o.Ball.Gap == 0 {
		t.Error("no gap was noticed")
	}
	off2, _ := s.Azimuths(o, "ball")
	if m := median(off2); !(m < 5) {
		t.Errorf("off by %.1f degrees with a third hidden", m)
	}
	z := s.Truth.Positions["zero2"]
	for f := z; f < s.Truth.Positions["zero3"]; f++ {
		if f < s.Clip.Points["ball"].End() {
			_ = s.Clip.Points["ball"].Set(f, nil)
		}
	}
	if o := throw.New(s.Clip); o.Ball != nil || !errors.Is(o.Why["ball"], throw.ErrGap) {
		t.Errorf("a whole turn without the ball: %v", o.Why["ball"])
	}
}

// Two cameras: brought to the same moment by a flagged event and then to a part of
// a frame; directions with a fraction of the error.
func TestTwoCameras(t *testing.T) {
	const late = 0.1037
	pair, one, err := points.Twice(film("hammer", body.Right, 120, "back"), "back", "side", late, points.Careful)
	if err != nil {
		t.Fatal(err)
	}
	both, err := pair.New()
	if err != nil {
		t.Fatal(err)
	}
	if off := math.Abs(both.Offset+late) * 120; off > 0.5 {
		t.Errorf("the clips are %.2f frames apart", off)
	}
	for who, limit := range map[string]float64{"ball": 2, "hips": 5, "chest": 5} {
		if off, _ := one.Azimuths(both.Orbit, who); !(median(off) < limit) {
			t.Errorf("%s off by %.1f degrees", who, median(off))
		}
	}
	if m := median(one.Speeds(both.Orbit)); !(m < 1.5) {
		t.Errorf("speed off by %.1f %%", m)
	}

	// Clips of different attempts do not fit.
	other := film("hammer", body.Right, 120, "side")
	other.Faults = map[string]float64{"drag": 28, "late-catch": 50}
	other.Turns = 4
	b := shoot(t, other, points.Careful)
	pair.B = b.Clip
	pair.Start = float64(b.Clip.ReleaseFrame-pair.A.ReleaseFrame) / 120
	if _, err := pair.New(); !errors.Is(err, throw.ErrOther) {
		t.Errorf("two attempts were taken for one: %v", err)
	}
	pair.B = pair.A
	if _, err := pair.New(); !errors.Is(err, throw.ErrAlong) {
		t.Errorf("the same view twice: %v", err)
	}
}

// The release from the side, flagged or found.
func TestRelease(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, event := range []string{"hammer", "weight", "discus", "shot"} {
		for _, flagged := range []bool{true, false} {
			s := shoot(t, film(event, body.Right, 240, "side"), points.Careful)
			if !flagged {
				s.Clip.ReleaseFrame = -1
			}
			l, err := s.Clip.FindRelease(throw.New(s.Clip))
			if err != nil {
				t.Errorf("%s: %v", event, err)
				continue
			}
			truth := s.Truth.Release
			if d := math.Abs(l.Speed.Value/truth.Speed - 1); d > 0.05 {
				t.Errorf("%s, flagged %v: %.1f m/s, truth %.1f", event, flagged, l.Speed.Value, truth.Speed)
			}
			if d := math.Abs(l.Angle.Value - truth.Angle); d > 2 {
				t.Errorf("%s, flagged %v: %.1f degrees, truth %.1f", event, flagged, l.Angle.Value, truth.Angle)
			}
			if d := l.Frame - s.Truth.Positions["release"]; max(d, -d) > 5 {
				t.Errorf("%s: released in frame %d, truth %d", event, l.Frame, s.Truth.Positions["release"])
			}
		}
	}
}

// The trade's worked examples: m v^2 / r without the weight along the wire.
func TestPull(t *testing.T) {
	for _, c := range []struct{ mass, v, r, want float64 }{{7.26, 28, 1.85, 3077}, {15.88, 14.5, 1.35, 2473}} {
		got := throw.Pull(c.mass, uncertainty.Normal(c.v, 0.3), uncertainty.Normal(c.r, 0.02), 0)
		if math.Abs(got.Value-c.want) > 1 {
			t.Errorf("%g kg: %.0f N, want %.0f", c.mass, got.Value, c.want)
		}
		if want := c.want * math.Hypot(2*0.3/c.v, 0.02/c.r); math.Abs(got.SD-want) > 0.02*want {
			t.Errorf("%g kg: ± %.0f N, want %.0f", c.mass, got.SD, want)
		}
	}
	// Hanging straight down at rest the wire bears the weight.
	if got := throw.Pull(7.26, uncertainty.Normal(0, 0.1), uncertainty.Normal(1.8, 0.02), -math.Pi/2); math.Abs(got.Value-7.26*9.80665) > 1e-6 {
		t.Errorf("at rest %.2f N", got.Value)
	}
}

// Without air the flight is the closed form, whose worked value is 21.98 m for 14
// m/s from 2.1 m at the best angle, 42.3 degrees.
func TestFlightAhead(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	if off := points.Flight(); off > 1e-6 {
		t.Errorf("off by %g m", off)
	}
	l := throw.Release{Speed: uncertainty.Normal(14, 0.1), Angle: uncertainty.Normal(42.3, 0.5), Height: uncertainty.Normal(2.1, 0.01)}
	a := l.Predict(throw.FlightConditions{What: points.Vacuum})
	if math.Abs(a.Distance.Value-21.98) > 0.01 || math.Abs(a.Best-42.3) > 0.05 {
		t.Errorf("%.3f m, best at %.2f degrees", a.Distance.Value, a.Best)
	}
	// One more m/s is worth about 2 R / v.
	if want := 2 * 21.98 / 14; math.Abs(a.Faster-want) > 0.25 {
		t.Errorf("one more m/s gives %.2f m, not about %.2f", a.Faster, want)
	}
	if math.Abs(a.Steeper) > 0.02 {
		t.Errorf("at the best angle one degree is worth %.3f m", a.Steeper)
	}
	if a.Distance.SD < 0.25 || a.Distance.SD > 0.4 {
		t.Errorf("± %.2f m", a.Distance.SD)
	}
}

// Where the feet land and travel, against the truth, from behind and from both.
func TestPlacesOfTheFeet(t *testing.T) {
	pair, one, err := points.Twice(film("hammer", body.Right, 120, "back"), "back", "side", 0.1, points.Careful)
	if err != nil {
		t.Fatal(err)
	}
	both, err := pair.New()
	if err != nil {
		t.Fatal(err)
	}
	for name, o := range map[string]*throw.Reconstruction{"one camera": throw.New(one.Clip), "two cameras": both.Orbit} {
		for _, g := range o.Turns(one.Clip.Contacts, 7.26) {
			n := string(rune('0' + g.N))
			at := func(f int, id string) [3]float64 { return one.Truth.Frames[f].Landmarks[id].World }
			c := one.Truth.Positions["catch"+n] + 5
			l, r := at(c, "left_toe"), at(c, "right_toe")
			want := 100 * math.Hypot(r[0]-l[0], r[2]-l[2])
			if g.Step == nil || math.Abs(g.Step.Value-want) > g.Step.Half95+4 {
				t.Errorf("%s, turn %s: the feet are %+v cm apart, truth %.0f", name, n, g.Step, want)
			}
			z, next := one.Truth.Positions["zero"+n], one.Truth.Positions["zero"+string(rune('1'+g.N))]
			if next == 0 {
				continue
			}
			a, b := at(z, "left_toe"), at(next, "left_toe")
			p, q := at(z, "right_toe"), at(next, "right_toe")
			line := math.Atan2(b[2]-a[2]+q[2]-p[2], b[0]-a[0]+q[0]-p[0]) * 180 / math.Pi
			if g.Line == nil || math.Abs(g.Line.Value-line) > g.Line.Half95+2 {
				t.Errorf("%s, turn %s: the feet travel %+v, truth %.1f", name, n, g.Line, line)
			}
		}
	}
}
