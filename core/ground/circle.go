package ground

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// CircleFor is the template of a throwing circle by its diameter, m; false when there is none.
func CircleFor(diameter float64) (t Template, radius float64, ok bool) {
	for _, t := range Templates() {
		if t.ID == "shot-circle" || t.ID == "discus-circle" {
			if r := math.Abs(t.Places[0].Right); math.Abs(2*r-diameter) < 0.01 {
				return t, r, true
			}
		}
	}
	return t, 0, false
}

// Diameter is a diameter of a circle in the picture, by its ends.
type Diameter = [2]r2.Vec

// MarksOfCircle are the marks of a circle that was seen in a frame: the diameter of the
// dividing lines, the one along the throw, and places of the rim. Which end is which follows
// from the view and, from the side, from the direction in the picture in which the throw goes
// (1 to the right, -1 to the left). False in a view from which that does not follow.
func MarksOfCircle(t Template, radius float64, frame int, dividing, throw Diameter, rim []r2.Vec, view string, direction float64) (m ControlPoints, ok bool) {
	left, right := dividing[0], dividing[1]
	var swap bool
	switch {
	case view == "back":
		swap = left.X > right.X
	case view == "front":
		swap = left.X < right.X
	case view == "side" && direction != 0:
		// Who throws to the right of the picture has the camera on his right.
		swap = (left.Y > right.Y) == (direction > 0)
	default:
		return m, false
	}
	if swap {
		left, right = right, left
	}
	// Seen from above the throw turns to the right by a quarter turn with the clock.
	back, front := throw[0], throw[1]
	if r2.Cross(r2.Sub(front, back), r2.Sub(right, left)) < 0 {
		back, front = front, back
	}
	m.Template = t.ID
	for i, p := range []r2.Vec{left, right, back, front} {
		q := t.Places[i]
		m.Points = append(m.Points, ControlPoint{Name: q.Name, Along: q.Along, Right: q.Right, Frame: frame, X: p.X, Y: p.Y})
	}
	for i, p := range rim {
		m.Points = append(m.Points, ControlPoint{Name: fmt.Sprintf("rim %d", i+1), Rim: radius, Frame: frame, X: p.X, Y: p.Y})
	}
	return m, true
}
