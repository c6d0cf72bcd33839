package repair_test

import (
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/repair"
	"neokinema/core/track"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Left and right exchanged in a third of the frames, in runs and singly, are put
// right again, except where a hand has spoken; wild points lose confidence.
func TestSettle(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 1, 9))
	legs := []string{"knee", "ankle", "heel", "toe"}
	wrong := map[int]bool{}
	for f := range tr.Frames {
		if f > 20 && f < 45 || f%17 == 0 {
			wrong[f] = true
		}
	}
	for f := range wrong {
		for _, p := range legs {
			a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], f, f)
			in.Points["left_"+p].Apply(a, true)
			in.Points["right_"+p].Apply(b, true)
		}
	}
	in.Points["left_elbow"].Y[60] -= 90
	s := repair.Draft(running(t), in)
	for id, c := range s.Changes {
		in.Points[id].Apply(c, false)
	}
	bad := 0
	for f, fr := range tr.Frames {
		p, _ := in.Points.At("left_ankle", f)
		if w := fr.Landmarks["left_ankle"].Image; math.Hypot(p.X-w[0], p.Y-w[1]) > 12 {
			bad++
		}
	}
	if bad > 1 || s.Swapped < len(wrong)-1 {
		t.Errorf("%d left ankles are still on the right; %d of %d frames exchanged", bad, s.Swapped, len(wrong))
	}
	if p, _ := in.Points.At("left_elbow", 60); p.Confidence > 0.2 {
		t.Errorf("an elbow that jumps by 90 px keeps confidence %.2f", p.Confidence)
	}
	// Nothing to do a second time.
	if again := repair.Draft(running(t), in); again.Swapped != 0 {
		t.Errorf("settling again exchanges %d frames", again.Swapped)
	}
}

// A model that takes the legs of a runner for each other for most of a clip is put right by his
// arms, which it names rightly; and the arms by the legs.
func TestArmsAndLegsNameEachOther(t *testing.T) {
	for _, parts := range [][]string{{"ankle", "knee", "heel", "toe"}, {"wrist", "elbow", "hand"}} {
		for _, rate := range []float64{25, 60, 240} {
			tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: rate, Direction: 1})
			in := points.Input(tr, points.All(tr, 1, 6))
			in.Clip.View, in.Clip.Direction = "side", 1
			for _, p := range parts {
				a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], 0, 2*len(tr.Frames)/3)
				in.Points["left_"+p].Apply(a, true)
				in.Points["right_"+p].Apply(b, true)
			}
			for id, c := range repair.Draft(running(t), in).Changes {
				in.Points[id].Apply(c, false)
			}
			for _, part := range []string{"ankle", "wrist"} {
				bad := 0
				for f, fr := range tr.Frames {
					p, _ := in.Points.At("left_"+part, f)
					l, r := fr.Landmarks["left_"+part].Image, fr.Landmarks["right_"+part].Image
					if math.Hypot(p.X-l[0], p.Y-l[1]) > math.Hypot(p.X-r[0], p.Y-r[1]) {
						bad++
					}
				}
				if 10*bad > len(tr.Frames) {
					t.Errorf("%s exchanged at %g/s: %d of %d frames have the %ss exchanged", parts[0], rate, bad, len(tr.Frames), part)
				}
			}
		}
	}
}

// Legs that are named rightly stay so when nobody knows how large the athlete is, whatever a
// model makes of the arms.
func TestLegsOfUnknownSize(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 60, Direction: 1})
	in := points.Input(tr, points.All(tr, 1, 6))
	in.Clip.View, in.Clip.Direction, in.Athlete.Height = "side", 1, 0
	for _, p := range []string{"wrist", "elbow", "hand"} {
		a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], 0, 2*len(tr.Frames)/3)
		in.Points["left_"+p].Apply(a, true)
		in.Points["right_"+p].Apply(b, true)
	}
	if c := repair.Draft(running(t), in).Changes["left_ankle"]; c != nil {
		bad := 0
		for f := range tr.Frames {
			if p, ok := c.At(f); ok && math.Hypot(p.X-tr.Frames[f].Landmarks["left_ankle"].Image[0], p.Y-tr.Frames[f].Landmarks["left_ankle"].Image[1]) > 12 {
				bad++
			}
		}
		if bad > 5 {
			t.Errorf("%d ankles that were named rightly changed sides", bad)
		}
	}
}

