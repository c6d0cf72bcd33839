package moving

import (
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
)

// A figure cut from a movement is that movement, slowed, held and taken back.
func TestPartsAreCutSlowedAndHeld(t *testing.T) {
	part := Part{From: "set", To: "td1", Slow: 2}
	once, err := Draw(Spec{Event: "sprint-start", Parts: []Part{part}})
	if err != nil {
		t.Fatal(err)
	}
	part.Hold = 0.8
	held, err := Draw(Spec{Event: "sprint-start", Parts: []Part{part}})
	if err != nil || held.Frames != once.Frames+int(0.8*Rate) {
		t.Errorf("held: %d frames after %d, %v", held.Frames, once.Frames, err)
	}
	part.Hold, part.Back = 0, true
	back, err := Draw(Spec{Event: "sprint-start", Parts: []Part{part}})
	if err != nil || back.Frames != 2*once.Frames {
		t.Fatalf("back: %d frames after %d, %v", back.Frames, once.Frames, err)
	}
	x := back.Points["left_knee"]
	if n := len(x); x[0] != x[n-2] || x[1] != x[n-1] {
		t.Error("it does not end where it began")
	}
	if once.Near != "right" {
		t.Errorf("from the right side the %s is nearer", once.Near)
	}
	if other, err := Draw(Spec{Event: "sprint-start", View: 270, Parts: []Part{{From: "set", To: "td1", Slow: 2}}}); err != nil || other.Near != "left" || math.Abs(other.Points["left_toe"][0]+once.Points["left_toe"][0]) > 0.002 {
		t.Errorf("from the other side: %s, %v", other.Near, err)
	}
	// Who goes along sees the hips in one place.
	along, err := Draw(Spec{Event: "running", Pace: 4, Stay: true, Parts: []Part{{From: "td1", To: "td5", Slow: 2}}})
	if err != nil {
		t.Fatal(err)
	}
	for k := range along.Frames {
		if m := along.Points["left_hip"][2*k] + along.Points["right_hip"][2*k]; math.Abs(m) > 0.01 {
			t.Fatalf("frame %d: the hips are at %.2f", k, m/2)
		}
	}
}

// Poses are gone through with limbs that keep their length, feet that stand still and hands that hold on.
func TestPosesKeepLimbsAndHolds(t *testing.T) {
	zero := 0.0
	lean := 30.0
	d, err := Draw(Spec{Poses: []Pose{
		{Stand: []float64{0.1, -0.06, 0, 0}, Other: []float64{0.1, 0.06, 0, 0}, Hip: []float64{0, 0.5}, Lean: &zero, Grip: []float64{0.2, 0.75, 0.1}},
		{After: 1, Hip: []float64{-0.05, 0.45}, Lean: &lean},
		{After: 1, Hip: []float64{0, 0.5}, Lean: &zero},
	}})
	if err != nil {
		t.Fatal(err)
	}
	for k := range d.Frames {
		for _, id := range []string{"left_toe", "right_toe", "left_hand", "right_hand"} {
			p := d.Points[id]
			if off := math.Hypot(p[2*k]-p[0], p[2*k+1]-p[1]); off > 0.03 {
				t.Fatalf("frame %d: %s has moved by %.3f m", k, id, off)
			}
		}
		// Seen from the side thigh and shank lie in the picture.
		hip, knee := d.Points["right_hip"], d.Points["right_knee"]
		if l := math.Hypot(hip[2*k]-knee[2*k], hip[2*k+1]-knee[2*k+1]); l < 0.36 || l > 0.46 {
			t.Fatalf("frame %d: a thigh of %.2f m", k, l)
		}
	}
}

// A stick stays in both hands, across the body, with arms that keep their length.
func TestSticksAreHeld(t *testing.T) {
	for _, how := range []string{"shoulders", "elbows", "hips"} {
		s := Spec{Event: "discus", Variant: "full", Stick: how, Parts: []Part{{From: "sweep_off", To: "front", Slow: 3}}}
		front, err := Draw(s)
		if err != nil {
			t.Fatal(err)
		}
		if len(front.Held) > 0 || len(front.Shaft) != 4*front.Frames {
			t.Fatalf("%s: %d places of a disc, %d of a stick in %d frames", how, len(front.Held), len(front.Shaft), front.Frames)
		}
		// A second look from across gives the third dimension.
		s.View = 180
		side, err := Draw(s)
		if err != nil {
			t.Fatal(err)
		}
		far := func(a, b []float64, c, d []float64, k int) float64 {
			return math.Sqrt(math.Pow(a[2*k]-b[2*k], 2) + math.Pow(a[2*k+1]-b[2*k+1], 2) + math.Pow(c[2*k]-d[2*k], 2))
		}
		for k := range front.Frames {
			for _, arm := range []string{"left", "right"} {
				if l := far(front.Points[arm+"_shoulder"], front.Points[arm+"_elbow"], side.Points[arm+"_shoulder"], side.Points[arm+"_elbow"], k); l < 0.22 || l > 0.4 {
					t.Fatalf("%s, frame %d: an upper arm of %.2f m", how, k, l)
				}
			}
			long := math.Sqrt(math.Pow(front.Shaft[4*k]-front.Shaft[4*k+2], 2) + math.Pow(front.Shaft[4*k+1]-front.Shaft[4*k+3], 2) + math.Pow(side.Shaft[4*k]-side.Shaft[4*k+2], 2))
			if long < 0.6 || long > 2 {
				t.Fatalf("%s, frame %d: a stick of %.2f m", how, k, long)
			}
		}
	}
}

