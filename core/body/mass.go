package body

// Gravity is the standard acceleration of free fall, m/s2 (ISO 80000-3).
const Gravity = 9.80665

// CentreWeights gives the centre of mass as a weighted mean of landmarks: every
// segment's mass centre lies on the line between two landmarks, so the whole is
// linear in them. Weights are shares and sum to 1.
//
// Segment masses and mass centres: de Leva 1996, J. Biomech. 29:1223, table 4
// (see [Segments]); head at the ears, trunk from mid-shoulder to mid-hip, hand
// from wrist to knuckles, foot from heel to toe. Adults; children differ.
func CentreWeights(sex Sex) map[string]float64 {
	ends := map[string][2]string{
		"head": {"ear", "ear"}, "trunk": {"shoulder", "hip"}, "upper_arm": {"shoulder", "elbow"}, "forearm": {"elbow", "wrist"},
		"hand": {"wrist", "hand"}, "thigh": {"hip", "knee"}, "shank": {"knee", "ankle"}, "foot": {"heel", "toe"},
	}
	out := map[string]float64{}
	for _, s := range Segments(sex) {
		mass := s.Mass
		if !s.Paired {
			mass /= 2 // both sides' landmarks share it
		}
		for _, side := range []Side{Left, Right} {
			out[string(side)+"_"+ends[s.Name][0]] += mass * (1 - s.Centre)
			out[string(side)+"_"+ends[s.Name][1]] += mass * s.Centre
		}
	}
	return out
}

// SoleHeight is how high toe and heel points lie over the ground when a foot stands, m. An
// assumption, no source.
const SoleHeight = 0.03
