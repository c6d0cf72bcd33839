package throw

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/vec3"
)

// eye looks along the throw from 11 m behind and 1.3 m up.
func eye() *camera.Camera {
	ahead := vec3.Unit(vec3.Vec{X: 11, Y: -0.3})
	right := vec3.Vec{Z: 1}
	return &camera.Camera{At: vec3.Vec{X: -11, Y: 1.3}, Ahead: ahead, Right: right, Down: vec3.Cross(ahead, right), Focal: 2500, Middle: r2.Vec{X: 640, Y: 360}}
}

// whirl is a line of a length that turns at a rate (rad/s) on a plane tilted by
// tilt, seen with a scatter of sigma px.
func whirl(hand, rate, omega, length, tilt, sigma float64, frames int) (*segment, []float64) {
	r := rand.New(rand.NewPCG(7, 7))
	l := &segment{camera: eye(), rate: rate, hand: hand, ka: 1, seen: make([]observation, frames), prior: prior{length: spread{length, 0.2 * length}, window: 0.4, onward: 1, smooth: pulled}}
	truth := make([]float64, frames)
	for f := range frames {
		az := -1 + omega*float64(f)/rate
		truth[f] = az
		d, _, _ := l.direction(az, -tilt*math.Cos(az))
		at := vec3.Vec{X: 0.1, Y: 1.4, Z: -0.05}
		l.base = append(l.base, at)
		p, _, _ := l.end(at, vec3.Scale(length, d), 1)
		q, _, _ := l.end(at, d, 0)
		l.seen[f] = observation{d: r2.Add(r2.Sub(p, q), r2.Vec{X: sigma * r.NormFloat64(), Y: sigma * r.NormFloat64()}), sigma: math.Max(sigma, 0.3)}
	}
	return l, truth
}

// A line with known turning comes back from its pictures alone: azimuth, elevation
// and length, for both hands; its doubt holds the truth.
func TestALineThatTurns(t *testing.T) {
	for _, hand := range []float64{1, -1} {
		l, truth := whirl(hand, 120, 12, 1.8, 0.5, 1, 300)
		d, err := l.track()
		if err != nil {
			t.Fatal(err)
		}
		if d.From != 0 || d.End() != 300 {
			t.Fatalf("frames %d to %d", d.From, d.End())
		}
		inside, worst := 0, 0.0
		for f := 5; f < 295; f++ {
			off := math.Abs(math.Remainder(d.Az[f]-truth[f], 2*math.Pi))
			worst = math.Max(worst, off)
			if off < 2*d.AzSD[f]+0.01 {
				inside++
			}
			if math.Abs(d.El[f]+0.5*math.Cos(truth[f])) > 0.06 || math.Abs(d.Length[f]-1.8) > 0.06 {
				t.Fatalf("frame %d: elevation %.2f, length %.2f", f, d.El[f], d.Length[f])
			}
			if rate := (d.Az[f+1] - d.Az[f-1]) * 60; math.Abs(rate-12) > 1.5 {
				t.Fatalf("frame %d turns at %.1f rad/s", f, rate)
			}
		}
		if worst > 0.06 || inside < 265 {
			t.Errorf("hand %g: off by up to %.3f rad, %d of 290 within the doubt", hand, worst, inside)
		}
		if turned := d.Az[299] - d.Az[0]; math.Abs(turned-12*299.0/120) > 0.1 {
			t.Errorf("hand %g: turned by %.2f rad", hand, turned)
		}
	}
}

// The slopes of the projection are those of small steps.
func TestProjectionSlopes(t *testing.T) {
	l, _ := whirl(1, 120, 12, 1.8, 0.5, 0, 3)
	base, v := vec3.Vec{X: 0.3, Y: 1.2, Z: 0.4}, vec3.Vec{X: 0.7, Y: -0.3, Z: 1.1}
	for _, k := range []float64{1, 0.5, -0.4} {
		at, jx, jy := l.end(base, v, k)
		for i, step := range []vec3.Vec{{X: 1e-6}, {Y: 1e-6}, {Z: 1e-6}} {
			up, _, _ := l.end(base, vec3.Add(v, step), k)
			wantX, wantY := (up.X-at.X)/1e-6, (up.Y-at.Y)/1e-6
			got := [3][2]float64{{jx.X, jy.X}, {jx.Y, jy.Y}, {jx.Z, jy.Z}}[i]
			if math.Abs(got[0]-wantX) > 1e-2*math.Max(1, math.Abs(wantX)) || math.Abs(got[1]-wantY) > 1e-2*math.Max(1, math.Abs(wantY)) {
				t.Errorf("end %g, part %d: %v, want %.3f %.3f", k, i, got, wantX, wantY)
			}
		}
	}
	az, el := 1.1, -0.4
	d, byAz, byEl := l.direction(az, el)
	da, _, _ := l.direction(az+1e-6, el)
	de, _, _ := l.direction(az, el+1e-6)
	if vec3.Norm(vec3.Sub(vec3.Scale(1e6, vec3.Sub(da, d)), byAz)) > 1e-4 || vec3.Norm(vec3.Sub(vec3.Scale(1e6, vec3.Sub(de, d)), byEl)) > 1e-4 {
		t.Error("the slopes of a direction")
	}
	if a, e := l.angles(d); math.Abs(a-az) > 1e-12 || math.Abs(e-el) > 1e-12 {
		t.Errorf("a direction comes back as %g, %g", a, e)
	}
}

