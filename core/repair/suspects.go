package repair

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/signal"
	"neokinema/core/track"
)

// Suspect is a point that the coach should look at.
type Suspect struct {
	Frame    int     `json:"frame"`
	Landmark string  `json:"landmark"`
	Reason   string  `json:"reason"`
	Size     float64 `json:"size" doc:"how far off, in standing heights; 0 when only the model was unsure"`
}

// Limits of what is doubtful. Assumed; shaped on simulated clips.
const (
	unsure     = 0.35  // confidence below which a computed point is looked at
	jumps      = 0.035 // standing heights off the smooth path of its neighbours
	limbShort  = 0.55  // of the limb's usual length: an end slipped along it
	limbLong   = 1.18  // limbs do not grow
	limbSpread = 0.03  // standing heights that a limb may differ at all
	aboutTime  = 0.034 // s about a frame in which its neighbours tell where a point should be
	aboutMost  = 4     // of them on each side
	swings     = 36.0  // standing heights/s²: so hard a limb turns within that time
)

// bones are the limbs whose length is looked at.
var bones = [][2]string{{"hip", "knee"}, {"knee", "ankle"}, {"shoulder", "elbow"}, {"elbow", "wrist"}, {"ankle", "toe"}, {"heel", "toe"}}

// Suspects lists computed points that jump off the path of their neighbours, make a
// limb too long, or that the model was unsure of; by frame. Points set by hand
// are believed.
func Suspects(m model.Model, in evaluate.Input, old *evaluate.Cache) []Suspect {
	e := evaluate.Begin(m, in, old)
	tall := e.StandingHeight()
	if tall == 0 {
		tall = float64(in.Clip.Height) / 2
	}
	near := min(aboutMost, max(1, int(math.Round(aboutTime*e.Rate))))
	apart := 1 / in.Clip.Pictures.Rate(e.Rate)
	mayJump := jumps + swings*apart*apart
	out := []Suspect{}
	seen := map[string]map[int]bool{}
	add := func(d Suspect) {
		t := in.Points[d.Landmark]
		if t.SourceAt(d.Frame) == track.Hand || t.SourceAt(d.Frame) == track.None || seen[d.Landmark][d.Frame] {
			return
		}
		if seen[d.Landmark] == nil {
			seen[d.Landmark] = map[int]bool{}
		}
		seen[d.Landmark][d.Frame] = true
		out = append(out, d)
	}
	for _, id := range append(body.Landmarks(), body.Things...) {
		p := e.Movement.Paths[id]
		if p == nil {
			continue
		}
		for f := p.From; f < p.End(); f++ {
			raw, ok := p.Seen(f)
			if !ok {
				continue
			}
			if off := r2.Norm(r2.Sub(raw, around(p, f, near))); off > math.Max(mayJump*tall, 5*p.Noise) {
				add(Suspect{f, id, "jumps off its path", off / tall})
			}
			if q, _ := in.Points.At(id, f); q.Confidence < unsure {
				add(Suspect{f, id, "the model was unsure", 0})
			}
		}
	}
	for _, s := range []body.Side{body.Left, body.Right} {
		for _, b := range bones {
			from, to := string(s)+"_"+b[0], string(s)+"_"+b[1]
			usual := e.Movement.Length(from, to)
			if usual == 0 {
				continue
			}
			pa, pb := e.Movement.Paths[from], e.Movement.Paths[to]
			for f := max(pa.From, pb.From); f < min(pa.End(), pb.End()); f++ {
				x, ok1 := pa.Seen(f)
				y, ok2 := pb.Seen(f)
				if !ok1 || !ok2 {
					continue
				}
				if long := r2.Norm(r2.Sub(x, y)); long > limbLong*usual && long-usual > limbSpread*tall {
					// The end that jumps more is the wrong one.
					id := to
					if r2.Norm(r2.Sub(x, around(pa, f, near))) > r2.Norm(r2.Sub(y, around(pb, f, near))) {
						id = from
					}
					add(Suspect{f, id, "makes the " + b[0] + "–" + b[1] + " too long", (long - usual) / tall})
				}
			}
		}
	}
	sortSuspects(out)
	return out
}

// around is where up to so many neighbours on each side of a frame put a point: the median
// of what they say, each by its own side's line, so that one wrong neighbour does not count.
func around(p *kinematics.Path, frame, near int) r2.Vec {
	var xs, ys []float64
	for d := 1; d <= near; d++ {
		a, okA := p.Seen(frame - d)
		b, okB := p.Seen(frame + d)
		if okA && okB {
			xs, ys = append(xs, (a.X+b.X)/2), append(ys, (a.Y+b.Y)/2)
		}
	}
	if len(xs) == 0 {
		q, _ := p.Seen(frame)
		return q
	}
	return r2.Vec{X: signal.Median(xs), Y: signal.Median(ys)}
}
