package figures

import (
	"fmt"
	"math"
	"os"
	"strings"

	"neokinema/core/evaluate"
	"neokinema/core/orbit"
	"neokinema/internal/videoanalysis"
	"neokinema/simcam/points"
)

// nearBall is how far a place of the implement may be off, px.
const nearBall = 5.0

// scoreBall holds the implement of a throw against its true places, from the first picture
// in which it is told to the release, and at least over the turns: near enough, or bridged
// between places that are.
func (x *hardClip) scoreBall(out *hardness) {
	if _, ok := videoanalysis.SwungBy(x.model.ID, x.input.Athlete); !ok {
		return
	}
	t := x.film.Truth
	ball := x.input.Points["ball"]
	from, to := x.placed["zero1"], x.placed["release"]
	var mine share
	off := func(f int) float64 {
		l, ok := t.Frames[f].Implement["centre"]
		p, seen := ball.At(f)
		if ball == nil || !ok || !seen {
			return math.Inf(1)
		}
		return math.Hypot(p.X-l.Image[0], p.Y-l.Image[1])
	}
	seen := func(f int) bool { return ball != nil && ball.SourceAt(f).String() == "tracked" && off(f) <= nearBall }
	line := ""
	for f := from; f < min(to, len(t.Frames)); f++ {
		bridged := false
		if ball != nil && ball.SourceAt(f).String() == "filled" {
			a, b := f, f
			for a > 0 && ball.SourceAt(a).String() == "filled" {
				a--
			}
			for b < len(t.Frames)-1 && ball.SourceAt(b).String() == "filled" {
				b++
			}
			bridged = b-a-1 <= orbit.Bridge(x.film.Rate) && seen(a) && seen(b)
		}
		mine.add(seen(f) || bridged)
		switch {
		case seen(f):
			line += "+"
		case bridged:
			line += "="
		case math.IsInf(off(f), 1):
			line += "."
		default:
			line += "x"
		}
	}
	out.ball.join(mine)
	if os.Getenv("NEO_TELL") != "" {
		fmt.Fprintf(os.Stderr, "    %s ball %.0f %% %s frames %d to %d\n", x.film.Name, mine.percent(), line, from, to)
	}
}

// circleScatter is how well a coach marks the circle in a small picture, px.
const circleScatter = 1.5

// scoreTurns counts the turns of a throw whose circle is marked by hand: right, or withheld.
func (x *hardClip) scoreTurns(out *hardness) {
	if _, ok := videoanalysis.SwungBy(x.model.ID, x.input.Athlete); !ok {
		return
	}
	in := x.input
	in.Ground = points.Circle(x.film.Truth, circleScatter, x.film.Spec.Seed)
	got := evaluate.Attempt(x.model, in)
	turns := 0
	if got.Throw != nil {
		turns = len(got.Throw.Turns) + len(got.Throw.Unseen)
	}
	truly := 0
	for id := range x.placed {
		if strings.HasPrefix(id, "catch") {
			truly++
		}
	}
	out.turns.add(turns == 0 || turns == truly)
	if os.Getenv("NEO_TELL") != "" {
		fmt.Fprintf(os.Stderr, "    %s turns %d, truly %d\n", x.film.Name, turns, truly)
	}
}
