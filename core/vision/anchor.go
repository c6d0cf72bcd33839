package vision

import "gonum.org/v1/gonum/spatial/r2"

// Anchor is the look of a small place in one picture, found again in others: a
// shoe that stands still looks the same for as long as it stands.
type Anchor struct {
	look Pyramid
	at   r2.Vec
	half int
}

// NewAnchor takes the look of a place; half is half the window, px. Ok is false
// where there is no structure to find again.
func NewAnchor(p Pyramid, at r2.Vec, half int) (Anchor, bool) {
	half = min(max(half, 4), windowHalf)
	if at.X < 0 || at.Y < 0 || at.X > float64(p[0].W-1) || at.Y > float64(p[0].H-1) {
		return Anchor{}, false
	}
	x, y := clamp(at, p[0], half+2)
	return Anchor{p, at, half}, strength(p[0], x, y, half) >= 2
}

// Find looks for the place in another picture about a guess; like is how much it
// looks as it did, -1 to 1.
func (a Anchor) Find(now Pyramid, guess r2.Vec) (at r2.Vec, like float64, ok bool) {
	// Two levels: what stands moves little, and a wide window would see what passes.
	n := min(2, len(a.look), len(now))
	at, _, ok = follow(a.look[:n], now[:n], a.at, guess, a.half)
	if !ok {
		return at, 0, false
	}
	size := (2*a.half + 1) * (2*a.half + 1)
	x, y := make([]float32, size), make([]float32, size)
	a.look[0].patch(a.at.X, a.at.Y, a.half, x)
	now[0].patch(at.X, at.Y, a.half, y)
	return at, likeness(x, y), true
}