// A javelin thrower whom a model takes for turned round is put right by the throwing hand of
// the athlete's card: it is drawn back until the throw.
func TestTheThrowingHandNamesTheArms(t *testing.T) {
	m, err := models.Load("javelin")
	if err != nil {
		t.Fatal(err)
	}
	for _, hand := range []body.Side{body.Right, body.Left} {
		tr := truth(t, simcam.Spec{Event: "javelin", CaptureRate: 30, Direction: 1, Hand: hand, Leg: hand.Other(), Camera: simcam.Camera{Place: "side", Pan: true}})
		in := points.Input(tr, points.All(tr, 1, 6))
		in.Clip.View, in.Clip.Direction = "side", 1
		in.Athlete.ThrowingHand = hand
		for _, p := range []string{"shoulder", "elbow", "wrist", "hand"} {
			in.Points["left_"+p], in.Points["right_"+p] = in.Points["right_"+p], in.Points["left_"+p]
		}
		for id, c := range repair.Draft(m, in).Changes {
			in.Points[id].Apply(c, false)
		}
		bad, all := 0, 0
		for f, fr := range tr.Frames[:tr.Positions["release"]-3] {
			p, _ := in.Points.At("left_wrist", f)
			l, r := fr.Landmarks["left_wrist"].Image, fr.Landmarks["right_wrist"].Image
			if math.Hypot(l[0]-r[0], l[1]-r[1]) < 20 {
				continue
			}
			all++
			if math.Hypot(p.X-l[0], p.Y-l[1]) > math.Hypot(p.X-r[0], p.Y-r[1]) {
				bad++
			}
		}
		if all == 0 || 10*bad > all {
			t.Errorf("%s-handed: in %d of %d frames the hands are exchanged", hand, bad, all)
		}
	}
}

// At the pictures a second of a telephone limbs go far from one picture to the next; right
// points are not taken for wrong ones, wild ones are.
func TestFastLimbsAreNoSuspectsAtFewPictures(t *testing.T) {
	for _, rate := range []float64{25, 30, 60, 240} {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 7, CaptureRate: rate})
		in := points.Input(tr, points.All(tr, 0.5, 3))
		all := 0
		for _, q := range in.Points {
			all += q.Len()
		}
		m := running(t)
		jumps := func() (n int) {
			for _, s := range repair.Suspects(m, in, nil) {
				if s.Size > 0 {
					n++
				}
			}
			return n
		}
		if n := jumps(); 50*n > all {
			t.Errorf("at %g pictures a second %d of %d right points are suspects", rate, n, all)
		}
		middle := len(tr.Frames) / 2
		in.Points["left_knee"].Y[middle] -= 120
		found := false
		for _, s := range repair.Suspects(m, in, nil) {
			found = found || s.Landmark == "left_knee" && s.Frame == middle && s.Size > 0
		}
		if !found {
			t.Errorf("at %g pictures a second a knee that is 120 px off is none", rate)
		}
	}
}

// A model that takes left for right from the first frame to the last is put right where the
// athlete's card says which foot is in front in the blocks; where the card says the other
// foot, that is believed.
func TestTheFrontFootOfTheBlocksNamesTheLegs(t *testing.T) {
	m, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	for _, front := range []body.Side{body.Left, body.Right} {
		for _, direction := range []float64{1, -1} {
			tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: 60, Direction: direction, Athlete: body.Person{Sex: body.Female, Height: 1.7, FrontLeg: front}})
			in := points.Input(tr, points.All(tr, 1, 4))
			in.Clip.Direction = direction
			for _, p := range []string{"hip", "knee", "ankle", "heel", "toe"} {
				in.Points["left_"+p], in.Points["right_"+p] = in.Points["right_"+p], in.Points["left_"+p]
			}
			s := repair.Draft(m, in)
			for id, c := range s.Changes {
				in.Points[id].Apply(c, false)
			}
			bad := 0
			for f, fr := range tr.Frames {
				p, _ := in.Points.At("left_ankle", f)
				if w := fr.Landmarks["left_ankle"].Image; math.Hypot(p.X-w[0], p.Y-w[1]) > 12 {
					bad++
				}
			}
			if 20*bad > len(tr.Frames) {
				t.Errorf("front %s, to %+.0f: in %d of %d frames the left ankle is on the right", front, direction, bad, len(tr.Frames))
			}
		}
	}
}

func TestSettleKeepsTheHand(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 1, 9))
	// The coach says that in frame 30 the legs are the other way round.
	for _, side := range [][2]string{{"left", "right"}, {"right", "left"}} {
		w := tr.Frames[30].Landmarks[side[1]+"_ankle"].Image
		_ = in.Points[side[0]+"_ankle"].Set(30, &track.Point{X: w[0], Y: w[1], Source: "hand", Confidence: 1})
	}
	s := repair.Draft(running(t), in)
	for id, c := range s.Changes {
		in.Points[id].Apply(c, false)
	}
	if p, _ := in.Points.At("left_ankle", 30); p.Source != "hand" || math.Abs(p.X-tr.Frames[30].Landmarks["right_ankle"].Image[0]) > 0.01 {
		t.Errorf("the hand's ankle became %+v", p)
	}
}

