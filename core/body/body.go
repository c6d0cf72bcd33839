// Package body names the landmarks of an athlete, the roles that survive
// mirroring, and the proportions of segments.
package body

import (
	"fmt"
	"slices"
	"strings"
)

// Side of the body, always the athlete's own.
type Side string

// The two sides.
const (
	Left  Side = "left"
	Right Side = "right"
)

// Other is the opposite side.
func (s Side) Other() Side {
	if s == Left {
		return Right
	}
	return Left
}

// Sex chooses body proportions only.
type Sex string

// The two published sets of proportions.
const (
	Female Sex = "female"
	Male   Sex = "male"
)

// Person is what the computation needs to know of a person.
type Person struct {
	Sex      Sex     `json:"sex" enum:"female,male"`
	Height   float64 `json:"height" doc:"standing height, m"`
	Mass     float64 `json:"mass" doc:"kg, 0 when unknown"`
	Age      int     `json:"age,omitempty" required:"false" doc:"in the year of the attempt, 0 when unknown"`
	FrontLeg Side    `json:"front_leg" enum:"left,right" doc:"leg in the front block"`
	// Empty hand and leg are the usual ones.
	ThrowingHand Side `json:"throwing_hand,omitempty" required:"false" enum:"left,right," doc:"right when empty; also the top hand of a vaulter"`
	TakeoffLeg   Side `json:"takeoff_leg,omitempty" required:"false" enum:"left,right," doc:"left when empty"`
}

// Heights (m) and masses (kg) of athletes, children to the tallest. Common practice, no
// source.
const (
	ShortestHeight, TallestHeight = 0.8, 2.5
	LeastMass, LargestMass        = 15, 250
)

// Possible is the person without a height or mass that nobody has, and what was wrong.
func (p Person) Possible() (Person, []string) {
	var wrong []string
	if p.Height != 0 && !(p.Height >= ShortestHeight && p.Height <= TallestHeight) {
		wrong = append(wrong, fmt.Sprintf("nobody is %.4g m tall: correct the athlete's card; until then nothing that needs the height is read", p.Height))
		p.Height = 0
	}
	if p.Mass != 0 && !(p.Mass >= LeastMass && p.Mass <= LargestMass) {
		wrong = append(wrong, fmt.Sprintf("nobody weighs %.4g kg: correct the athlete's card; until then nothing that needs the mass is read", p.Mass))
		p.Mass = 0
	}
	return p, wrong
}

// Roles are those of a person seen from a camera at the near side.
func (p Person) Roles(near Side) Roles {
	r := Roles{FrontLeg: p.FrontLeg, Throwing: p.ThrowingHand, Takeoff: p.TakeoffLeg, Near: near}
	if r.Throwing == "" {
		r.Throwing = Right
	}
	if r.Takeoff == "" {
		r.Takeoff = Left
	}
	return r
}

// Parts are the landmarks that each side has, from the head down. A landmark's
// id is side_part, as in "left_knee".
var Parts = []string{"ear", "shoulder", "elbow", "wrist", "hand", "hip", "knee", "ankle", "heel", "toe"}

// Landmarks lists every landmark id, left side first.
func Landmarks() []string {
	var ids []string
	for _, s := range []Side{Left, Right} {
		for _, p := range Parts {
			ids = append(ids, string(s)+"_"+p)
		}
	}
	return ids
}

// Breastbone is the lower end of the breast-bone, the one landmark in the middle
// of the body: posture is read above and below it.
const Breastbone = "breastbone"

// Things are points that are followed and are not the athlete's: ball (or disc,
// shot, weight), grip of a handle or a javelin, both ends of a javelin or pole, two points
// between tip and top hand of a pole, both ends of the oval as which a disc shows, spots on the
// ground or a shoe.
var Things = []string{"ball", "grip", "tip", "tail", "pole_low", "pole_high", "rim_a", "rim_b", "spot_a", "spot_b", "spot_c", "spot_d"}

// Known tells whether id is a landmark or a thing.
func Known(id string) bool {
	if id == Breastbone || IsThing(id) {
		return true
	}
	side, part, ok := strings.Cut(id, "_")
	if !ok || side != string(Left) && side != string(Right) {
		return false
	}
	for _, p := range Parts {
		if p == part {
			return true
		}
	}
	return false
}

// IsThing tells whether id is one of [Things].
func IsThing(id string) bool {
	for _, t := range Things {
		if t == id {
			return true
		}
	}
	return false
}

// Roles resolves role names to sides: front and rear block for the start,
// throwing and block side (sweep and pivot side of a turn, top and low hand of a
// vault), take-off and free leg, near and far side of the camera, stance and
// swing leg of a step.
type Roles struct {
	FrontLeg Side
	Throwing Side
	Takeoff  Side
	Near     Side
	Stance   Side // empty outside steps
}

