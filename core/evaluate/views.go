package evaluate

import (
	"fmt"
	"math"

	"neokinema/core/angles"
	"neokinema/core/signal"
	"neokinema/core/sport"
)

// The coach says from where a clip is filmed, and all that is read hangs on it: so it is held
// against what the picture shows. Who crosses it is seen from a side; of who runs along his way the
// shoulders tell it, which are wide from behind and narrow from the side; of a throw the marks of the
// circle.

// How wide shoulders show, in lengths of the trunk, and what else tells a view. Assumed; shaped on
// the lots that are there to build on.
const (
	wideShoulders   = 0.62
	narrowShoulders = 0.36
	leastUpright    = 0.3 // s of frames in which somebody stands or runs upright
	mostOff         = 55  // degrees by which a camera stands off the view that is said
	crossing        = 3   // standing heights that nobody goes sideways who runs along the sight
)

// checkView tells what the picture says against the view that is said, if it does.
func (e *Evaluation) checkView() {
	said := e.Input.Clip.View
	if said == "" || !e.usable() {
		return
	}
	if (said == "back" || said == "front") && sport.Of(e.Model.ID).Circle == 0 && e.crosses() > crossing*e.cache.tall {
		e.otherView("the athlete crosses the picture from side to side", said)
		return
	}
	if e.faces() || said != "side" && sport.Of(e.Model.ID).Implement == nil && !sport.Of(e.Model.ID).Curved {
		wide, ok := e.shouldersShow()
		switch {
		case !ok:
		case said == "side" && wide > wideShoulders:
			e.otherView("the shoulders show as wide as from behind or in front", said)
		case (said == "back" || said == "front") && wide < narrowShoulders:
			e.otherView("the shoulders show as narrow as from the side", said)
		}
	}
}

// checkThrowView does so by where the camera stands, once the circle is marked with its way out.
func (e *Evaluation) checkThrowView() {
	said, known := map[string]float64{"back": 0, "side": 90, "front": 180}[e.Input.Clip.View]
	if e.throw == nil || e.camera == nil || !known {
		return
	}
	seen := angles.Deg(math.Atan2(math.Abs(e.camera.Ahead.Z), e.camera.Ahead.X)) // off the throw, seen from above
	if math.Abs(seen-said) > mostOff {
		e.otherView(fmt.Sprintf("the marks of the circle say that the camera looks %.0f degrees off the throw", seen), e.Input.Clip.View)
	}
}

func (e *Evaluation) otherView(why, said string) {
	e.report.Problems = append(e.report.Problems, fmt.Sprintf("%s, and the clip's card says that it is filmed from the %s: check the view, or which clip is which", why, said))
}

// crosses is how far the hips go sideways, px.
func (e *Evaluation) crosses() float64 {
	lo, hi := math.Inf(1), math.Inf(-1)
	for f := range e.Clock.Len() {
		if p, ok := e.Movement.Where("mid_hip", f); ok {
			lo, hi = math.Min(lo, p.X), math.Max(hi, p.X)
		}
	}
	return math.Max(0, hi-lo)
}

// shouldersShow is how far the shoulders are apart in the middle of the upright frames, in
// lengths of the trunk.
func (e *Evaluation) shouldersShow() (float64, bool) {
	var all []float64
	for f := range e.Clock.Len() {
		if !e.upright(f) {
			continue
		}
		l, okL := e.Movement.Where("left_shoulder", f)
		r, okR := e.Movement.Where("right_shoulder", f)
		neck, okN := e.Movement.Where("mid_shoulder", f)
		hip, okH := e.Movement.Where("mid_hip", f)
		if okL && okR && okN && okH && neck.Y > hip.Y {
			all = append(all, math.Abs(l.X-r.X)/math.Hypot(neck.X-hip.X, neck.Y-hip.Y))
		}
	}
	if float64(len(all)) < leastUpright*e.Rate {
		return 0, false
	}
	return signal.Median(all), true
}
