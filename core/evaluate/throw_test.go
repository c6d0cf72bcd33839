package evaluate_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/throw"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// throwOf is a simulated throw with careful points and a marked circle, and nothing
// decided by hand.
func throwOf(t *testing.T, s simcam.Spec) (model.Model, evaluate.Input, simcam.Truth) {
	t.Helper()
	s.Direction, s.CaptureRate, s.FileRate, s.Width, s.Height = 1, 120, 30, 1280, 720
	if s.Athlete.Height == 0 {
		s.Athlete = body.Person{Sex: body.Female, Height: 1.74, Mass: 84}
	}
	s.Athlete.ThrowingHand = s.Hand
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	m, err := models.Load(s.Event)
	if err != nil {
		t.Fatal(err)
	}
	all := points.All(sc.Truth, 1.5, 3)
	all["ball"] = points.Ball(sc.Truth, 1, 3)
	in := points.Input(sc.Truth, all)
	in.Ground = points.Circle(sc.Truth, 1.5, 3)
	return m.As(sc.Truth.Variant), in, sc.Truth
}

// Where the ball is lowest and to which side it leaves are read as they are in the simulation's own
// world, within their doubt.
func TestLowPointAndSide(t *testing.T) {
	for _, hand := range []body.Side{body.Right, body.Left} {
		m, in, truth := throwOf(t, simcam.Spec{Event: "hammer", Hand: hand, Camera: simcam.Camera{Place: "side"}})
		r := evaluate.Attempt(m, in)
		within := func(id string, want float64) {
			t.Helper()
			v, ok := r.Reading(id)
			if !ok || v.Value == nil {
				t.Fatalf("%s: %s is not read: %s", hand, id, v.Reason)
			}
			if math.Abs(v.Value.Value-want) > v.Value.Half95 {
				t.Errorf("%s: %s is %.1f ±%.1f, truly %.1f", hand, id, v.Value.Value, v.Value.Half95, want)
			}
		}
		to := 1.0
		if hand == body.Left {
			to = -1
		}
		// Where the moment is only found the implement has turned on too far for that.
		if v, _ := r.Reading("sector_side"); v.Value != nil {
			t.Errorf("%s: a side is told from a release that nobody flagged: %v", hand, v.Value)
		}
		in.Flags["release"] = truth.Positions["release"]
		r = evaluate.Attempt(m, in)
		within("sector_side", to*truth.Release.Aside)
		if len(r.Throw.Turns) != 3 {
			t.Fatalf("%s: %d turns", hand, len(r.Throw.Turns))
		}
		for _, turn := range r.Throw.Turns {
			from := truth.Positions[fmt.Sprintf("high%d", turn.N)]
			until, ok := truth.Positions[fmt.Sprintf("high%d", turn.N+1)]
			if !ok {
				until = truth.Positions["release"]
			}
			low := from
			for f := from; f < until; f++ {
				if truth.Frames[f].Implement["centre"].World[1] < truth.Frames[low].Implement["centre"].World[1] {
					low = f
				}
			}
			// As seen from the middle of the shoulders; azimuth 0 is away from the throw.
			ball, neck := truth.Frames[low].Implement["centre"].World, [3]float64{}
			for i := range neck {
				neck[i] = (truth.Frames[low].Landmarks["left_shoulder"].World[i] + truth.Frames[low].Landmarks["right_shoulder"].World[i]) / 2
			}
			want := to * math.Atan2(neck[2]-ball[2], neck[0]-ball[0]) * -180 / math.Pi
			if turn.Low == nil || math.Abs(math.Remainder(turn.Low.Value-want, 360)) > turn.Low.Half95 {
				t.Errorf("%s: turn %d is lowest at %v, truly %.1f", hand, turn.N, turn.Low, want)
			}
		}
	}
}

// How far inside of the rim a foot stands is read across the sight, within its doubt; along it nobody
// sees that well, and nothing is said.
func TestDistanceToTheRim(t *testing.T) {
	for _, hand := range []body.Side{body.Right, body.Left} {
		for _, place := range []string{"side", "back"} {
			m, in, truth := throwOf(t, simcam.Spec{Event: "shot", Variant: "glide", Hand: hand, Camera: simcam.Camera{Place: place}})
			in.Flags["release"] = truth.Positions["release"]
			v, ok := evaluate.Attempt(m, in).Reading("rim")
			if place == "back" {
				if v.Value != nil {
					t.Errorf("%s: said from behind: %v", hand, v.Value)
				}
				continue
			}
			if !ok || v.Value == nil {
				t.Fatalf("%s: not read: %s", hand, v.Reason)
			}
			toe := truth.Frames[truth.Positions["release"]].Landmarks[string(hand.Other())+"_toe"].World
			if want := 213.5/2 - 100*math.Hypot(toe[0], toe[2]); math.Abs(v.Value.Value-want) > v.Value.Half95 {
				t.Errorf("%s: %.1f ±%.1f cm, truly %.1f", hand, v.Value.Value, v.Value.Half95, want)
			}
		}
	}
}