// RoleNames are the first words of role names.
func RoleNames() []string {
	return []string{"left", "right", "front", "rear", "throwing", "block", "sweep", "pivot", "top", "low", "takeoff", "free", "near", "far", "stance", "swing", "mid"}
}

// KnownRole tells whether a role leads to landmarks: "pivot_knee", "mid_hip",
// "ball".
func KnownRole(role string) bool {
	if Known(role) {
		return true
	}
	who, part, ok := strings.Cut(role, "_")
	return ok && slices.Contains(RoleNames(), who) && Known("left_"+part)
}

// NearSide is the side that faces a camera at the side of the track: the right
// one when the athlete runs to the right of the picture.
func NearSide(direction float64) Side {
	if direction >= 0 {
		return Right
	}
	return Left
}

// Resolve turns a role such as "front_knee", "near_hand" or "mid_hip" into the
// landmarks that make it: one, or both sides for "mid" (near side first).
func (r Roles) Resolve(role string) []string {
	who, part, _ := strings.Cut(role, "_")
	side := Side(who)
	switch who {
	case "front":
		side = r.FrontLeg
	case "rear":
		side = r.FrontLeg.Other()
	case "throwing", "sweep", "top":
		side = r.Throwing
	case "block", "pivot", "low":
		side = r.Throwing.Other()
	case "takeoff":
		side = r.Takeoff
	case "free":
		side = r.Takeoff.Other()
	case "near":
		side = r.Near
	case "far":
		side = r.Near.Other()
	case "stance":
		side = r.Stance
	case "swing":
		side = r.Stance.Other()
	case Breastbone, "ball", "grip", "tip", "tail", "pole", "rim", "spot":
		return []string{role}
	case "mid":
		return []string{string(r.Near) + "_" + part, string(r.Near.Other()) + "_" + part}
	}
	return []string{string(side) + "_" + part}
}

// Twin is the same landmark of the other side; of one without a side itself.
func Twin(id string) string {
	if rest, ok := strings.CutPrefix(id, "left_"); ok {
		return "right_" + rest
	}
	if rest, ok := strings.CutPrefix(id, "right_"); ok {
		return "left_" + rest
	}
	return id
}

// Label is the athlete's own name of a landmark: "left knee".
func Label(id string) string { return strings.ReplaceAll(id, "_", " ") }

// Segment is one link of the body by published averages.
type Segment struct {
	Name   string
	Length float64 // share of standing height
	Mass   float64 // share of body mass, one side for paired segments
	Centre float64 // mass centre from the proximal end, share of length
	Paired bool
}

// Segments gives the adult proportions of de Leva 1996 (J. Biomech. 29:1223,
// tables 3 and 4), lengths over the group's standing height (men 1.741 m, women
// 1.735 m); foot length is heel to toe. Values written from memory of the
// tables. Mass shares are normalised to a sum of 1. Children differ.
func Segments(sex Sex) []Segment {
	type row struct {
		name                 string
		paired               bool
		maleLen, maleMass    float64 // mm, %
		maleCentre           float64
		femaleLen, femaleMas float64
		femaleCentre         float64
	}
	rows := []row{
		{"head", false, 242.9, 6.94, 0.5002, 243.7, 6.68, 0.4841},
		{"trunk", false, 515.5, 43.46, 0.4310, 497.9, 42.57, 0.3782},
		{"upper_arm", true, 281.7, 2.71, 0.5772, 275.1, 2.55, 0.5754},
		{"forearm", true, 268.9, 1.62, 0.4574, 264.3, 1.38, 0.4559},
		{"hand", true, 86.2, 0.61, 0.7900, 78.0, 0.56, 0.7474},
		{"thigh", true, 422.2, 14.16, 0.4095, 368.5, 14.78, 0.3612},
		{"shank", true, 434.0, 4.33, 0.4459, 432.3, 4.81, 0.4416},
		{"foot", true, 258.1, 1.37, 0.4415, 228.3, 1.29, 0.4014},
	}
	height := 1741.0
	if sex == Female {
		height = 1735
	}
	var out []Segment
	var sum float64
	for _, r := range rows {
		s := Segment{Name: r.name, Paired: r.paired, Length: r.maleLen / height, Mass: r.maleMass / 100, Centre: r.maleCentre}
		if sex == Female {
			s.Length, s.Mass, s.Centre = r.femaleLen/height, r.femaleMas/100, r.femaleCentre
		}
		sum += s.Mass
		if s.Paired {
			sum += s.Mass
		}
		out = append(out, s)
	}
	for i := range out {
		out[i].Mass /= sum
	}
	return out
}

// Length is the length of a named segment for a person, metres; 0 for a name
// that is not in [Segments].
func Length(p Person, segment string) float64 {
	for _, s := range Segments(p.Sex) {
		if s.Name == segment {
			return s.Length * p.Height
		}
	}
	return 0
}