// What is thrown goes with the hand until it leaves, and straight on from there.
func TestThingsLeaveTheHand(t *testing.T) {
	aim := 30.0
	poses := []Pose{
		{RightArm: []float64{280, 10, 172}, Aim: &aim},
		{After: 0.6, RightArm: []float64{150, 8, 172}, Away: true},
		{After: 0.8, RightArm: []float64{50, 8, 160}},
	}
	at := int(0.6 * Rate)
	javelin, err := Draw(Spec{Poses: poses})
	if err != nil {
		t.Fatal(err)
	}
	grip := func(k int) (x, y float64) {
		u := toTail / (toTail + toTip)
		return javelin.Shaft[4*k] + u*(javelin.Shaft[4*k+2]-javelin.Shaft[4*k]), javelin.Shaft[4*k+1] + u*(javelin.Shaft[4*k+3]-javelin.Shaft[4*k+1])
	}
	hand := func(d Drawn, k int) (x, y float64) {
		return d.Points["right_hand"][2*k], d.Points["right_hand"][2*k+1]
	}
	for k := range javelin.Frames {
		gx, gy := grip(k)
		hx, hy := hand(javelin, k)
		off := math.Hypot(gx-hx, gy-hy)
		if k <= at && off > 0.01 || k > at+5 && off < 0.5 {
			t.Fatalf("frame %d: the grip is %.2f m from the hand", k, off)
		}
		if angle := math.Atan2(javelin.Shaft[4*k+3]-javelin.Shaft[4*k+1], javelin.Shaft[4*k+2]-javelin.Shaft[4*k]) * 180 / math.Pi; math.Abs(angle-aim) > 0.5 {
			t.Fatalf("frame %d: it points %.1f degrees up", k, angle)
		}
	}
	poses[0].Held = []float64{0.1, 1}
	disc, err := Draw(Spec{Poses: poses})
	if err != nil {
		t.Fatal(err)
	}
	hx, hy := hand(disc, at)
	if math.Hypot(disc.Held[2*at]-hx, disc.Held[2*at+1]-hy) > 0.01 || disc.Held[2*(disc.Frames-1)] < hx+2 || len(disc.Shaft) > 0 {
		t.Errorf("a disc at %.2f, the hand at %.2f; in the end at %.2f", disc.Held[2*at], hx, disc.Held[2*(disc.Frames-1)])
	}
}

func TestFiguresThatCannotBeAreRefused(t *testing.T) {
	for name, c := range map[string]struct {
		spec Spec
		says string
	}{
		"nothing":        {Spec{}, "parts of a movement, or poses"},
		"both":           {Spec{Parts: []Part{{}}, Poses: []Pose{{}, {}}}, "or poses"},
		"no such event":  {Spec{Event: "chess", Parts: []Part{{From: "start", To: "end"}}}, "no event"},
		"no such moment": {Spec{Event: "shot", Parts: []Part{{From: "lunch", To: "end"}}}, "lunch"},
		"backward":       {Spec{Event: "shot", Parts: []Part{{From: "release", To: "centre"}}}, "after"},
		"no time":        {Spec{Event: "shot", Parts: []Part{{From: "centre+soon", To: "end"}}}, "no time"},
		"too long":       {Spec{Event: "hammer", Parts: []Part{{From: "start", To: "end", Slow: 20}}}, "moves for"},
		"one pose":       {Spec{Poses: []Pose{{}}}, "two or more"},
		"half a leg":     {Spec{Poses: []Pose{{Left: []float64{1}}, {}}}, "flex, knee and point"},
		"half a foot":    {Spec{Poses: []Pose{{Stand: []float64{1}}, {}}}, "toe x and z"},
		"half an arm":    {Spec{Poses: []Pose{{LeftArm: []float64{1}}, {}}}, "an arm"},
		"half a grip":    {Spec{Poses: []Pose{{Grip: []float64{1}}, {}}}, "hands hold"},
		"an odd stick":   {Spec{Event: "shot", Stick: "teeth", Parts: []Part{{From: "start", To: "end"}}}, "teeth"},
		"half a hip":     {Spec{Poses: []Pose{{Hip: []float64{1}}, {}}}, "a hip"},
		"no landmark":    {Spec{Event: "shot", Parts: []Part{{From: "start", To: "end"}}, Things: []Thing{{At: "left_tail"}}}, "left_tail"},
	} {
		if _, err := Draw(c.spec); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestEveryFigureIsDrawn(t *testing.T) {
	all, err := Figures()
	if err != nil {
		t.Fatal(err)
	}
	for name, s := range all {
		d, err := Draw(s)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		for _, id := range body.Landmarks() {
			for _, v := range d.Points[id] {
				if math.IsNaN(v) || math.Abs(v) > 60 {
					t.Fatalf("%s: %s at %g", name, id, v)
				}
			}
		}
	}
}
