package simcam

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

// Other is somebody else in the picture.
type Other struct {
	Along   float64     `json:"along" doc:"from the middle of the action along the run, m, at the clip's beginning"`
	Aside   float64     `json:"aside" doc:"away from the camera, m; negative stands between camera and athlete"`
	Heading float64     `json:"heading" doc:"degrees, 0 along the run"`
	Speed   float64     `json:"speed" doc:"m/s; 0 stands"`
	Kit     int         `json:"kit"`
	Athlete body.Person `json:"athlete"`
}

// Look is how easily an athlete is told from the rest.
type Look struct {
	PlainShoes bool `json:"plain_shoes,omitempty" doc:"shoes and wrists have the same colour on both sides"`
	Camouflage bool `json:"camouflage,omitempty" doc:"clothes in the colours of the ground"`
	Loose      bool `json:"loose,omitempty" doc:"wide clothes"`
	LongHair   bool `json:"long_hair,omitempty"`
}

// dressed is a kit with a look.
func (k kit) dressed(l Look) kit {
	k.plain, k.loose, k.long = l.PlainShoes, l.Loose, l.LongHair
	if l.Camouflage {
		k.top, k.trim, k.shorts = clay.Times(0.97), turf.Times(0.95), clay.Times(0.90)
		k.tights = true
	}
	return k
}

// walkPace is the speed of the run whose slowed-down steps make a walk, m/s.
const walkPace = 3.0

// crowd gives the cones of all others and the middles of their hips at a time.
func (sc *Scene) crowd(list []Other, middle r3.Vec, away r3.Vec) (func(t float64) ([]film.Cone, []r3.Vec), error) {
	type one struct {
		Other
		motion *move.Motion
		person person
		start  r3.Vec
	}
	var all []one
	for i, o := range list {
		m, err := move.New(o.Athlete, move.Wish{Event: "running", Speed: walkPace})
		if err != nil {
			return nil, fmt.Errorf("somebody in the crowd (%d): %w", i+1, err)
		}
		at := r3.Vec{X: middle.X + o.Along, Z: middle.Z}
		at = r3.Add(at, r3.Scale(o.Aside, away))
		all = append(all, one{o, m, newPerson(o.Athlete, o.Kit), at})
	}
	return func(t float64) (cones []film.Cone, hips []r3.Vec) {
		for _, o := range all {
			since := t - sc.Motion.First
			phase := math.Min(o.motion.Last, o.motion.First+0.35+since*o.Speed/walkPace)
			b := o.motion.At(phase).Body
			sin, cos := math.Sincos(o.Heading * math.Pi / 180)
			hip := b.Mid(figure.Hip)
			for i, v := range b {
				v = r3.Sub(v, r3.Vec{X: hip.X, Z: hip.Z})
				b[i] = r3.Add(r3.Vec{X: cos*v.X - sin*v.Z, Y: v.Y, Z: sin*v.X + cos*v.Z}, r3.Add(o.start, r3.Vec{X: cos * o.Speed * since, Z: sin * o.Speed * since}))
			}
			cones = append(cones, o.person.cones(&b)...)
			hips = append(hips, b.Mid(figure.Hip))
		}
		return cones, hips
	}, nil
}
