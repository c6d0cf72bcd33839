package move

import "gonum.org/v1/gonum/spatial/r3"

// Props are the things of the venue, in the motion's own frame.
type Props struct {
	Circle      float64 // inner diameter, m; 0 for none
	Sector      float64 // half angle, degrees
	StopBoard   bool
	Cage        bool
	Start       bool     // start line at x = 0
	Blocks      []r3.Vec // toe places on the pedals
	Runway      float64  // width; 0 for none
	Board, Sand float64  // take-off line and edge of the sand, x; 0 for none
	Arc         float64  // x of the javelin arc
	Bar         *Bar
	Mat         *Box
	VaultBox    *r3.Vec
	Lanes       bool
	Cones       []r3.Vec // that a coach has laid out by tape
}

// Bar is a cross bar from one upright to the other.
type Bar struct{ A, B r3.Vec }

// Box is a block that stands on the ground.
type Box struct{ Min, Max r3.Vec }

// Stand is how far away a camera usually stands, m.
func (p Props) Stand() float64 {
	switch {
	case p.VaultBox != nil:
		return 17
	case p.Circle > 0 || p.Mat != nil:
		return 11
	case p.Runway > 0:
		return 13
	}
	return 9
}

// Marks are known points on the ground of the venue.
func (p Props) Marks() map[string]r3.Vec {
	out := map[string]r3.Vec{}
	switch {
	case p.Circle > 0:
		r := p.Circle / 2
		out["circle_back"], out["circle_front"] = r3.Vec{X: -r}, r3.Vec{X: r}
		out["circle_left"], out["circle_right"] = r3.Vec{Z: -r}, r3.Vec{Z: r}
		out["divider_left"], out["divider_right"] = r3.Vec{Z: -r - 0.85}, r3.Vec{Z: r + 0.85}
	case p.Board > 0:
		out["board_left"], out["board_right"] = r3.Vec{X: p.Board, Z: -0.61}, r3.Vec{X: p.Board, Z: 0.61}
		out["board_back_left"], out["board_back_right"] = r3.Vec{X: p.Board - 0.2, Z: -0.61}, r3.Vec{X: p.Board - 0.2, Z: 0.61}
	case p.Start:
		out["line_left"], out["line_right"] = r3.Vec{Z: -0.61}, r3.Vec{Z: 0.61}
	}
	if p.Bar != nil {
		out["bar_left"], out["bar_right"] = p.Bar.A, p.Bar.B
	}
	return out
}