// A throw that nobody flagged: winds, turns and the release find themselves, and
// what was asked by eye is measured; right- and left-handed.
func TestAThrowIsReadWithoutAFlag(t *testing.T) {
	for _, hand := range []body.Side{body.Right, body.Left} {
		m, in, truth := throwOf(t, simcam.Spec{Event: "hammer", Hand: hand, Camera: simcam.Camera{Place: "back"}})
		r := evaluate.Attempt(m, in)
		if len(r.Problems) > 0 || r.Throw == nil || len(r.Throw.Turns) != 3 {
			t.Fatalf("%s: %v, %+v", hand, r.Problems, r.Throw)
		}
		found := map[string]int{}
		for _, p := range r.Positions {
			if p.Frame != nil {
				found[p.ID] = *p.Frame
			}
		}
		for _, id := range []string{"wind1", "wind2", "zero1", "lift1", "high1", "catch1", "zero2", "lift2", "high2", "catch2", "zero3", "lift3", "high3", "catch3", "zero4"} {
			if f, ok := found[id]; !ok || math.Abs(float64(f-truth.Positions[id])) > 3 {
				t.Errorf("%s: %s at %d, truth %d", hand, id, f, truth.Positions[id])
			}
		}
		if f, ok := found["lift4"]; ok {
			t.Errorf("%s: a fourth lift at %d in a throw of three turns", hand, f)
		}
		for id, limit := range map[string]float64{"lift_place": 8, "catch_place": 9, "square": 8, "separation": 10} {
			x, _ := r.Reading(id)
			if x.Value == nil || x.Source != "measure" {
				t.Errorf("%s: %s is not measured: %s", hand, id, x.Reason)
				continue
			}
			var want, n float64
			for i := 1; i <= 3; i++ {
				at := map[string]string{"lift_place": "lift", "catch_place": "catch", "square": "zero", "separation": "catch"}[id]
				// What a frame is the first to show was half a frame before, on the mean.
				for f := truth.Positions[at+string(rune('0'+i))] - 1; f <= truth.Positions[at+string(rune('0'+i))]; f++ {
					a := truth.Frames[f].Azimuths
					v := map[string]float64{"lift_place": math.Mod(*a.Implement+720, 360), "catch_place": math.Mod(*a.Implement+720, 360), "square": a.Shoulders - *a.Implement, "separation": a.Hips - a.Shoulders}[id]
					want, n = want+v, n+1
				}
			}
			if want /= n; math.Abs(math.Remainder(x.Value.Value-want, 360)) > limit {
				t.Errorf("%s: %s is %.1f, truth %.1f", hand, id, x.Value.Value, want)
			}
		}
		if len(r.Findings) > 0 {
			t.Errorf("%s: a faultless throw has %+v", hand, r.Findings)
		}
	}
}

// Planted faults show in what is measured from points and circle alone.
func TestFaultsShowInDepth(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for dial, c := range map[string]struct {
		size  float64
		fault string
	}{"drag": {32, "H3"}, "late-catch": {55, "H8a"}, "open-winds": {50, "H2"}} {
		m, in, _ := throwOf(t, simcam.Spec{Event: "hammer", Faults: map[string]float64{dial: c.size}, Camera: simcam.Camera{Place: "back"}})
		r := evaluate.Attempt(m, in)
		ok := false
		for _, f := range append(r.Findings, r.Possible...) {
			ok = ok || f.Fault == c.fault && f.Certainty != "open"
		}
		if !ok {
			t.Errorf("%s: %s is not found in %+v", dial, c.fault, r.Findings)
		}
	}
}

