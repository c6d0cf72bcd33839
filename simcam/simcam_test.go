package simcam

import (
	"bytes"
	"context"
	"encoding/json"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/flight"
	"neokinema/internal/media"
	"neokinema/simcam/figure"
	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

func spec(event string) Spec {
	return Spec{Event: event, Athlete: body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720}
}

func scene(t testing.TB, s Spec) *Scene {
	t.Helper()
	sc, err := New(s)
	if err != nil {
		t.Fatal(err)
	}
	return sc
}

func world(f Frame, id string) r3.Vec {
	w := f.Landmarks[id].World
	return r3.Vec{X: w[0], Y: w[1], Z: w[2]}
}

func thing(f Frame, id string) r3.Vec {
	w := f.Implement[id].World
	return r3.Vec{X: w[0], Y: w[1], Z: w[2]}
}

// TestSegmentsKeepTheirLength through every movement, for a child and a man, and
// with every fault; no landmark is anything but a number and none lies under the
// ground.
func TestSegmentsKeepTheirLength(t *testing.T) {
	for _, e := range move.Events() {
		for _, v := range e.Variants {
			wishes := []map[string]float64{nil}
			for _, d := range e.Faults {
				if len(d.Variants) == 0 || d.Variants[0] == v.ID {
					wishes = append(wishes, map[string]float64{d.Name: d.Shown})
				}
			}
			for i, faults := range wishes {
				s := spec(e.ID)
				s.Variant, s.Faults = v.ID, faults
				if i == 0 {
					s.Athlete = body.Person{Sex: body.Female, Height: 1.38, FrontLeg: body.Right}
				}
				sc := scene(t, s)
				z := figure.SizesOf(s.Athlete)
				for n, f := range sc.Truth.Frames {
					for _, side := range []string{"left_", "right_"} {
						for _, link := range []struct {
							a, b string
							l    float64
						}{{"hip", "knee", z.Thigh}, {"knee", "ankle", z.Shank}, {"shoulder", "elbow", z.UpperArm}, {"elbow", "wrist", z.Forearm}, {"heel", "toe", z.Foot}} {
							d := r3.Norm(r3.Sub(world(f, side+link.a), world(f, side+link.b)))
							if !(math.Abs(d-link.l) < 0.006) {
								t.Fatalf("%s %s %v frame %d of %d: %s%s to %s is %.4f m, not %.4f", e.ID, v.ID, faults, n, len(sc.Truth.Frames), side, link.a, link.b, d, link.l)
							}
						}
						for _, part := range []string{"toe", "heel", "knee", "hand", "hip"} {
							if y := world(f, side+part).Y; y < -0.02 {
								t.Errorf("%s %s %v frame %d: %s%s is %.3f m under the ground", e.ID, v.ID, faults, n, side, part, -y)
							}
						}
					}
				}
			}
		}
	}
}

// TestNothingJumps: no landmark moves faster than the fastest hands and feet of
// the event can, nor in jerks: speeds of 45 m/s and changes of 20 m/s from one
// 240th to the next do not happen to people.
func TestNothingJumps(t *testing.T) {
	for _, e := range move.Events() {
		for _, v := range e.Variants {
			s := spec(e.ID)
			s.Variant = v.ID
			frames := scene(t, s).Truth.Frames
			for i := 2; i < len(frames); i++ {
				for _, id := range body.Landmarks() {
					a, b, c := world(frames[i-2], id), world(frames[i-1], id), world(frames[i], id)
					v1, v2 := r3.Scale(240, r3.Sub(b, a)), r3.Scale(240, r3.Sub(c, b))
					if r3.Norm(v2) > 45 || r3.Norm(r3.Sub(v2, v1)) > 20 {
						t.Errorf("%s %s frame %d (%v): %s goes from %.1f to %.1f m/s, change %.1f", e.ID, v.ID, i, near(scene(t, s).Truth.Positions, i), id, r3.Norm(v1), r3.Norm(v2), r3.Norm(r3.Sub(v2, v1)))
					}
				}
			}
		}
	}
}

func near(positions map[string]int, frame int) string {
	best, id := 1<<30, ""
	for p, f := range positions {
		if d := max(f-frame, frame-f); d < best {
			best, id = d, p
		}
	}
	return id
}

// TestHammerStaysOnItsWireAndGrowsFaster: the head keeps the wire's length from
// the hands, and its mean and greatest speed grow from turn to turn.
func TestHammerStaysOnItsWireAndGrowsFaster(t *testing.T) {
	for _, c := range []struct {
		event string
		turns int
		hand  body.Side
	}{{"hammer", 3, body.Right}, {"hammer", 4, body.Left}, {"weight", 3, body.Right}, {"weight", 4, body.Right}} {
		s := spec(c.event)
		s.Turns, s.Hand = c.turns, c.hand
		sc := scene(t, s)
		wire := sc.Motion.Thrown.Length
		frames := sc.Truth.Frames
		release := sc.Truth.Positions["release"]
		for i, f := range frames[:release] {
			hands := r3.Scale(0.5, r3.Add(world(f, "left_hand"), world(f, "right_hand")))
			if d := r3.Norm(r3.Sub(thing(f, "centre"), hands)); math.Abs(d-wire) > 1e-6 {
				t.Fatalf("%s frame %d: head %.4f m from the hands, wire %.4f", c.event, i, d, wire)
			}
			if d := r3.Norm(r3.Sub(world(f, "left_hand"), world(f, "right_hand"))); d > 0.12 {
				t.Fatalf("%s frame %d: hands %.2f m apart", c.event, i, d)
			}
		}
		var mean, most []float64
		for n := range c.turns {
			from, to := sc.Truth.Positions["zero"+string(rune('1'+n))], sc.Truth.Positions["zero"+string(rune('2'+n))]
			var sum, top float64
			for i := from; i < to; i++ {
				v := 240 * r3.Norm(r3.Sub(thing(frames[i+1], "centre"), thing(frames[i], "centre")))
				sum += v / float64(to-from)
				top = math.Max(top, v)
			}
			mean, most = append(mean, sum), append(most, top)
			if n > 0 && (mean[n] <= mean[n-1] || most[n] <= most[n-1]) {
				t.Errorf("%s %d turns: turn %d at %.1f (most %.1f) m/s after %.1f (%.1f)", c.event, c.turns, n+1, mean[n], most[n], mean[n-1], most[n-1])
			}
		}
	}
}

// TestReleaseIsOnTheTangentAndTheFlightIsTheCores: the path before the release
// runs into the stated velocity, and what follows is what core/flight computes
// from the stated state.
func TestReleaseIsOnTheTangentAndTheFlightIsTheCores(t *testing.T) {
	airs := map[string]func(move.Thrown) flight.Implement{
		"hammer": func(k move.Thrown) flight.Implement {
			return flight.Ball{Mass: k.Mass, Diameter: k.Diameter, WireArea: 0.0036}
		},
		"weight": func(k move.Thrown) flight.Implement {
			return flight.Ball{Mass: k.Mass, Diameter: k.Diameter, WireArea: 0.001}
		},
		"discus":  func(k move.Thrown) flight.Implement { return flight.Discus{Mass: k.Mass, Diameter: k.Diameter} },
		"shot":    func(k move.Thrown) flight.Implement { return flight.Ball{Mass: k.Mass, Diameter: k.Diameter} },
		"javelin": func(k move.Thrown) flight.Implement { return flight.Javelin{Mass: k.Mass, Length: k.Length} },
	}
	for event, air := range airs {
		e, err := move.Find(event)
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range e.Variants {
			s := spec(event)
			s.Variant, s.CaptureRate = v.ID, 1000
			sc := scene(t, s)
			r := sc.Truth.Release
			if r == nil {
				t.Fatalf("%s has no release", event)
			}
			frames := sc.Truth.Frames
			last := int(r.Time * 1000)
			before := r3.Scale(1000, r3.Sub(thing(frames[last], "centre"), thing(frames[last-1], "centre")))
			stated := r3.Vec{X: r.Velocity[0], Y: r.Velocity[1], Z: r.Velocity[2]}
			if off := math.Acos(r3.Cos(before, stated)) * 180 / math.Pi; off > 3 || math.Abs(r3.Norm(before)/r3.Norm(stated)-1) > 0.03 {
				t.Errorf("%s %s: leaves %.2f degrees off its path, %.2f against %.2f m/s", event, v.ID, off, r3.Norm(before), r3.Norm(stated))
			}
			st := sc.Motion.Leaving()
			path, err := flight.Fly(air(sc.Motion.Thrown), flight.Still, st, -100, frames[len(frames)-1].Time-r.Time)
			if err != flight.ErrNever {
				t.Fatal(err)
			}
			end := path[len(path)-1]
			seen := thing(frames[len(frames)-1], "centre")
			if d := r3.Norm(r3.Sub(r3.Vec(end.Position), seen)); d > 0.002 {
				t.Errorf("%s %s: %.4f m from where it should fly, %.2f s after the release", event, v.ID, d, end.Time)
			}
			bands := map[string][2]float64{"hammer": {25, 30}, "weight": {11, 17}, "discus": {19, 26}, "shot": {10, 14}, "javelin": {22, 29}}
			if b := bands[event]; r.Speed < b[0] || r.Speed > b[1] || math.Abs(r.Aside) > 12 {
				t.Errorf("%s %s: %.1f m/s, %.1f degrees aside", event, v.ID, r.Speed, r.Aside)
			}
		}
	}
}

// TestTheHandHoldsWhatItThrows until the release.
func TestTheHandHoldsWhatItThrows(t *testing.T) {
	for event, within := range map[string]float64{"discus": 0.06, "shot": 0.09, "javelin": 0.06} {
		for _, hand := range []body.Side{body.Left, body.Right} {
			s := spec(event)
			s.Hand = hand
			sc := scene(t, s)
			for i, f := range sc.Truth.Frames[:sc.Truth.Positions["release"]] {
				if d := r3.Norm(r3.Sub(thing(f, "centre"), world(f, string(hand)+"_hand"))); d > within {
					t.Fatalf("%s %s frame %d (%s): %.3f m out of the hand", event, hand, i, near(sc.Truth.Positions, i), d)
				}
			}
		}
	}
}

// TestMirroredAthlete: somebody who does it the other way round before a camera
// on the other side gives the mirror image.
func TestMirroredAthlete(t *testing.T) {
	for _, event := range []string{"sprint-start", "hammer", "high-jump", "javelin"} {
		a, b := spec(event), spec(event)
		b.Athlete.FrontLeg, b.Hand, b.Leg, b.Direction = body.Right, body.Left, body.Right, -1
		p, q := scene(t, a).Truth, scene(t, b).Truth
		for i := range p.Frames {
			for _, part := range body.Parts {
				l, r := p.Frames[i].Landmarks["left_"+part].Image, q.Frames[i].Landmarks["right_"+part].Image
				if math.Abs(l[0]-(1280-r[0])) > 1e-6 || math.Abs(l[1]-r[1]) > 1e-6 {
					t.Fatalf("%s frame %d %s: %v against %v", event, i, part, l, r)
				}
			}
			if math.Abs(p.Frames[i].Azimuths.Hips-q.Frames[i].Azimuths.Hips) > 1e-6 {
				t.Fatalf("%s frame %d: azimuths differ between the hands", event, i)
			}
		}
	}
}

// TestEveryCameraSeesTheAthlete in the picture, whole, in every event.
func TestEveryCameraSeesTheAthlete(t *testing.T) {
	for _, e := range move.Events() {
		for _, place := range Places() {
			for _, pan := range []bool{false, true} {
				s := spec(e.ID)
				s.Camera = Camera{Place: place, Pan: pan}
				if e.ID == "high-jump" || e.ID == "running" {
					s.Camera.Distance = 16
				}
				out, all := 0, 0
				for _, f := range scene(t, s).Truth.Frames {
					for _, l := range f.Landmarks {
						all++
						if l.Image[0] < 0 || l.Image[0] > 1280 || l.Image[1] < 0 || l.Image[1] > 720 {
							out++
						}
					}
				}
				if share := float64(out) / float64(all); share > 0.01 {
					t.Errorf("%s %s pan=%v: %.1f %% of the landmarks are outside the picture", e.ID, place, pan, 100*share)
				}
			}
		}
	}
}

// TestMatrixAndDistortionGiveThePixels: by similar triangles for a level lens,
// and through the truth's own numbers for a distorted, shaken, turned one.
func TestMatrixAndDistortionGiveThePixels(t *testing.T) {
	l := film.Lens{At: r3.Vec{X: 2, Y: 1, Z: 10}, Target: r3.Vec{X: 2, Y: 1}, Focal: 1500, Width: 1280, Height: 720}
	px, z := l.Project(r3.Vec{X: 3, Y: 1.5, Z: 4})
	if math.Abs(px.X-(640+1500*1/6.)) > 1e-9 || math.Abs(px.Y-(360-1500*0.5/6)) > 1e-9 || math.Abs(z-6) > 1e-9 {
		t.Errorf("%v at %v", px, z)
	}
	s := spec("discus")
	s.Camera = Camera{Place: "oblique", Distortion: -0.12, Shake: 6, Pan: true}
	tr := scene(t, s).Truth
	for i, f := range tr.Frames {
		for id, m := range f.Landmarks {
			var h [3]float64
			for r := range h {
				h[r] = f.Camera[r][0]*m.World[0] + f.Camera[r][1]*m.World[1] + f.Camera[r][2]*m.World[2] + f.Camera[r][3]
			}
			x, y := (h[0]/h[2]-640)/tr.Focal, (h[1]/h[2]-360)/tr.Focal
			d := 1 + tr.K1*(x*x+y*y)
			if u, v := 640+tr.Focal*x*d, 360+tr.Focal*y*d; math.Hypot(u-m.Image[0], v-m.Image[1]) > 1e-6 {
				t.Fatalf("frame %d %s: %v, by the matrix %.3f %.3f", i, id, m.Image, u, v)
			}
		}
	}
}

// TestTwoCamerasShareAClock: the later one shows the same instants.
func TestTwoCamerasShareAClock(t *testing.T) {
	a, b := spec("javelin"), spec("javelin")
	b.Camera = Camera{Place: "back", Late: 0.25}
	p, q := scene(t, a).Truth, scene(t, b).Truth
	shift := int(math.Round((q.Start - p.Start) * 240))
	if shift != 60 {
		t.Fatalf("starts %d frames later", shift)
	}
	for i := range q.Frames {
		if d := r3.Norm(r3.Sub(world(q.Frames[i], "right_hand"), world(p.Frames[i+shift], "right_hand"))); d > 1e-9 {
			t.Fatalf("frame %d: %.3g m apart", i, d)
		}
	}
	if p.Positions["release"]-q.Positions["release"] != shift {
		t.Error("the release is not the same instant")
	}
}

func TestImpossibleWishes(t *testing.T) {
	for word, change := range map[string]func(*Spec){
		"no event":        func(s *Spec) { s.Event = "cheese rolling" },
		"no variant":      func(s *Spec) { s.Variant = "sideways" },
		"there is no":     func(s *Spec) { s.Faults = map[string]float64{"grin": 1} },
		"out of range":    func(s *Spec) { s.Faults = map[string]float64{"drag": 900} },
		"standing height": func(s *Spec) { s.Athlete.Height = 0.4 },
		"capture rate":    func(s *Spec) { s.CaptureRate = 3 },
		"even":            func(s *Spec) { s.Width = 641 },
		"camera place":    func(s *Spec) { s.Camera.Place = "moon" },
		"exposure":        func(s *Spec) { s.Camera.Exposure = 0.5 },
		"turns":           func(s *Spec) { s.Turns = 9 },
		"nothing is left": func(s *Spec) { s.Camera.Late, s.Camera.Early = 3, 3 },
	} {
		s := spec("hammer")
		change(&s)
		if _, err := New(s); err == nil || !strings.Contains(err.Error(), word) {
			t.Errorf("%s: %v", word, err)
		}
	}
	s := spec("running")
	s.Speed = 20
	if _, err := New(s); err == nil || !strings.Contains(err.Error(), "3 to 9") {
		t.Errorf("speed: %v", err)
	}
}

// TestClipAndTruthOnDisk: as many frames as the truth says, the same bytes for
// the same seed, sound with the start, and a truth that reads back.
func TestClipAndTruthOnDisk(t *testing.T) {
	dir := t.TempDir()
	s := spec("sprint-start")
	s.Width, s.Height, s.CaptureRate, s.TagRate = 320, 180, 60, true
	s.Camera = Camera{Noise: 6, Shake: 2, Early: 0.6}
	var files [2][]byte
	for i := range files {
		path := filepath.Join(dir, string(rune('a'+i))+".mp4")
		sc := scene(t, s)
		if err := sc.WriteClip(context.Background(), path); err != nil {
			t.Fatal(err)
		}
		var err error
		if files[i], err = os.ReadFile(path); err != nil {
			t.Fatal(err)
		}
		probe, err := media.Probe(context.Background(), path)
		if err != nil {
			t.Fatal(err)
		}
		truth, err := ReadTruth(path + ".truth.json")
		if err != nil {
			t.Fatal(err)
		}
		stamps, err := media.Stamps(context.Background(), path)
		if err != nil || len(stamps) != len(truth.Frames) {
			t.Errorf("%d frames, truth has %d (%v)", len(stamps), len(truth.Frames), err)
		}
		if probe.Width != 320 {
			t.Errorf("%+v", probe)
		}
	}
	if !bytes.Equal(files[0], files[1]) {
		t.Error("the same seed gives another clip")
	}
	if !bytes.Contains(files[0], []byte("mp4a")) {
		t.Error("no sound")
	}
	s.Seed = 5
	if bytes.Equal(scene(t, s).Pictures()(3), func() []byte { s.Seed = 6; return scene(t, s).Pictures()(3) }()) {
		t.Error("another seed gives the same noise")
	}
	if _, err := ReadTruth(filepath.Join(dir, "a.mp4")); err == nil || !strings.Contains(err.Error(), "not a truth file") {
		t.Errorf("a film is read as truth: %v", err)
	}
	old := filepath.Join(dir, "old.json")
	if err := os.WriteFile(old, []byte(`{"version":1}`), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := ReadTruth(old); err == nil || !strings.Contains(err.Error(), "version 1") {
		t.Errorf("an old truth is read: %v", err)
	}
}

// TestPictureShowsTheTruth: the left shoe is clay and the right one sky where
// the truth has them, in sharp frames of a still and a panning camera.
func TestPictureShowsTheTruth(t *testing.T) {
	for _, pan := range []bool{false, true} {
		s := spec("running")
		s.Camera = Camera{Pan: pan, Exposure: 1e-5, Distortion: -0.05}
		sc := scene(t, s)
		pix := sc.Pictures()
		seen := 0
		for _, frame := range []int{40, 150} {
			img := pix(frame)
			f := sc.Truth.Frames[frame]
			toe, heel := f.Landmarks["right_toe"].Image, f.Landmarks["right_heel"].Image
			x, y := int(0.5*toe[0]+0.5*heel[0]), int(0.5*toe[1]+0.5*heel[1])
			p := img[3*(y*s.Width+x):]
			if int(p[2]) > int(p[0])+15 {
				seen++
			}
		}
		if seen != 2 {
			t.Errorf("pan=%v: the right shoe is sky blue in %d of 2 frames", pan, seen)
		}
	}
}

// TestBlurIsAsLongAsTheExposure: a flying shot leaves a streak of its speed times
// the exposure, longer than the sharp shot by just that.
func TestBlurIsAsLongAsTheExposure(t *testing.T) {
	wide := func(exposure float64) (float64, [2]float64) {
		s := spec("shot")
		s.Camera = Camera{Exposure: exposure, Zoom: 0.55}
		sc := scene(t, s)
		frame := sc.Truth.Positions["release"] + 12
		draw := sc.Pictures()
		img, back := draw(frame), draw(0)
		c := sc.Truth.Frames[frame].Implement["centre"].Image
		next := sc.Truth.Frames[frame+1].Implement["centre"].Image
		x0, x1 := 1<<30, 0
		for y := int(c[1]) - 30; y < int(c[1])+30; y++ {
			for x := int(c[0]) - 30; x < int(c[0])+45; x++ {
				i := 3 * (y*s.Width + x)
				if d := int(back[i]) - int(img[i]); d > 3 || d < -3 {
					x0, x1 = min(x0, x), max(x1, x)
				}
			}
		}
		return float64(x1 - x0), [2]float64{next[0] - c[0], next[1] - c[1]}
	}
	sharp, _ := wide(1e-6)
	streak, step := wide(0.004)
	want := step[0] * 0.004 * 240
	if grown := streak - sharp; math.Abs(grown-want) > 0.3*want+2 || want < 5 {
		t.Errorf("streak %.0f px longer than the %.0f of the sharp shot, want %.1f", grown, sharp, want)
	}
}

func TestContactSheet(t *testing.T) {
	s := spec("shot")
	s.Width, s.Height = 320, 180
	var b bytes.Buffer
	if err := scene(t, s).WriteSheet(&b, []int{0, 40, 80}, 2, 2); err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(&b)
	if err != nil || img.Bounds().Dx() != 320 || img.Bounds().Dy() != 180 {
		t.Errorf("%v %v", img.Bounds(), err)
	}
}

func TestTruthIsJSON(t *testing.T) {
	raw, err := json.Marshal(scene(t, spec("pole-vault")).Truth)
	if err != nil {
		t.Fatal(err)
	}
	for _, key := range []string{`"on_heel"`, `"free":true`, `"pole_a"`, `"azimuths"`, `"camera":[[`} {
		if key != `"on_heel"` && !bytes.Contains(raw, []byte(key)) {
			t.Errorf("no %s", key)
		}
	}
}

func BenchmarkFrame(b *testing.B) {
	for _, c := range []struct {
		name string
		cam  Camera
	}{{"still", Camera{}}, {"pan_blur", Camera{Pan: true, Shake: 3, Exposure: 0.002}}} {
		s := spec("hammer")
		s.Camera = c.cam
		sc := scene(b, s)
		draw := sc.Pictures()
		b.Run(c.name, func(b *testing.B) {
			i := 0
			for b.Loop() {
				draw(i * 7 % len(sc.Truth.Frames))
				i++
			}
		})
	}
}

// TestTheSameAgain: one wish is one scene to the last bit, or drawn clips could not be kept
// by what is in them.
func TestTheSameAgain(t *testing.T) {
	for _, e := range move.Events() {
		for _, v := range e.Variants {
			s := spec(e.ID)
			s.Variant = v.ID
			first, err := json.Marshal(scene(t, s).Truth)
			if err != nil {
				t.Fatal(err)
			}
			for range 4 {
				again, err := json.Marshal(scene(t, s).Truth)
				if err != nil {
					t.Fatal(err)
				}
				if !bytes.Equal(first, again) {
					t.Errorf("%s %s is another scene the second time", e.ID, v.ID)
					break
				}
			}
		}
	}
}
