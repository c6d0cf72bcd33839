package body

import (
	"slices"
	"strings"
	"testing"
)

// Roles of throwers, jumpers and vaulters, mirrored with hand and leg: the same
// technical limb for both.
func TestRolesAreMirrored(t *testing.T) {
	right := Person{FrontLeg: Left}.Roles(Right)
	left := Person{FrontLeg: Right, ThrowingHand: Left, TakeoffLeg: Right}.Roles(Left)
	for role, want := range map[string]string{
		"throwing_hand": "right_hand", "block_knee": "left_knee", "sweep_toe": "right_toe", "pivot_ankle": "left_ankle",
		"top_wrist": "right_wrist", "low_hand": "left_hand", "takeoff_knee": "left_knee", "free_hip": "right_hip",
		"front_knee": "left_knee", "rear_heel": "right_heel", "near_ear": "right_ear", "far_ear": "left_ear",
	} {
		if got := right.Resolve(role); !slices.Equal(got, []string{want}) {
			t.Errorf("right-hander: %s is %v, want %s", role, got, want)
		}
		other, part, _ := strings.Cut(want, "_")
		side := Side(other).Other()
		if got := left.Resolve(role); !slices.Equal(got, []string{string(side) + "_" + part}) {
			t.Errorf("left-hander: %s is %v, want %s_%s", role, got, side, part)
		}
	}
	if got := right.Resolve("mid_hip"); !slices.Equal(got, []string{"right_hip", "left_hip"}) {
		t.Errorf("mid_hip: %v, near side first", got)
	}
	for _, thing := range []string{"ball", "tip", "tail", "grip", Breastbone} {
		if got := left.Resolve(thing); !slices.Equal(got, []string{thing}) {
			t.Errorf("%s: %v", thing, got)
		}
	}
}

// Every role leads to landmarks for every part; other words do not.
func TestKnownRoles(t *testing.T) {
	for _, who := range RoleNames() {
		for _, part := range Parts {
			if !KnownRole(who + "_" + part) {
				t.Errorf("%s_%s is not known", who, part)
			}
			r := Person{FrontLeg: Left}.Roles(Right)
			r.Stance = Left
			for _, id := range r.Resolve(who + "_" + part) {
				if !Known(id) {
					t.Errorf("%s_%s leads to %s", who, part, id)
				}
			}
		}
	}
	for _, bad := range []string{"", "knee", "third_knee", "left_wing", "throwing", "mid_ball", "front_breastbone", "left"} {
		if KnownRole(bad) {
			t.Errorf("%q is taken for a role", bad)
		}
	}
	for _, good := range []string{"ball", "tip", "breastbone", "left_knee"} {
		if !KnownRole(good) {
			t.Errorf("%q is not known", good)
		}
	}
}