// Without the ball the marked circle still tells where hips, chest and feet point, and the
// feet tell lift and catch: of all turns once the release is flagged, else of all but the
// last, which may be the step after it.
func TestAThrowWithoutItsBall(t *testing.T) {
	for _, event := range []string{"hammer", "discus"} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			m, in, truth := throwOf(t, simcam.Spec{Event: event, Hand: hand, Camera: simcam.Camera{Place: "back"}})
			delete(in.Points, "ball")
			delete(in.Points, "grip")
			for _, flagged := range []bool{false, true} {
				if delete(in.Flags, "release"); flagged {
					in.Flags["release"] = truth.Positions["release"]
				}
				r := evaluate.Attempt(m, in)
				if r.Throw == nil || len(r.Throw.Turns) > 0 || r.Throw.Release != nil || len(r.Throw.Missing) == 0 || !strings.Contains(r.Throw.Missing[0], "not tracked") {
					t.Fatalf("%s: %+v", event, r.Throw)
				}
				above, ok := evaluate.SeenFromAbove(m, in, nil)
				if !ok {
					t.Fatalf("%s: nothing is seen from above", event)
				}
				inside, all, held := 0.0, 0.0, 0.0
				for f := above.From; f < truth.Positions["release"]; f++ {
					held += 2
					for way, want := range map[*evaluate.GroundTrack]float64{&above.Hips: truth.Frames[f].Azimuths.Hips, &above.Chest: truth.Frames[f].Azimuths.Shoulders} {
						if k := f - way.From; k < len(way.Az) && way.Az[k] != kinematics.None && way.SD[k] < throw.Limit {
							if all++; math.Abs(math.Remainder(way.Az[k]-want, 360)) <= 2*way.SD[k] {
								inside++
							}
						}
					}
				}
				if held < 200 || all < 0.6*held || inside < 0.95*all { // of the rest a draft tells too little
					t.Errorf("%s, %s: %.0f directions are given in %.0f, %.0f of them right", event, hand, all, held, inside)
				}
				found := map[string]bool{}
				for _, p := range r.Positions {
					if p.Frame == nil || p.Source != "tool" {
						continue
					}
					found[p.ID] = true
					if d := *p.Frame - truth.Positions[p.ID]; d < -2 || d > 2 {
						t.Errorf("%s, %s: %s at %d, truly %d", event, hand, p.ID, *p.Frame, truth.Positions[p.ID])
					}
				}
				want := map[string]bool{"front": true, "catch1": false}
				if event == "hammer" {
					want = map[string]bool{"lift1": true, "catch2": true, "lift3": flagged, "catch3": flagged, "catch4": false}
				}
				for id, is := range want {
					if found[id] != is {
						t.Errorf("%s, %s, release flagged %v: %s found: %v", event, hand, flagged, id, found[id])
					}
				}
			}
		}
	}
}

// What cannot be measured says what would decide it, and the coach's answer stands
// in; a wrong hand and bad marks are told.
func TestThrowsThatCannotBeRead(t *testing.T) {
	m, in, _ := throwOf(t, simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: "back"}})
	in.Flags = map[string]int{"lift1": 300}
	in.Answers["lift_place"] = evaluate.Judgement{Answer: "no"}
	bare := in
	bare.Ground = nil
	r := evaluate.Attempt(m, bare)
	if x, _ := r.Reading("lift_place"); x.Value != nil || x.Source != "coach" || x.Verdict != uncertainty.Missed {
		t.Errorf("without a circle: %+v", x)
	}
	if r.Throw == nil || len(r.Throw.Missing) == 0 || !strings.Contains(r.Throw.Missing[0], "Mark the circle") {
		t.Errorf("without a circle: %+v", r.Throw)
	}
	delete(bare.Answers, "lift_place")
	if x, _ := evaluate.Attempt(m, bare).Reading("lift_place"); !strings.Contains(x.Remedy, "circle marked") {
		t.Errorf("what would decide it: %+v", x)
	}

	half := in
	marks := *in.Ground
	marks.Points = marks.Points[:3]
	half.Ground = &marks
	if r := evaluate.Attempt(m, half); len(r.Problems) == 0 {
		t.Error("three places make no circle, and nothing is said")
	}

	wrong := in
	wrong.Flags = map[string]int{}
	wrong.Athlete.ThrowingHand = body.Left
	if r := evaluate.Attempt(m, wrong); len(r.Throw.Turns) > 0 && !strings.Contains(strings.Join(r.Problems, " "), "throwing hand") {
		t.Errorf("the wrong hand is not noticed: %v, %d turns", r.Problems, len(r.Throw.Turns))
	}
}

