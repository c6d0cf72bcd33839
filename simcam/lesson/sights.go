package lesson

import "neokinema/simcam/points"

// Sight is where and when one looks to see a fault.
type Sight struct {
	Event, Variant string // any variant when empty
	Dial           string
	At             string // key position at which it shows
	Place          string // where the camera stands to see it
	Joint          [3]string
	Watch          string
}

// knee, hip and elbow of the side that the motions are written for.
var (
	leftKnee   = [3]string{"left_hip", "left_knee", "left_ankle"}
	rightKnee  = [3]string{"right_hip", "right_knee", "right_ankle"}
	rightElbow = [3]string{"right_shoulder", "right_elbow", "right_wrist"}
	leftHip    = [3]string{"left_shoulder", "left_hip", "left_knee"}
	rightHip   = [3]string{"right_shoulder", "right_hip", "right_knee"}
)

// sights are all faults that the simulated athlete has. Where one looks is common practice, no source.
var sights = []Sight{
	{"sprint-start", "", "shoulders", "set", "side", leftHip, "Once the hips rest in set, drop a line from the shoulder: it meets the hands, or falls just ahead of them."},
	{"sprint-start", "", "front-knee", "set", "side", leftKnee, "In set, look at the front knee alone: nearly a right angle."},
	{"sprint-start", "", "rear-knee", "set", "side", rightKnee, "In set, look at the rear leg: bent enough to push, not hanging straight."},
	{"sprint-start", "", "head-up", "set", "side", rightHip, "In set, lay a line along the back: neck and head lie on it."},
	{"sprint-start", "", "foot-ahead", "td1", "side", rightKnee, "Stop when the first shoe touches the ground: the hip is over it or ahead of it."},
	{"sprint-start", "", "early-rise", "to1", "side", rightHip, "Compare the line from foot to shoulder at both first push-offs: it hardly rises."},

	{"hammer", "", "short-winds", "wind2", "back", leftHip, "When the ball passes low in the last wind: are the arms long, or the hands near the chest?"},
	{"hammer", "", "open-winds", "wind2", "back", rightHip, "When the ball passes low in the last wind: the chest faces where the ball is, not past it."},
	{"hammer", "", "drag", "zero2", "back", leftHip, "When the ball passes low in the second turn: breastbone, hands and ball lie on one line."},
	{"hammer", "", "early-step", "lift2", "back", rightKnee, "Stop when the sweep foot leaves the ground: where is the ball? It has passed the low point and is on its way round."},
	{"hammer", "", "late-catch", "catch2", "back", rightKnee, "Stop when the sweep foot lands: where is the ball? It still has a third of its way before it."},
	{"hammer", "", "tall", "zero2", "back", leftKnee, "When both feet stand and the ball is low: look at the pivot knee, it is clearly bent."},
	{"hammer", "", "lean-away", "release", "back", leftHip, "At the release look at the trunk: upright against the ball, not thrown away from it."},

	{"weight", "", "drag", "zero2", "back", leftHip, "When the weight passes low in the second turn: breastbone, hands and weight lie on one line."},
	{"weight", "", "early-step", "lift2", "back", rightKnee, "Stop when the sweep foot leaves the ground: the weight has passed its low point before."},
	{"weight", "", "late-catch", "catch2", "back", rightKnee, "Stop when the sweep foot lands: the weight still has a third of its way before it."},
	{"weight", "", "tall", "zero2", "back", leftKnee, "When both feet stand and the weight is low: look at the pivot knee, it is clearly bent."},
	{"weight", "", "lean-away", "release", "back", leftHip, "At the release look at the trunk: upright against the weight, not thrown away from it."},

	{"discus", "full", "over-turned", "pivot_off", "back", leftKnee, "Stop as the pivot foot leaves: its toes point down the middle of the sector, no further."},
	{"discus", "full", "short-sweep", "pivot_off", "side", rightKnee, "Follow the sweeping foot round the back half: is it far out, the knee wide?"},
	{"discus", "full", "pre-turned", "centre", "back", rightKnee, "Stop as the foot lands in the middle: where do its toes point?"},
	{"discus", "full", "late-front", "front", "side", leftKnee, "Tap the two landings, middle and front: quick after each other, ta-tam."},
	{"discus", "", "wobble", "release", "side", rightElbow, "Look at the edge of the disc in the air, not at the thrower: one thin line, or does it swing?"},
	{"discus", "standing", "dive", "wind", "back", leftHip, "At the end of the wind look at both shoulders: nearly level."},
	{"discus", "standing", "open-front", "wind", "back", rightHip, "At the end of the wind: hips already turned, shoulders still closed behind them."},
	{"discus", "standing", "low-point", "wind", "side", rightElbow, "At the end of the wind look at the height of the disc against the shoulder: about level."},

	{"shot", "glide", "upright-drive", "drive_off", "side", rightKnee, "Follow the hips from the crouch into the middle: they move along, not up."},
	{"shot", "glide", "crooked", "centre", "back", rightKnee, "Lay a line across the circle: the gliding foot lands on it."},
	{"shot", "glide", "flat-centre", "centre", "side", rightKnee, "Stop as the foot lands in the middle: on the ball of the foot, the heel off the ground."},
	{"shot", "glide", "slow-front", "front", "side", rightKnee, "Tap the two landings, middle and front: almost together."},
	{"shot", "glide", "locked-block", "front", "side", leftKnee, "Stop as the front foot lands: its knee is a little bent, and straightens later."},
	{"shot", "glide", "pirouette", "release", "back", rightHip, "After the shot has left: do the hips face forward, or spin on round?"},
	{"shot", "rotational", "dive", "pivot_off", "back", leftHip, "On the way out of the back look at both shoulders: the free one does not drop."},
	{"shot", "rotational", "over-turned", "pivot_off", "back", leftKnee, "Stop as the pivot foot leaves: its toes point down the middle of the sector, no further."},
	{"shot", "rotational", "short-sweep", "pivot_off", "side", rightKnee, "Follow the sweeping foot round the back half: is it far out, the knee wide?"},
	{"shot", "rotational", "pre-turned", "centre", "back", rightKnee, "Stop as the foot lands in the middle: where do its toes point?"},
	{"shot", "rotational", "late-front", "front", "side", leftKnee, "Tap the two landings, middle and front: quick after each other, ta-tam."},
	{"shot", "rotational", "open-front", "front", "back", rightHip, "Stop as the front foot lands: hips ahead, shoulders still behind them."},

	{"javelin", "", "reaching", "last", "side", rightKnee, "Stop as the last throwing-side foot lands: is it under the hip, or cast out ahead?"},
	{"javelin", "", "weak-push", "to4", "side", leftKnee, "Stop as the foot before the last step leaves: its leg is long behind."},
	{"javelin", "", "late-block", "block", "side", leftKnee, "Tap the last two landings: the block comes at once."},
	{"javelin", "", "soft-block", "release", "side", leftKnee, "At the release look at the block leg alone: a pole, not a hinge."},
	{"javelin", "", "pull-down", "release", "side", rightElbow, "Look at the shaft as it leaves: it lies along its way, the nose does not rise."},
	{"javelin", "", "fall-away", "release", "back", leftHip, "From behind, at the release: the trunk stands over the block leg, it does not fall off to the side."},

	{"long-jump", "", "no-sink", "pen", "side", rightKnee, "Follow the hips over the last two steps: they settle a little, then rise."},
	{"long-jump", "", "lean-back", "to", "side", leftHip, "Stop as the foot leaves the board: the trunk is upright."},
	{"long-jump", "", "short-drive", "to", "side", rightHip, "Stop as the foot leaves the board: the free thigh has come up to level."},
	{"long-jump", "", "shoulder-drop", "to", "front", leftHip, "From the front, as the foot leaves the board: both shoulders level."},
	{"long-jump", "", "fold", "land", "side", rightHip, "Stop at the first touch of the sand: has the trunk already folded over the legs?"},

	{"high-jump", "", "bent-curve", "td4", "back", leftHip, "In the curve lay a line from the foot through the hip: head and shoulders lie on it."},
	{"high-jump", "", "deep-sink", "pen", "side", rightKnee, "In the second-last contact look at the knee alone: it bends, it does not collapse."},
	{"high-jump", "", "upright-early", "plant", "back", leftHip, "As the take-off foot lands: is the body still leaning into the curve?"},
	{"high-jump", "", "leaper", "plant", "side", leftHip, "As the take-off foot lands: it is clearly ahead of the hips."},
	{"high-jump", "", "soft-knee", "plant", "side", leftKnee, "As the take-off foot lands look at its knee: nearly straight."},

	{"pole-vault", "", "slowing", "td", "side", leftKnee, "Follow the hips over the last three steps: does their speed hold?"},
	{"pole-vault", "", "low-plant", "pre", "side", rightElbow, "In the step before the take-off: is the top hand already as high as the eyes?"},
	{"pole-vault", "", "bent-arm", "to", "side", rightElbow, "Stop as the foot leaves: look at the top arm alone, it is long."},
	{"pole-vault", "", "under", "to", "side", leftKnee, "Stop as the foot leaves: drop a line from the top hand, it meets the toe."},
	{"pole-vault", "", "late-knee", "to", "side", rightHip, "Stop as the foot leaves: the free thigh is already level."},

	{"running", "", "hips-behind", "mid2", "side", leftHip, "In the middle of the contact lay a line from foot to head: the hip lies on it."},
	{"running", "", "over-stride", "td2", "side", leftKnee, "Stop as the shoe touches: how far ahead of the hip is it?"},
	{"running", "", "bounce", "to2", "side", leftKnee, "Look at the head against something fixed behind it: how much does it go up and down?"},
	{"running", "", "hands-cross", "mid2", "front", rightElbow, "From the front: do the hands stop before the middle of the chest?"},
	{"running", "", "uneven", "to2", "side", leftKnee, "Count the frames in which each foot stands: as many left as right."},
}

// Sights lists them.
func Sights() []Sight { return sights }

// Watch is where and when one looks for a fault of an event's model; nothing where the simulated athlete does
// not have it.
func Watch(event, variant, fault string) string {
	for _, s := range sights {
		if s.Event != event || s.Variant != "" && s.Variant != variant {
			continue
		}
		for _, mirrored := range []bool{false, true} {
			if id, ok := points.FaultOf(event, variant, s.Dial, mirrored); ok && id == fault {
				return s.Watch
			}
		}
	}
	return ""
}
