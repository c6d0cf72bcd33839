package videoanalysis

import (
	"context"
	"math"
	"slices"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/sport"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/core/vision"
	"neokinema/internal/media"
	"neokinema/internal/store"
)

// CircleSeen is a throwing circle that the picture shows, as marks that a coach may take.
type CircleSeen struct {
	Marks   *ground.ControlPoints `json:"marks,omitempty" required:"false" doc:"nothing when no circle is seen"`
	Outline [][2]float64          `json:"outline,omitempty" required:"false" doc:"the rim, px of the upright picture"`
	Frame   int                   `json:"frame" doc:"in which it lies there"`
	Shown   float64               `json:"shown" doc:"share of the rim that is seen"`
	Lines   bool                  `json:"lines" doc:"the dividing lines are seen, too; else the camera is taken to stand square"`
}

const (
	ringLooks  = 9    // pictures from which the ground without people is pieced together
	ringWidth  = 90.0 // half width of the circle in the picture that is looked at, px
	rimPlaces  = 8
	rimOutline = 48
	usualAway  = 15.0 // m from the camera to the middle of the circle
)

// Circle looks for the throwing circle in a clip whose athlete is drafted.
func (s *Service) Circle(ctx context.Context, team, id uuid.UUID) (CircleSeen, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return CircleSeen{}, err
	}
	a, err := s.store.Attempt(ctx, team, c.AttemptID)
	if err != nil {
		return CircleSeen{}, err
	}
	who, err := s.store.Athlete(ctx, team, a.AthleteID)
	if err != nil {
		return CircleSeen{}, err
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return CircleSeen{}, err
	}
	defer leave()
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return CircleSeen{}, err
	}
	return Circle(c, sport.Of(a.Event), who.Body(), tracks, c.Camera, func(from, to int, share float64, each func(media.Picture) error) error {
		return s.intake.Grays(ctx, c, from, to, share, each)
	})
}

// pixelMiddle is where the level of a pixel holds, in pixels from its corner.
var pixelMiddle = r2.Vec{X: 0.5, Y: 0.5}

// Circle looks for the throwing circle of an event about the feet of a drafted athlete.
func Circle(c store.Clip, event sport.Event, who body.Person, tracks map[string]*track.Track, cam *stabilize.Rotations, grays Grays) (out CircleSeen, err error) {
	t, radius, ok := ground.CircleFor(event.Circle)
	n := len(c.Stamps)
	if !ok || n == 0 || !cam.Usable() {
		return out, nil
	}
	m := kinematics.New(tracks, kinematics.Film{Rate: max(1, c.FileRate), View: angles.View{Direction: 1}, Camera: cam}, nil)
	tall := standing(m)
	if who.Height <= 0 {
		who.Height = usualHeight
	}
	// The feet, in the picture of the first frame.
	var xs, ys []float64
	for f := range n {
		for _, id := range []string{"left_ankle", "right_ankle"} {
			if p, ok := m.Where(id, f); ok {
				q := cam.ToImage(0, m.View.Picture(p))
				xs, ys = append(xs, q.X), append(ys, q.Y)
			}
		}
	}
	if tall == 0 || len(xs) == 0 {
		return out, nil
	}
	slices.Sort(xs)
	slices.Sort(ys)
	half := radius * tall / who.Height
	k := math.Min(c.ProxyScale, ringWidth/half) // of the picture that is looked at
	g, err := empty(c, cam, k, grays)
	if err != nil {
		return out, err
	}
	ring, ok := vision.FindRing(g, vision.RingGuess{About: r2.Scale(k, r2.Vec{X: xs[len(xs)/2], Y: ys[3*len(ys)/4]}), A: k * half})
	if !ok {
		return out, nil
	}
	full := func(p r2.Vec) r2.Vec { return r2.Scale(1/k, r2.Add(p, pixelMiddle)) }
	at := func(angle float64) r2.Vec { return full(ring.On(angle)) }
	dividing, throw := ring.Diameters(radius / usualAway)
	if out.Lines = len(ring.Lines) == 2; !out.Lines && c.View == "side" {
		dividing, throw = throw, dividing
	}
	for _, d := range []*ground.Diameter{&dividing, &throw} {
		d[0], d[1] = full(d[0]), full(d[1])
	}
	var rim []r2.Vec
	for i := range rimPlaces {
		rim = append(rim, at(2*math.Pi*(float64(i)+0.5)/rimPlaces))
	}
	marks, ok := ground.MarksOfCircle(t, radius, 0, dividing, throw, rim, c.View, c.Direction)
	if !ok {
		return out, nil
	}
	for i := range rimOutline + 1 {
		p := at(2 * math.Pi * float64(i) / rimOutline)
		out.Outline = append(out.Outline, [2]float64{p.X, p.Y})
	}
	out.Marks, out.Shown = &marks, ring.Shown
	return out, nil
}

// empty is the ground of a clip as its first frame shows it, k times as large as the upright
// original, without what moves: the middle of some frames.
func empty(c store.Clip, cam *stabilize.Rotations, k float64, grays Grays) (vision.Gray, error) {
	n := len(c.Stamps)
	var looks []vision.Gray
	var frames []int
	for i := range min(ringLooks, n) {
		f := i * (n - 1) / max(1, min(ringLooks, n)-1)
		if err := grays(f, f, k/c.ProxyScale, func(p media.Picture) error {
			looks, frames = append(looks, vision.FromBytes(p.Width, p.Height, p.Pix)), append(frames, f)
			return nil
		}); err != nil {
			return vision.Gray{}, err
		}
	}
	if len(looks) == 0 {
		return vision.Gray{}, nil
	}
	w, h := looks[0].W, looks[0].H
	out := vision.Gray{W: w, H: h, Pix: make([]float32, w*h)}
	levels := make([]float64, 0, len(looks))
	for y := range h {
		for x := range w {
			levels = levels[:0]
			for i, g := range looks {
				p := r2.Vec{X: float64(x), Y: float64(y)}
				if !cam.Still() {
					p = r2.Sub(r2.Scale(k, cam.ToImage(frames[i], cam.ToReference(0, r2.Scale(1/k, r2.Add(p, pixelMiddle))))), pixelMiddle)
				}
				if p.X >= 0 && p.Y >= 0 && p.X <= float64(w-1) && p.Y <= float64(h-1) {
					levels = append(levels, g.At(p.X, p.Y))
				}
			}
			if len(levels) > 0 {
				slices.Sort(levels)
				out.Pix[y*w+x] = float32(levels[len(levels)/2])
			}
		}
	}
	return out, nil
}