// Gaps and blunders: some hidden frames are bridged and told; one wild look counts
// little; too few looks, and more than half a turn without one, are refused.
func TestGapsAndBlunders(t *testing.T) {
	l, truth := whirl(1, 120, 12, 1.8, 0.5, 1, 300)
	for f := 100; f < 118; f++ {
		l.seen[f].sigma = 0
	}
	l.seen[150].d.X += 200
	d, err := l.track()
	if err != nil {
		t.Fatal(err)
	}
	if want := 12.0 / 120 * 19; math.Abs(d.Gap-want) > 0.3 {
		t.Errorf("the gap is %.2f rad, want %.2f", d.Gap, want)
	}
	if d.Seen[110] || !d.Seen[99] {
		t.Error("what was seen is told wrongly")
	}
	for _, f := range []int{109, 150, 200} {
		if off := math.Abs(math.Remainder(d.Az[f]-truth[f], 2*math.Pi)); off > 0.08 {
			t.Errorf("frame %d is %.3f rad off", f, off)
		}
	}
	if d.AzSD[109] < d.AzSD[200] {
		t.Error("what is hidden is not known less well")
	}
	for f := 100; f < 140; f++ {
		l.seen[f].sigma = 0
	}
	if _, err := l.track(); !errors.Is(err, ErrGap) {
		t.Errorf("a gap of 4 rad: %v", err)
	}
	for f := range l.seen {
		if f > 20 {
			l.seen[f].sigma = 0
		}
	}
	if _, err := l.track(); !errors.Is(err, ErrFewLooks) {
		t.Errorf("20 looks: %v", err)
	}
}

// A base that is off by a step gives the same answer whether begun anew or from the
// answer before.
func TestRedrawAgreesWithDraw(t *testing.T) {
	l, _ := whirl(1, 120, 12, 1.8, 0.5, 1, 240)
	before, err := l.track()
	if err != nil {
		t.Fatal(err)
	}
	for i := range l.base {
		l.base[i].X += 0.1
	}
	anew, err := l.track()
	if err != nil {
		t.Fatal(err)
	}
	on, err := l.retrack(before)
	if err != nil {
		t.Fatal(err)
	}
	for f := range anew.Az {
		if math.Abs(anew.Az[f]-on.Az[f]) > 5e-3 {
			t.Fatalf("frame %d: %.4f and %.4f", f, anew.Az[f], on.Az[f])
		}
	}
}

// Two lines of sight meet where both look; those along each other do not.
func TestMeet(t *testing.T) {
	a := eye()
	b := &camera.Camera{At: vec3.Vec{X: 0.2, Y: 1.5, Z: 12}, Ahead: vec3.Vec{Z: -1}, Right: vec3.Vec{X: 1}, Down: vec3.Vec{Y: -1}, Focal: 2000, Middle: r2.Vec{X: 640, Y: 360}}
	p := vec3.Vec{X: 0.4, Y: 1.1, Z: -0.7}
	ray := func(c *camera.Camera) vec3.Vec { return vec3.Unit(vec3.Sub(p, c.At)) }
	q, miss, ok := meet(a, ray(a), b, ray(b))
	if !ok || miss > 1e-9 || vec3.Norm(vec3.Sub(p, q)) > 1e-9 {
		t.Errorf("they meet at %v, missing by %g", q, miss)
	}
	// A line that passes 5 cm above meets half way.
	off := vec3.Unit(vec3.Sub(vec3.Vec{X: p.X, Y: p.Y + 0.05, Z: p.Z}, b.At))
	if q, miss, ok := meet(a, ray(a), b, off); !ok || math.Abs(miss-0.05) > 0.002 || math.Abs(q.Y-p.Y-0.025) > 0.002 {
		t.Errorf("they meet at %v, missing by %.3f", q, miss)
	}
	if _, _, ok := meet(a, ray(a), a, ray(a)); ok {
		t.Error("one line of sight meets itself")
	}
}

