package pose

import "math"

// Who passes somebody in the same clothes is easily taken for him: one hides the other, and
// afterwards the wrong one is followed. So where he was going is kept from the last sure look
// on, and when the one who is followed goes elsewhere, somebody is looked for there.
type passing struct {
	from, last int    // frames: the first doubtful look and the latest one
	at, per    Region // where he should be at the first, and his way in a frame; px of the original
	worn       worn   // what he wore then
}

// passed is how many looks after the last doubtful one he may still turn up, and slower the
// share of his way by which he may have slowed down meanwhile. Assumed.
const (
	passed = 10
	slower = 0.25
)

// doubt notes that a look was not sure. Between looks nobody is lost.
func (d *Draft) doubt(frame int) {
	at, ok := d.going(frame)
	next, ok2 := d.going(frame + 1)
	switch {
	case !ok || !ok2 || d.looks < wornLooks:
	case d.passing != nil:
		d.passing.last = frame
	default:
		d.passing = &passing{frame, frame, at, Region{X: next.X - at.X, Y: next.Y - at.Y}, d.worn}
	}
}

// wentOn looks for somebody where the athlete should be by now, when the one who was found,
// px of the picture, is not there and the looks before were doubtful. Who is there, in the
// athlete's clothes, is the athlete, and what was found meanwhile is given up.
func (d *Draft) wentOn(frame int, l looker, body Body, seen Region) (Body, Region, error) {
	w, k := d.passing, d.clip.Scale
	if w == nil {
		return nil, seen, nil
	}
	if abs(frame-w.last) > passed*d.clip.coarse() {
		d.passing = nil
		return nil, seen, nil
	}
	n := float64(frame - w.from)
	there := Region{k * (w.at.X + n*w.per.X), k * (w.at.Y + n*w.per.Y), alone * seen.Side}
	apart := func(b Body) float64 { return math.Hypot(hips(b).X-there.X, hips(b).Y-there.Y) / seen.Side }
	if apart(body) < mayStray {
		return nil, seen, nil
	}
	other, at, err := l.find(&there)
	stray := mayStray + slower*math.Abs(n)*k*math.Hypot(w.per.X, w.per.Y)/seen.Side
	if err != nil || other == nil || apart(other) > stray || math.Hypot(hips(other).X-hips(body).X, hips(other).Y-hips(body).Y) < mayStray*seen.Side {
		return nil, seen, err
	}
	if clothes, ok := l.picture.clothes(other); !ok || w.worn.unlike(clothes) > clearlyWorn*otherWorn {
		return nil, seen, nil
	}
	for f := range d.hips {
		if (f >= w.from) == (frame >= w.from) && abs(f-w.from) <= abs(frame-w.from) {
			delete(d.hips, f)
			delete(d.regions, f)
			delete(d.found, f)
			d.taken = append(d.taken, f)
		}
	}
	d.worn, d.passing = w.worn, nil
	return other, at, nil
}
