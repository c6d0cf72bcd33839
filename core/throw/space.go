package throw

import (
	"math"

	"neokinema/core/vec3"
)

// Place is where a landmark is in the world in the frames of the first clip, m: x along the
// throw, y up, z to its right, from the middle of the circle. NaN where not both clips show it,
// or their lines of sight miss each other by far.
func (s *StereoReconstruction) Place(id string) []vec3.Vec { return s.pair.place(id, s.Offset) }

// PlaceSD is how exactly a place in a frame is known in each direction, m, when the landmark
// scatters by so many px in the two pictures: the nearer to square both lines of sight cross, the
// better.
func (s *StereoReconstruction) PlaceSD(at vec3.Vec, inA, inB float64) float64 {
	a, b := vec3.Unit(vec3.Sub(at, s.pair.A.Camera.At)), vec3.Unit(vec3.Sub(at, s.pair.B.Camera.At))
	between := vec3.Norm(vec3.Cross(a, b)) // the sine of the angle
	each := math.Hypot(inA/s.pair.A.Camera.Scale(at), inB/s.pair.B.Camera.Scale(at)) / math.Sqrt2
	return each / math.Max(between, math.Sin(leastAngle))
}

// FrameOf is the moment of the second clip, in frames with fractions, at a frame of the first.
func (s *StereoReconstruction) FrameOf(frame int) float64 { return s.pair.inB(frame, s.Offset) }

// inB is the moment of B, in frames with fractions, at a frame of A.
func (p *Pair) inB(frame int, offset float64) float64 {
	return (float64(frame)/p.A.Movement.Rate + offset) * p.B.Movement.Rate
}

// place is where a landmark is in each frame of A.
func (p *Pair) place(id string, offset float64) []vec3.Vec {
	out := make([]vec3.Vec, p.A.Frames)
	for f := range out {
		out[f] = nowhere
		at := p.inB(f, offset)
		if at < 0 || at > float64(p.B.Frames-2) {
			continue
		}
		da, okA := p.A.sightline(id, float64(f))
		db, okB := p.B.sightline(id, at)
		if okA && okB {
			if q, off, ok := meet(p.A.Camera, da, p.B.Camera, db); ok && off < blunderMiss {
				out[f] = q
			}
		}
	}
	return lowPass(out, p.A.Movement.Rate)
}
