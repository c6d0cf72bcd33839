package body

import (
	"math"
	"reflect"
	"testing"
)

// TestMassesSumToOne and the values of de Leva 1996, table 4 (from memory): the
// printed shares of men sum to 99.99 to 100 %.
func TestMassesSumToOne(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		var sum float64
		for _, s := range Segments(sex) {
			sum += s.Mass
			if s.Paired {
				sum += s.Mass
			}
		}
		if math.Abs(sum-1) > 1e-12 {
			t.Errorf("%s: masses sum to %v", sex, sum)
		}
	}
}

func TestLengthsOfTheReferenceGroup(t *testing.T) {
	man, woman := Person{Sex: Male, Height: 1.741}, Person{Sex: Female, Height: 1.735}
	for _, c := range []struct {
		p       Person
		segment string
		want    float64
	}{{man, "thigh", 0.4222}, {man, "shank", 0.4340}, {woman, "thigh", 0.3685}, {woman, "upper_arm", 0.2751}, {man, "tail", 0}} {
		if got := Length(c.p, c.segment); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s %s: %v, want %v", c.p.Sex, c.segment, got, c.want)
		}
	}
}

func TestRolesFollowTheAthlete(t *testing.T) {
	r := Roles{FrontLeg: Right, Near: NearSide(-1)}
	for role, want := range map[string][]string{
		"front_knee": {"right_knee"}, "rear_knee": {"left_knee"}, "near_hand": {"left_hand"}, "far_ear": {"right_ear"},
		"mid_hip": {"left_hip", "right_hip"}, "left_toe": {"left_toe"},
	} {
		if got := r.Resolve(role); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, want %v", role, got, want)
		}
	}
	if NearSide(1) != Right {
		t.Error("running to the right shows the right side")
	}
}

func TestLandmarks(t *testing.T) {
	if ids := Landmarks(); len(ids) != 20 || !Known(ids[0]) || !Known("right_toe") {
		t.Errorf("landmarks %v", ids)
	}
	for _, id := range []string{"", "knee", "left", "left_", "left_tail", "mid_hip", "leftknee"} {
		if Known(id) {
			t.Errorf("%q passes as a landmark", id)
		}
	}
	if Label("left_knee") != "left knee" || Left.Other() != Right || Right.Other() != Left {
		t.Error("labels or sides")
	}
}

func TestNobodyIsThatTall(t *testing.T) {
	for _, c := range []struct {
		height, mass float64
		wrong        int
	}{{1.8, 75, 0}, {0, 0, 0}, {0.8, 15, 0}, {-27.8, 62, 1}, {18, 0, 1}, {1.8, 1e300, 1}, {math.NaN(), math.Inf(1), 2}} {
		p, wrong := Person{Height: c.height, Mass: c.mass}.Possible()
		if len(wrong) != c.wrong {
			t.Errorf("%v m, %v kg: %q", c.height, c.mass, wrong)
		}
		if p.Height != 0 && p.Height != c.height || p.Mass != 0 && p.Mass != c.mass || c.wrong == 2 && (p.Height != 0 || p.Mass != 0) {
			t.Errorf("%v m, %v kg became %v m, %v kg", c.height, c.mass, p.Height, p.Mass)
		}
	}
}