// While a hand moves a point the throw is not read anew; when it rests it is.
func TestHoldKeepsTheOrbit(t *testing.T) {
	m, in, _ := throwOf(t, simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: "back"}})
	before, memory := evaluate.Incremental(m, in, nil)
	moved := in
	moved.Points = map[string]*track.Track{}
	for id, tr := range in.Points {
		moved.Points[id] = tr
	}
	ball := *in.Points["ball"]
	ball.X = append([]float32(nil), ball.X...)
	for i := range ball.X {
		ball.X[i] += 30
	}
	moved.Points["ball"] = &ball
	moved.HoldThrow = true
	held, memory := evaluate.Incremental(m, moved, memory)
	if held.Throw.Turns[0].LiftAz != before.Throw.Turns[0].LiftAz {
		t.Error("the orbit was read anew under the hand")
	}
	moved.HoldThrow = false
	after, _ := evaluate.Incremental(m, moved, memory)
	if after.Throw.Turns[0].LiftAz == before.Throw.Turns[0].LiftAz {
		t.Error("the orbit was not read anew when the hand came to rest")
	}
}

// Two clips of one attempt, read together from what the Bench keeps.
func TestBothClips(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	m, a, truth := throwOf(t, simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: "back"}})
	_, b, other := throwOf(t, simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: "side", Late: 0.5}})
	a.Flags, b.Flags = map[string]int{"release": truth.Positions["release"]}, map[string]int{"release": other.Positions["release"]}
	got, err := evaluate.TwoViews(m, a, b, nil)
	if err != nil {
		t.Fatal(err)
	}
	if math.Abs(got.Offset+0.5) > 0.004 || got.Apart > 3 || len(got.Turns) != 3 {
		t.Errorf("offset %.4f s, %.1f cm apart, %d turns", got.Offset, got.Apart, len(got.Turns))
	}
	worst := 0.0
	for i, az := range got.TopView.Ball.Az {
		f := got.TopView.From + i
		if az > -1e8 && f > truth.Positions["zero1"] && f < truth.Positions["release"]-2 {
			worst = math.Max(worst, math.Abs(math.Remainder(az-*truth.Frames[f].Azimuths.Implement, 360)))
		}
	}
	if worst == 0 || worst > 4 {
		t.Errorf("the ball's direction is off by up to %.1f degrees", worst)
	}
	// Joints in space hold the true angles, which the first clip alone does not.
	in, flatOff := 0, 0.0
	for _, j := range got.Joints {
		side, part, _ := strings.Cut(j.Joint, "_")
		ends := map[string][2]string{"knee": {"hip", "ankle"}, "elbow": {"shoulder", "wrist"}}[part]
		at := func(part string) r3.Vec {
			w := truth.Frames[j.Frame].Landmarks[side+"_"+part].World
			return r3.Vec{X: w[0], Y: w[1], Z: w[2]}
		}
		u, v := r3.Sub(at(ends[0]), at(part)), r3.Sub(at(ends[1]), at(part))
		truly := math.Acos(r3.Dot(r3.Unit(u), r3.Unit(v))) * 180 / math.Pi
		if math.Abs(j.Angle.Value-truly) <= j.Angle.Half95 {
			in++
		}
		flatOff = math.Max(flatOff, math.Abs(j.Flat-truly))
		if math.Abs(j.Angle.Value-truly) > 10 {
			t.Errorf("%s at %s: %.0f ±%.0f, truly %.0f", j.Joint, j.Label, j.Angle.Value, j.Angle.Half95, truly)
		}
	}
	if len(got.Joints) < 4 || in < len(got.Joints)*9/10 || flatOff < 15 {
		t.Errorf("%d of %d joints hold the truth; one clip alone is off by up to %.0f degrees", in, len(got.Joints), flatOff)
	}
	// Without a position that both show the sound brings them together: its way to the
	// two cameras is taken off.
	for i := range m.Positions {
		b.Flags[m.Positions[i].ID] = evaluate.NotThere
	}
	if _, err := evaluate.TwoViews(m, a, b, nil); err != evaluate.ErrMoment {
		t.Errorf("nothing in common: %v", err)
	}
	heard := -0.5 + 0.01
	loud, err := evaluate.TwoViews(m, a, b, &heard)
	if err != nil || loud.AlignedBy != "sound" || got.AlignedBy != "position" || math.Abs(loud.Offset+0.5) > 0.004 {
		t.Errorf("by sound: %v, by %s, offset %.4f s", err, loud.AlignedBy, loud.Offset)
	}
	heard = 0.4
	if _, err := evaluate.TwoViews(m, a, b, &heard); err == nil {
		t.Error("a sound of another moment brought them together")
	}
	b.Ground = nil
	if _, err := evaluate.TwoViews(m, a, b, nil); err != evaluate.ErrCircle {
		t.Errorf("without a circle: %v", err)
	}
}

