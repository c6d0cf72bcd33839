package simcam

import (
	"encoding/binary"
	"math"
	"slices"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/models"
	"neokinema/simcam/figure"
	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

// TestCamerasStandWhereTheySay: the side camera at the athlete's right, the back
// one behind, the front one before; from the other side when the athlete moves
// to the left of the picture.
func TestCamerasStandWhereTheySay(t *testing.T) {
	for place, want := range map[string]r3.Vec{"side": {Z: 1}, "back": {X: -1}, "front": {X: 1}, "oblique": {X: -0.77, Z: 0.64}, "far-oblique": {X: 0.74, Z: 0.67}} {
		s := spec("shot")
		s.Camera.Place = place
		sc := scene(t, s)
		l := sc.lens(sc.Motion.First)
		way := r3.Sub(l.At, l.Target)
		way.Y = 0
		if off := math.Acos(r3.Cos(way, want)) * 180 / math.Pi; off > 4 {
			t.Errorf("%s: %.1f degrees off", place, off)
		}
	}
	s := spec("sprint-start")
	s.Direction = -1
	tr := scene(t, s).Truth
	first, last := tr.Frames[0].Centre.Image, tr.Frames[len(tr.Frames)-1].Centre.Image
	if last[0] >= first[0] {
		t.Error("does not move to the left")
	}
}

// TestPanKeepsTheAthleteInTheMiddle while the background moves.
func TestPanKeepsTheAthleteInTheMiddle(t *testing.T) {
	s := spec("javelin")
	s.Camera.Pan = true
	tr := scene(t, s).Truth
	for i, f := range tr.Frames {
		if off := math.Abs(f.Centre.Image[0] - 640); off > 260 {
			t.Fatalf("frame %d: %.0f px from the middle", i, off)
		}
	}
	a, b := tr.Frames[0].Camera, tr.Frames[len(tr.Frames)-1].Camera
	if a == b {
		t.Error("the camera does not turn")
	}
	// The centre of projection stays: P (C, 1) = 0 for both.
	solve := func(p [3][4]float64) r3.Vec {
		row := func(i int) r3.Vec { return r3.Vec{X: p[i][0], Y: p[i][1], Z: p[i][2]} }
		d := r3.Dot(row(0), r3.Cross(row(1), row(2)))
		v := r3.Add(r3.Scale(-p[0][3], r3.Cross(row(1), row(2))), r3.Add(r3.Scale(-p[1][3], r3.Cross(row(2), row(0))), r3.Scale(-p[2][3], r3.Cross(row(0), row(1)))))
		return r3.Scale(1/d, v)
	}
	if d := r3.Norm(r3.Sub(solve(a), solve(b))); d > 1e-6 {
		t.Errorf("the camera moves %.6f m", d)
	}
}

// TestShakeIsAsLargeAsWishedAndTheSameForASeed.
func TestShakeIsAsLargeAsWishedAndTheSameForASeed(t *testing.T) {
	still, shaken := spec("shot"), spec("shot")
	shaken.Camera.Shake, shaken.Seed = 6, 3
	a, b, c := scene(t, still).Truth, scene(t, shaken).Truth, scene(t, shaken).Truth
	var sq float64
	for i := range a.Frames {
		p, q := a.Frames[i].Centre.Image, b.Frames[i].Centre.Image
		sq += (p[0]-q[0])*(p[0]-q[0]) + (p[1]-q[1])*(p[1]-q[1])
		if b.Frames[i].Camera != c.Frames[i].Camera {
			t.Fatal("the same seed shakes otherwise")
		}
	}
	if rms := math.Sqrt(sq / float64(len(a.Frames))); rms < 2 || rms > 14 {
		t.Errorf("shakes by %.1f px", rms)
	}
}

// TestAzimuthsAreWhatALookFromAboveGives, and continuous over all turns.
func TestAzimuthsAreWhatALookFromAboveGives(t *testing.T) {
	for _, hand := range []body.Side{body.Right, body.Left} {
		s := spec("hammer")
		s.Hand = hand
		tr := scene(t, s).Truth
		for i, f := range tr.Frames {
			l, r := world(f, "left_hip"), world(f, "right_hip")
			// Facing is a quarter turn to the left of the line from left to right.
			facing := math.Atan2(-(r.X - l.X), r.Z-l.Z)
			az := 180 - facing*180/math.Pi
			if hand == body.Left {
				az = 180 + facing*180/math.Pi
			}
			if d := math.Abs(math.Remainder(az-f.Azimuths.Hips, 360)); d > 1e-6 {
				t.Fatalf("%s frame %d: hips face %.2f, truth %.2f", hand, i, az, f.Azimuths.Hips)
			}
			if i > 0 {
				if d := math.Abs(f.Azimuths.Hips - tr.Frames[i-1].Azimuths.Hips); d > 30 {
					t.Fatalf("frame %d: hips jump by %.0f degrees", i, d)
				}
			}
		}
		// Facing the back at first; three turns and a half in all.
		if turned := tr.Frames[tr.Positions["release"]].Azimuths.Hips; turned < 3*360+40 || turned > 3*360+140 {
			t.Errorf("%s: turned %.0f degrees at the release", hand, turned)
		}
		if az := math.Mod(*tr.Frames[tr.Positions["zero2"]].Azimuths.Implement+720, 360); az > 8 && az < 352 {
			t.Errorf("%s: ball at %.1f when it should pass 0", hand, az)
		}
	}
}

// TestGroundMarksAreWhereTheRulesPutThem and project as the camera says.
func TestGroundMarksAreWhereTheRulesPutThem(t *testing.T) {
	s := spec("hammer")
	s.Camera.Place = "back"
	tr := scene(t, s).Truth
	l, r := tr.Ground["circle_left"].World, tr.Ground["circle_right"].World
	// 2.135 m inside: World Athletics technical rules, from memory.
	if d := math.Hypot(l[0]-r[0], l[2]-r[2]); math.Abs(d-2.135) > 1e-9 {
		t.Errorf("circle %.3f m wide", d)
	}
	if tr.Ground["circle_left"].Image[0] >= tr.Ground["circle_right"].Image[0] {
		t.Error("seen from behind, left is not left")
	}
	for _, event := range []string{"long-jump", "sprint-start", "pole-vault", "high-jump"} {
		s := spec(event)
		s.Camera.Zoom = 0.5
		if len(scene(t, s).Truth.Ground) == 0 {
			t.Errorf("%s shows no known marks", event)
		}
	}
}

// TestVenuesHaveTheirLines: walking over the ground, colours change where the
// rules put lines and edges.
func TestVenuesHaveTheirLines(t *testing.T) {
	bright := func(c film.Color) bool { return c.R > 200 && c.G > 195 && c.B > 185 }
	circle := stage(move.Props{Circle: 2.5, Sector: 17.46}, 1, r3.Vec{X: -11})
	edge := 0.0
	for x := 0.0; x < 3; x += 0.005 {
		if bright(circle.Ground(0.1, x, 30)) {
			edge = x
			break
		}
	}
	if math.Abs(edge-math.Sqrt(1.25*1.25-0.01)) > 0.02 {
		t.Errorf("the ring begins %.3f m from the middle", edge)
	}
	// The sector: 34.92 degrees between its lines.
	line := 0.0
	for z := 0.0; z < 12; z += 0.01 {
		if bright(circle.Ground(20, z, 30)) {
			line = z
			break
		}
	}
	if got := 2 * math.Atan(line/20) * 180 / math.Pi; math.Abs(got-34.92) > 0.1 {
		t.Errorf("sector of %.2f degrees", got)
	}
	lanes := stage(move.Props{Lanes: true, Start: true}, 1, r3.Vec{Z: 9})
	var at []float64
	was := false
	for z := -2.9; z < 3; z += 0.005 {
		on := bright(lanes.Ground(5, z, 30))
		if on && !was {
			at = append(at, z)
		}
		was = on
	}
	if len(at) < 4 {
		t.Fatalf("lines at %v", at)
	}
	for i := 1; i < len(at); i++ {
		if math.Abs(at[i]-at[i-1]-1.22) > 0.011 {
			t.Errorf("a lane of %.3f m", at[i]-at[i-1])
		}
	}
	if !bright(lanes.Ground(0.02, 0, 30)) || bright(lanes.Ground(0.2, 0.2, 30)) {
		t.Error("no start line of 5 cm")
	}
	pit := stage(move.Props{Runway: 1.22, Board: 10, Sand: 11.6}, 1, r3.Vec{Z: 13})
	if !bright(pit.Ground(9.9, 0, 30)) || bright(pit.Ground(9.7, 0, 30)) {
		t.Error("no board of 20 cm")
	}
	if c := pit.Ground(13, 0, 30); c.R < c.B*1.2 || c.R < 120 {
		t.Errorf("sand is %v", c)
	}
	mirrored := stage(move.Props{Runway: 1.22, Mat: &move.Box{Min: r3.Vec{Z: 1}, Max: r3.Vec{X: 4, Y: 0.7, Z: 3}}}, -1, r3.Vec{Z: 13})
	for _, f := range mirrored.Faces {
		for _, c := range f.Corners {
			if c.Z > -0.9 {
				t.Fatalf("a mirrored mat at %v", c)
			}
		}
	}
}

// TestGunSoundsWhenItShould: silence, then the bang, stretched with the slow
// motion.
func TestGunSoundsWhenItShould(t *testing.T) {
	wav := wav([]bang{{0.8, 1}}, 2, 1)
	if string(wav[:4]) != "RIFF" || string(wav[8:12]) != "WAVE" {
		t.Fatal("not a WAV file")
	}
	rate := int(binary.LittleEndian.Uint32(wav[24:]))
	loud := -1
	for i := 44; i+1 < len(wav); i += 2 {
		if v := int16(binary.LittleEndian.Uint16(wav[i:])); (v > 4000 || v < -4000) && loud < 0 {
			loud = (i - 44) / 2
		}
	}
	if at := float64(loud) / float64(rate); math.Abs(at-0.8) > 0.005 {
		t.Errorf("bang at %.4f s", at)
	}
	if n := (len(wav) - 44) / 2; n != 2*rate {
		t.Errorf("%d samples", n)
	}
}

// TestPersonIsDressedByLandmarks: rods lie at the joints, left shoe clay and
// right shoe sky, and a heavier athlete is rounder.
func TestPersonIsDressedByLandmarks(t *testing.T) {
	p := body.Person{Sex: body.Male, Height: 1.82, Mass: 74}
	sc := scene(t, Spec{Event: "running", Athlete: p, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720})
	b := sc.Motion.At(0.3).Body
	girth := func(p body.Person) float64 {
		var v float64
		for _, c := range newPerson(p, 0).cones(&b) {
			v += math.Pi * c.RA * c.RA * math.Max(c.RA, r3.Norm(r3.Sub(c.B, c.A)))
		}
		return v
	}
	light, heavy := girth(p), girth(body.Person{Sex: body.Male, Height: 1.82, Mass: 118})
	if heavy < 1.25*light {
		t.Errorf("118 kg are %.0f %% of 74 kg", 100*heavy/light)
	}
	cones := newPerson(p, 0).cones(&b)
	for s, want := range sideColors {
		toe := b.At(s, figure.Toe)
		if !slices.ContainsFunc(cones, func(c film.Cone) bool { return c.Color == want && r3.Norm(r3.Sub(c.B, toe)) < 0.05 }) {
			t.Errorf("side %d has no shoe of its colour", s)
		}
	}
	if newPerson(p, -3).kit.hair == (film.Color{}) {
		t.Error("an odd choice of clothes has none")
	}
}

// TestKeyPositionsAreThoseOfTheModels: every key position of the truth that a
// technique model knows comes in the model's order, and the model's required
// ones are there.
func TestKeyPositionsAreThoseOfTheModels(t *testing.T) {
	for _, e := range move.Events() {
		m, err := models.Load(e.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range e.Variants {
			s := spec(e.ID)
			s.Variant = v.ID
			tr := scene(t, s).Truth
			last, known := -1, 0
			for _, p := range m.Positions {
				f, ok := tr.Positions[p.ID]
				if !ok {
					if !p.Optional {
						t.Errorf("%s %s: the truth has no %s", e.ID, v.ID, p.ID)
					}
					continue
				}
				known++
				if f < last && !p.Optional {
					t.Errorf("%s %s: %s comes too early", e.ID, v.ID, p.ID)
				}
				last = max(last, f)
			}
			if known < 3 {
				t.Errorf("%s %s: the model knows %d of %v", e.ID, v.ID, known, tr.Positions)
			}
		}
	}
}

// TestFlagsAgreeWithContacts: touchdowns are the first frames of contact,
// lift-offs the first without.
func TestFlagsAgreeWithContacts(t *testing.T) {
	for _, c := range []struct {
		event, variant string
		on, off        map[string]string // key position to the model's side
	}{
		{"sprint-start", "", map[string]string{"td1": "right", "td2": "left", "td3": "right"}, map[string]string{"rear_off": "right", "clear": "left", "to1": "right"}},
		{"hammer", "", map[string]string{"catch1": "right", "catch2": "right"}, map[string]string{"lift1": "right", "lift3": "right"}},
		{"discus", "full", map[string]string{"centre": "right", "front": "left"}, map[string]string{"sweep_off": "right", "pivot_off": "left"}},
		{"shot", "glide", map[string]string{"centre": "right", "front": "left", "recovery": "right"}, map[string]string{"drive_off": "right"}},
		{"javelin", "", map[string]string{"last": "right", "block": "left"}, map[string]string{"to4": "left"}},
		{"long-jump", "", map[string]string{"pen": "right", "td": "left"}, map[string]string{"pen_off": "right", "to": "left"}},
		{"high-jump", "", map[string]string{"pen": "right", "plant": "left"}, map[string]string{"to": "left"}},
		{"pole-vault", "", map[string]string{"pre": "right", "td": "left"}, map[string]string{"to": "left"}},
	} {
		s := spec(c.event)
		s.Variant = c.variant
		tr := scene(t, s).Truth
		down := func(f int, side string) bool { return slices.Contains(tr.Frames[f].Contacts, side) }
		for id, side := range c.on {
			if f := tr.Positions[id]; f == 0 || !down(f, side) || down(f-1, side) {
				t.Errorf("%s: %s at %d is not the first frame of contact", c.event, id, f)
			}
		}
		for id, side := range c.off {
			if f := tr.Positions[id]; f == 0 || down(f, side) || !down(f-1, side) {
				t.Errorf("%s: %s at %d is not the first frame without contact", c.event, id, f)
			}
		}
	}
}
