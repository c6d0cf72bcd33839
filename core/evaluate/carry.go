package evaluate

import (
	"fmt"
	"math"
)

// How much of a clip's pictures a reading needs. Assumed, of the size that the hard set
// shows.
const (
	timesGap    = 3   // pictures that a contact must last for its time to be judged
	slowPicture = 100 // pictures a second below which times are coarse
	fewPixels   = 120 // standing height, px, below which joints are coarse
	fewerPixels = 60  // and below which feet cannot be told
	limbShare   = 0.24
	draftSlip   = 0.012 // of the standing height: a draft's joint, one standard deviation
	pixelSlip   = 1.0   // px
	atEdge      = 0.12  // standing heights from the edge of the picture at which somebody leaves it
	awayShare   = 0.08  // of the clip that he must be away to be told
	cropped     = 0.15  // of the frames in which head or feet are beyond the edge
	edgePixels  = 2.0
)

// carry says what the pictures allow to be read, and what not.
func (e *Evaluation) carry() {
	c := &e.report.Carries
	can := func(format string, args ...any) { c.Can = append(c.Can, fmt.Sprintf(format, args...)) }
	cannot := func(format string, args ...any) { c.Cannot = append(c.Cannot, fmt.Sprintf(format, args...)) }
	can("key positions by their frames, and what is seen at them by eye")
	if e.Clock.Known() && e.Clock.Len() > 1 {
		pictures := e.shown()
		gap := 1000 / pictures
		if pictures < slowPicture {
			cannot("contact times shorter than %.0f ms: %.0f pictures a second tell a touchdown to %.0f ms at best", timesGap*gap, pictures, gap)
		} else {
			can("contact and flight times to about %.0f ms", math.Max(2, 2*gap))
		}
	} else if e.stills {
		cannot("times, and ways from one position to another: these are stills")
	} else if !e.Clock.Known() {
		cannot("times, before the camera’s rate is known")
	}
	tall := e.StandingHeight()
	if tall == 0 {
		return
	}
	e.leaves(cannot)
	// Two ends of a limb scatter alike.
	off := math.Hypot(pixelSlip, draftSlip*tall)
	joint := 2 * 180 / math.Pi * math.Sqrt2 * off / (limbShare * tall) * math.Sqrt2
	lean := 2 * 180 / math.Pi * math.Sqrt2 * off / (2 * limbShare * tall)
	switch {
	case tall < fewerPixels:
		cannot("joint angles and feet: the athlete is %.0f px tall", tall)
	case tall < fewPixels:
		can("leans to about %.0f°", math.Ceil(lean))
		cannot("knee and elbow angles finer than %.0f°: the athlete is %.0f px tall", math.Ceil(joint), tall)
	default:
		can("leans to about %.0f°, knees and elbows to about %.0f°, as long as sides are right", math.Ceil(lean), math.Ceil(joint))
	}
	if v := e.Input.Clip.View; v == "oblique" {
		cannot("leans and lengths along the run as they are: the camera looks across it")
	}
	if cam := e.Input.Camera; cam != nil {
		for _, n := range cam.Notes {
			cannot("%s", n)
		}
	}
}

// leaves says when the athlete is not in the picture, and whether head or feet are out of it.
func (e *Evaluation) leaves(cannot func(string, ...any)) {
	wide, high := float64(e.Input.Clip.Width), float64(e.Input.Clip.Height)
	first, last := -1, -1
	var feet, head, seen int
	for f := range e.Clock.Len() {
		p, ok := e.Input.Points.At("left_hip", f)
		q, okQ := e.Input.Points.At("right_hip", f)
		if !ok && !okQ || !e.Input.Clip.Pictures.Own(f) {
			continue
		}
		if !ok || okQ && q.Confidence > p.Confidence {
			p = q
		}
		if p.X < 0 || p.X > wide {
			continue
		}
		if last = f; first < 0 {
			first = f
		}
		seen++
		beyond := func(part string, out func(y float64) bool) int {
			for _, side := range []string{"left_", "right_"} {
				if p, ok := e.Input.Points.At(side+part, f); ok && out(p.Y) {
					return 1
				}
			}
			return 0
		}
		feet += beyond("toe", func(y float64) bool { return y > high-edgePixels })
		head += beyond("ear", func(y float64) bool { return y < edgePixels })
	}
	if seen == 0 || wide == 0 {
		return
	}
	near := func(f int) bool {
		for _, id := range []string{"left_hip", "right_hip"} {
			if p, ok := e.Input.Points.At(id, f); ok && math.Min(p.X, wide-p.X) < atEdge*e.StandingHeight() {
				return true
			}
		}
		return false
	}
	away := int(awayShare * float64(e.Clock.Len()))
	if first > away && near(first) {
		cannot("what comes before frame %d: the athlete is not in the picture yet", first)
	}
	if e.Clock.Len()-1-last > away && near(last) {
		cannot("what comes after frame %d: the athlete has left the picture", last)
	}
	if float64(feet) > cropped*float64(seen) {
		cannot("feet and contacts in %d %% of the frames: they are below the edge of the picture", 100*feet/seen)
	}
	if float64(head) > cropped*float64(seen) {
		cannot("the head in %d %% of the frames: it is above the edge of the picture", 100*head/seen)
	}
}