func TestDoubtsLeadToWildPoints(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 1, 2))
	if d := repair.Suspects(running(t), in, nil); len(d) > 3 {
		t.Errorf("a clean clip has %d doubts: %v", len(d), d[:3])
	}
	in.Points["right_wrist"].X[33] += 60
	in.Points["left_knee"].Confidence[50] = 20
	d := repair.Suspects(running(t), in, nil)
	found := map[string]int{}
	for _, x := range d {
		found[x.Landmark] = x.Frame
	}
	if found["right_wrist"] != 33 || found["left_knee"] != 50 {
		t.Errorf("doubts: %+v", d)
	}
	// A point that the hand has set is believed.
	p, _ := in.Points.At("right_wrist", 33)
	p.Source, p.Confidence = "hand", 1
	_ = in.Points["right_wrist"].Set(33, &p)
	for _, x := range repair.Suspects(running(t), in, nil) {
		if x.Landmark == "right_wrist" && x.Frame == 33 {
			t.Error("the hand is doubted")
		}
	}
}

func truth(t testing.TB, s simcam.Spec) simcam.Truth {
	t.Helper()
	if s.Athlete.Height == 0 {
		s.Athlete = body.Person{Sex: body.Male, Height: 1.8, Mass: 75, FrontLeg: body.Left}
	}
	s.FileRate, s.Width, s.Height = 30, 1280, 720
	if s.Direction == 0 {
		s.Direction = 1
	}
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	return sc.Truth
}

func running(t *testing.T) model.Model {
	t.Helper()
	m, err := models.Load("running")
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// Legs that are named wrongly over a whole clip, and legs that change names in the middle of
// it, are put right by one answer.
func TestOneAnswerNamesTheLegs(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "javelin", CaptureRate: 60})
	for what, from := range map[string]int{"the whole clip": 0, "the second half": len(tr.Frames) / 2} {
		in := points.Input(tr, points.All(tr, 1, 9))
		in.Athlete.ThrowingHand = "" // nothing else tells
		for _, p := range []string{"knee", "ankle", "heel", "toe"} {
			a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], from, len(tr.Frames)-1)
			in.Points["left_"+p].Apply(a, true)
			in.Points["right_"+p].Apply(b, true)
		}
		at, most := 0, 0.0
		for f := from; f < len(tr.Frames); f++ {
			l, r := tr.Frames[f].Landmarks["left_ankle"].Image, tr.Frames[f].Landmarks["right_ankle"].Image
			if apart := math.Hypot(l[0]-r[0], l[1]-r[1]); apart > most {
				at, most = f, apart
			}
		}
		r := repair.Legs(running(t), in, at, true)
		for id, c := range r.Changes {
			in.Points[id].Apply(c, true)
		}
		wrong := 0
		for f, fr := range tr.Frames {
			p, _ := in.Points.At("left_ankle", f)
			l, r := fr.Landmarks["left_ankle"].Image, fr.Landmarks["right_ankle"].Image
			if math.Hypot(p.X-l[0], p.Y-l[1]) > math.Hypot(p.X-r[0], p.Y-r[1])+4 {
				wrong++
			}
		}
		if wrong > 2 {
			t.Errorf("%s: %d of %d left ankles are on the right", what, wrong, len(tr.Frames))
		}
		if p, ok := in.Points.At("left_knee", at); !ok || p.Source != track.Hand.String() {
			t.Errorf("%s: the answer is not kept as the hand's", what)
		}
	}
}

// Who turns in a circle turns as a whole: shoulders that a model takes for each other from one
// moment on, in which they pass, are named by the hips, the arms and the legs.
func TestTheBodyNamesTheShoulders(t *testing.T) {
	m, err := models.Load("hammer")
	if err != nil {
		t.Fatal(err)
	}
	for _, hand := range []body.Side{body.Left, body.Right} {
		tr := truth(t, simcam.Spec{Event: "hammer", Hand: hand, CaptureRate: 60, Camera: simcam.Camera{Place: "back"}})
		in := points.Input(tr, points.All(tr, 1, 6))
		in.Athlete.ThrowingHand, in.Clip.View = hand, "back"
		apart := func(f int) float64 {
			return tr.Frames[f].Landmarks["left_shoulder"].Image[0] - tr.Frames[f].Landmarks["right_shoulder"].Image[0]
		}
		from := tr.Positions["catch1"]
		for apart(from)*apart(from+1) > 0 {
			from++
		}
		for _, p := range []string{"shoulder", "ear"} {
			a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], from+1, len(tr.Frames)-1)
			in.Points["left_"+p].Apply(a, true)
			in.Points["right_"+p].Apply(b, true)
		}
		for id, c := range repair.Draft(m, in).Changes {
			in.Points[id].Apply(c, false)
		}
		bad, all := 0, 0
		for f := from; f < len(tr.Frames); f++ {
			p, _ := in.Points.At("left_shoulder", f)
			l, r := tr.Frames[f].Landmarks["left_shoulder"].Image, tr.Frames[f].Landmarks["right_shoulder"].Image
			if math.Hypot(l[0]-r[0], l[1]-r[1]) < 10 {
				continue
			}
			if all++; math.Hypot(p.X-l[0], p.Y-l[1]) > math.Hypot(p.X-r[0], p.Y-r[1]) {
				bad++
			}
		}
		if all < 20 || 10*bad > all {
			t.Errorf("%s hand: %d of %d shoulders are still named wrongly", hand, bad, all)
		}
	}
}
