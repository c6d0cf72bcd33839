package figures

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"time"

	"neokinema/core/audiosync"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/throw"
	"neokinema/internal/media"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// depth is what throws read in depth are off on the simulated athlete.
type depth struct {
	ball, body, speed, steps, stepAz    float64 // one view from the back
	ball2, body2, speed2, sync          float64 // two views
	releaseSpeed, releaseAngle, covered float64
	poorBall, poorBody, poorSpeed       float64
}

// thrown is a film of a throw.
func thrown(event string, hand body.Side, rate float64, place string) simcam.Spec {
	return simcam.Spec{Event: event, Hand: hand, Direction: 1, Camera: simcam.Camera{Place: place}, CaptureRate: rate, FileRate: 30, Width: 1280, Height: 720,
		Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}}
}

// throwInDepth films throws of both hands at 120 and 240 pictures a second and
// reads them back; it prints a line for each.
func (l *Lab) throwInDepth() (depth, error) {
	if l.deep != nil {
		return *l.deep, nil
	}
	var out depth
	var ball, bodies, speed, steps, stepAz, ball2, body2, speed2, sync, releases, angles, poorBall, poorBody, poorSpeed []float64
	inside, all := 0, 0
	fmt.Fprintf(os.Stderr, "  %-7s %-5s %4s %-6s %7s %7s %7s %8s %9s\n", "throw", "hand", "rate", "view", "ball °", "body °", "speed %", "in 1 fr.", "lift ±°")
	for _, event := range []string{"hammer", "weight", "discus"} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			for _, rate := range []float64{120, 240} {
				row := func(view string, o *throw.Reconstruction, s points.Thrown) (b, h, v, f, d []float64, in int) {
					b, in = s.Azimuths(o, "ball")
					for _, who := range []string{"hips", "chest"} {
						e, i := s.Azimuths(o, who)
						h, in = append(h, e...), in+i
					}
					v = s.Speeds(o)
					if event != "discus" {
						f, d = s.Steps(o)
					}
					fmt.Fprintf(os.Stderr, "  %-7s %-5s %4.0f %-6s %7.1f %7.1f %7.1f %7.0f%% %9.1f\n", event, hand, rate, view, middle(b), middle(h), middle(v), 100*within(f, 1), middle(d))
					return
				}
				one, err := points.Throw(thrown(event, hand, rate, "back"), points.Careful)
				if err != nil {
					return out, err
				}
				b, h, v, f, d, in := row("back", throw.New(one.Clip), one)
				ball, bodies, speed = append(ball, b...), append(bodies, h...), append(speed, v...)
				steps, stepAz = append(steps, f...), append(stepAz, d...)
				inside, all = inside+in, all+len(b)+len(h)
				poor, err := points.Throw(thrown(event, hand, rate, "back"), points.Poor)
				if err != nil {
					return out, err
				}
				b, h, v, _, _, _ = row("poor", throw.New(poor.Clip), poor)
				poorBall, poorBody, poorSpeed = append(poorBall, b...), append(poorBody, h...), append(poorSpeed, v...)

				const late = 0.1037
				pair, first, err := points.Twice(thrown(event, hand, rate, "back"), "back", "side", late, points.Careful)
				if err != nil {
					return out, err
				}
				both, err := pair.New()
				if err != nil {
					return out, fmt.Errorf("%s, two views: %w", event, err)
				}
				b, h, v, _, _, _ = row("both", both.Orbit, first)
				ball2, body2, speed2 = append(ball2, b...), append(body2, h...), append(speed2, v...)
				sync = append(sync, math.Abs(both.Offset+late)*rate)

				side, err := points.Throw(thrown(event, hand, rate, "side"), points.Careful)
				if err != nil {
					return out, err
				}
				leaving, err := side.Clip.FindRelease(throw.New(side.Clip))
				if err != nil {
					fmt.Fprintf(os.Stderr, "  %-7s %-5s %4.0f release: %v\n", event, hand, rate, err)
					continue
				}
				releases = append(releases, 100*math.Abs(leaving.Speed.Value/side.Truth.Release.Speed-1))
				angles = append(angles, math.Abs(leaving.Angle.Value-side.Truth.Release.Angle))
			}
		}
	}
	out = depth{
		ball: middle(ball), body: middle(bodies), speed: middle(speed), steps: 100 * within(steps, 1), stepAz: middle(stepAz),
		ball2: middle(ball2), body2: middle(body2), speed2: middle(speed2), sync: middle(sync),
		releaseSpeed: middle(releases), releaseAngle: middle(angles), covered: 100 * float64(inside) / float64(all),
		poorBall: middle(poorBall), poorBody: middle(poorBody), poorSpeed: middle(poorSpeed),
	}
	l.deep = &out
	return out, nil
}

func within(v []float64, limit float64) float64 {
	n := 0.0
	for _, x := range v {
		if x <= limit {
			n++
		}
	}
	return n / math.Max(1, float64(len(v)))
}