// From above: what is drawn is what is measured, and the rim is told.
func TestFromAbove(t *testing.T) {
	m, in, truth := throwOf(t, simcam.Spec{Event: "discus", Variant: "full", Camera: simcam.Camera{Place: "back"}})
	a, ok := evaluate.SeenFromAbove(m, in, nil)
	if !ok {
		t.Fatal("nothing to draw")
	}
	if a.Circle != 1.25 || a.Sector != 17.46 || a.Left {
		t.Errorf("circle %g, sector %g, left %v", a.Circle, a.Sector, a.Left)
	}
	n := len(truth.Frames) - a.From
	for name, w := range map[string]evaluate.GroundTrack{"ball": a.Ball, "hips": a.Hips, "chest": a.Chest, "left foot": a.Feet[0]} {
		if len(w.X) != n || len(w.Az) != n || len(w.SD) != n {
			t.Errorf("%s has %d places and %d directions for %d frames", name, len(w.X), len(w.Az), n)
		}
	}
	f := truth.Positions["front"]
	hip := truth.Frames[f].Landmarks["left_hip"].World
	if d := math.Abs(a.Hips.Z[f-a.From] - hip[2]); d > 0.2 {
		t.Errorf("hips %.2f m to the side of where they are", d)
	}
	if a.Rim != nil {
		t.Errorf("toes of a draft do not tell the rim: %v", a.Rim)
	}
	for _, p := range in.Points {
		for f := p.From; f < p.End(); f++ {
			if at, ok := p.At(f); ok {
				at.Source = track.Tracked.String()
				_ = p.Set(f, &at)
			}
		}
	}
	if a, _ := evaluate.SeenFromAbove(m, in, nil); a.Rim == nil || math.Abs(a.Rim.Value) > 60 || a.Rim.Half95 > 20 {
		t.Errorf("rim %v", a.Rim)
	}
	in.Ground = &ground.ControlPoints{}
	if _, ok := evaluate.SeenFromAbove(m, in, nil); ok {
		t.Error("a throw is drawn without a circle")
	}
}

func TestMassInWords(t *testing.T) {
	for text, want := range map[string]float64{"hammer 4 kg": 4, "javelin 600 g": 0.6, "16 lb shot": 7.257, "weight 9,08 kg": 9.08, "discus": 0, "kg": 0, "900 kg": 0} {
		got, ok := evaluate.Mass(text)
		if ok != (want > 0) || ok && math.Abs(got-want) > 0.001 {
			t.Errorf("%q is %g kg, %v", text, got, ok)
		}
	}
}

// Where dividing lines are worn off, sector lines and the back of the rim set azimuth
// 0 as well; places of one's own do too.
func TestCircleFromSectorLines(t *testing.T) {
	m, in, truth := throwOf(t, simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: "back"}})
	p := truth.Frames[0].Camera
	s, c := math.Sincos(17.46 * math.Pi / 180)
	const r = 1.0675
	for _, template := range []string{"shot-circle", "free"} {
		marks := ground.ControlPoints{Template: template, Away: 11}
		for name, g := range map[string][2]float64{"rim at the left sector line": {r * c, -r * s}, "rim at the right sector line": {r * c, r * s}, "rim at the back": {-r, 0}, "rim at the left dividing line": {0, -r}, "rim at the right dividing line": {0, r}} {
			row := func(i int) float64 { return p[i][0]*g[0] + p[i][2]*g[1] + p[i][3] }
			marks.Points = append(marks.Points, ground.ControlPoint{Name: name, Along: g[0], Right: g[1], X: row(0) / row(2), Y: row(1) / row(2)})
		}
		in.Ground = &marks
		rep := evaluate.Attempt(m, in)
		x, _ := rep.Reading("catch_place")
		if x.Value == nil || x.Value.Value < 215 || x.Value.Value > 245 || len(rep.Throw.Turns) != 3 {
			t.Errorf("%s: %+v %s, %v", template, x.Value, x.Reason, rep.Problems)
		}
	}
	for _, tp := range ground.Templates() {
		if tp.ID != "shot-circle" {
			continue
		}
		n := 0
		for _, q := range tp.Places {
			if strings.Contains(q.Name, "sector line") {
				n++
				if d := math.Hypot(q.Along, q.Right) - r; math.Abs(d) > 1e-9 {
					t.Errorf("%s lies %.3f m off the rim", q.Name, d)
				}
			}
		}
		if n != 2 {
			t.Errorf("%d places on sector lines", n)
		}
	}
}