// A release without air and without scatter comes back exactly; drag would be part
// of the doubt.
func TestParabola(t *testing.T) {
	side := &camera.Camera{At: vec3.Vec{Y: 1.4, Z: 11}, Ahead: vec3.Vec{Z: -1}, Right: vec3.Vec{X: 1}, Down: vec3.Vec{Y: -1}, Focal: 1800, Middle: r2.Vec{X: 500, Y: 400}}
	at, v := vec3.Vec{X: 0.6, Y: 1.7, Z: 0.8}, vec3.Vec{X: 17, Y: 13, Z: 0.5}
	free := FreeFlight{Camera: side, Rate: 240, Frames: 60, Near: vec3.Vec{X: 0.6, Z: 0.8}, NearSD: 0.05, Toward: math.Atan2(0.5, 17), Off: 0.1, Flag: 20}
	free.Pixel = func(f int) (r2.Vec, float64, bool) {
		if f < 20 {
			return r2.Vec{X: 520, Y: 380}, 0.5, true // still in the hand
		}
		q, ok := side.Picture(free.where(at, v, (float64(f)-19.5)/240))
		return q, 0.5, ok
	}
	l, err := free.Release()
	if err != nil {
		t.Fatal(err)
	}
	speed, angle := math.Sqrt(17*17+13*13+0.25), deg(math.Atan2(13, math.Hypot(17, 0.5)))
	if math.Abs(l.Speed.Value-speed) > 0.05 || math.Abs(l.Angle.Value-angle) > 0.1 || math.Abs(l.Height.Value-1.7) > 0.005 || math.Abs(l.Along-0.6) > 0.01 {
		t.Errorf("%+v, want %.2f m/s at %.2f degrees", l, speed, angle)
	}
	free.Flag = -1
	if l, err = free.Release(); err != nil || l.Frame < 19 || l.Frame > 22 {
		t.Errorf("found in frame %d, %v", l.Frame, err)
	}
	free.Flag = 58
	if _, err := free.Release(); !errors.Is(err, ErrNoFlight) {
		t.Errorf("two free frames: %v", err)
	}
	still := free
	still.Flag, still.Pixel = -1, func(int) (r2.Vec, float64, bool) { return r2.Vec{X: 520, Y: 380}, 0.5, true }
	if _, err := still.Release(); !errors.Is(err, ErrNoFlight) {
		t.Errorf("an implement at rest: %v", err)
	}
}

// Running means and quantiles.
func TestSmallTools(t *testing.T) {
	v := []float64{0, 0, 3, 0, 0}
	if got := running(v, 1); got[1] != 1 || got[2] != 1 || got[0] != 0 || got[4] != 0 {
		t.Errorf("%v", got)
	}
	if got := quantile([]float64{5, 1, 4, 2, 3}, 0.5); got != 3 {
		t.Errorf("the middle of 1 to 5 is %g", got)
	}
	if got := smooth([]vec3.Vec{{X: 1}, nowhere, {X: 3}}, 1); got[1].X != 2 || !known(got[0]) {
		t.Errorf("%v", got)
	}
	if got := smooth([]vec3.Vec{nowhere, nowhere}, 1); known(got[0]) {
		t.Errorf("nothing smoothed is %v", got)
	}
}

// An implement that is hidden for a while on each round is bridged: the truth lies within what is
// stated there, which is wider than where it is seen, and directions keep their count.
func TestHiddenOnEveryRound(t *testing.T) {
	const rate, turning = 120, 12.0
	inside, all := 0, 0
	for _, sigma := range []float64{0.5, 1, 2} {
		for _, hand := range []float64{1, -1} {
			l, truth := whirl(hand, rate, turning, 1.8, 0.5, sigma, 300)
			var hidden []int
			for f := 40; f < 280; f++ {
				if math.Mod(math.Abs(truth[f]), 2*math.Pi) < 1.6 { // more than a quarter of each round
					l.seen[f].sigma = 0
					hidden = append(hidden, f)
				}
			}
			d, err := l.track()
			if err != nil {
				t.Fatal(err)
			}
			for _, f := range hidden {
				i := f - d.From
				off := math.Abs(math.Remainder(d.Az[i]-truth[f], 2*math.Pi))
				if all++; off < 1.96*d.AzSD[i] {
					inside++
				}
				if off > 0.5 {
					t.Fatalf("hand %g, scatter %g px, frame %d: %.2f rad off", hand, sigma, f, off)
				}
			}
			if d.Gap < 1.4 || d.Gap > 1.9 {
				t.Errorf("the gap is %.2f rad", d.Gap)
			}
			o := &Reconstruction{Ball: d}
			if round, ok := o.Round(); !ok || math.Abs(round-2*math.Pi*rate/turning) > 2 {
				t.Errorf("a round takes %.1f frames, %v; truly %.1f", round, ok, 2*math.Pi*rate/turning)
			}
		}
	}
	if 100*inside < 93*all {
		t.Errorf("%d of %d hidden directions lie within what is stated", inside, all)
	}
	if _, ok := (&Reconstruction{}).Round(); ok {
		t.Error("nothing goes round")
	}
}