// ThrowTime is how long the core takes for a four-turn throw of some 600 frames,
// all that an attempt tells, ms, and how much it allocates.
func ThrowTime() (ms, mb float64, err error) {
	s := thrown("hammer", body.Right, 120, "back")
	s.Turns = 4
	t, err := points.Throw(s, points.Careful)
	if err != nil {
		return 0, 0, err
	}
	m, in, err := t.Whole()
	if err != nil {
		return 0, 0, err
	}
	var took, spent []float64
	for range 7 {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		start := time.Now()
		if r := evaluate.Attempt(m, in); r.Throw == nil || len(r.Throw.Turns) != 4 {
			return 0, 0, fmt.Errorf("four turns were not read: %+v", r.Throw)
		}
		took = append(took, float64(time.Since(start).Microseconds())/1000)
		runtime.ReadMemStats(&after)
		spent = append(spent, float64(after.TotalAlloc-before.TotalAlloc)/1e6)
	}
	fmt.Fprintf(os.Stderr, "  %d frames\n", len(t.Truth.Frames))
	return middle(took), middle(spent), nil
}

// discs is what the attitude of simulated discs is off.
type discs struct{ pitch, wobble float64 }

// disc films discs that lie and wobble in several ways from the side, both hands, with
// room for the flight, and reads them back.
func (l *Lab) disc() (discs, error) {
	if l.discs != nil {
		return *l.discs, nil
	}
	var pitch, wobble []float64
	for _, hand := range []body.Side{body.Right, body.Left} {
		for _, rate := range []float64{120, 240} {
			for _, by := range []float64{0, 4, 8, 12} {
				s := thrown("discus", hand, rate, "side")
				s.Camera.Distance, s.Camera.Zoom, s.Faults = 14, 0.6, map[string]float64{"wobble": by}
				t, err := points.Throw(s, points.Careful)
				if err != nil {
					return discs{}, err
				}
				a, err := t.Clip.Attitude(t.Clip.ReleaseFrame)
				if err != nil {
					return discs{}, err
				}
				truth := t.Truth.Release
				// The disc leaves at one end of its wobble.
				pitch = append(pitch, math.Abs(a.Tilt.Value-(truth.Angle+truth.Attack-by)))
				if a.Wobble == nil {
					return discs{}, fmt.Errorf("no wobble is read of %d frames at %g/s", a.Frames, rate)
				}
				fmt.Fprintf(os.Stderr, "  disc %-5s %3.0f/s: pitch %.1f ±%.1f, wobble %.1f ±%.1f, truth %g, %d frames\n", hand, rate, a.Tilt.Value, a.Tilt.Half95, a.Wobble.Value, a.Wobble.Half95, by, a.Frames)
				wobble = append(wobble, math.Abs(a.Wobble.Value-by))
			}
		}
	}
	l.discs = &discs{middle(pitch), middle(wobble)}
	return *l.discs, nil
}

// SoundError is by how much two cameras' clips are brought together wrongly by their
// sound alone, frames at 240/s: the middle of simulated throws, the sound compressed as
// a phone does, its way to each camera taken off.
func SoundError() (float64, error) {
	dir, err := os.MkdirTemp("", "sound-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	var off []float64
	for i, event := range []string{"hammer", "weight", "discus", "shot"} {
		for k, late := range []float64{0.1037, 0.3502} {
			var heard [2][]float64
			var far [2]float64
			for c, place := range []string{"back", "side"} {
				s := thrown(event, body.Right, 240, place)
				s.Camera.Sound, s.Seed, s.Camera.Distance = true, uint64(10*i+2*k+c+1), 9+6*float64(c)
				if c == 1 {
					s.Camera.Late, s.CaptureRate = late, 120
				}
				sc, err := simcam.New(s)
				if err != nil {
					return 0, err
				}
				raw, packed := filepath.Join(dir, "sound.wav"), filepath.Join(dir, "sound.mp4")
				if err := os.WriteFile(raw, sc.Sound(), 0o600); err != nil {
					return 0, err
				}
				if err := media.Remake(context.Background(), raw, packed, "-c:a", "aac", "-b:a", "64k"); err != nil {
					return 0, err
				}
				sound, err := media.Listen(context.Background(), packed, 8000)
				if err != nil {
					return 0, err
				}
				heard[c] = audiosync.Listen(sound.Samples, sound.Rate, sound.First).Onsets(s.CaptureRate / s.FileRate)
				far[c] = s.Camera.Distance / 343
			}
			lag, err := audiosync.Lag(heard[0], heard[1])
			if err != nil {
				return 0, fmt.Errorf("%s: %w", event, err)
			}
			off = append(off, math.Abs(lag-(far[1]-far[0])+late)*240)
		}
	}
	fmt.Fprintf(os.Stderr, "  by sound, frames at 240/s: %.2f\n", off)
	return middle(off), nil
}
