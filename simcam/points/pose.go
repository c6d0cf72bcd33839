package points

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// Pose is a small figure, seen from the side: joints in the order of [PoseJoints]
// and the implement where there is one, as x forward and y up in hundredths of the
// standing height, from the middle of the hips and the ground.
type Pose [][2]int

// PoseJoints are the places of a pose: "ear", "shoulder" and "hip" are the middle of
// both sides.
var PoseJoints = []string{"ear", "shoulder", "hip", "left_elbow", "left_hand", "right_elbow", "right_hand", "left_knee", "left_ankle", "left_toe", "right_knee", "right_ankle", "right_toe"}

// Poses are the middles of all phases of all events, by event and phase; those of a
// repeated group by the phase's own name.
func Poses() (map[string]map[string]Pose, error) {
	out := map[string]map[string]Pose{}
	for _, e := range move.Events() {
		m, err := models.Load(e.ID)
		if err != nil {
			return nil, err
		}
		out[e.ID] = map[string]Pose{}
		for _, v := range e.Variants {
			s := simcam.Spec{Event: e.ID, Variant: v.ID, Direction: 1, CaptureRate: 120, FileRate: 120, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Female, Height: 1.75, FrontLeg: body.Left}}
			if e.ID == "running" {
				s.Speed = 4
			}
			sc, err := simcam.New(s)
			if err != nil {
				return nil, err
			}
			of := m.As(v.ID)
			for _, p := range of.Phases {
				id := phaseName(m, p.ID)
				from, okF := moment(sc.Truth, p.From)
				to, okT := moment(sc.Truth, p.To)
				if okT && !okF {
					from, okF = 0, true // it begins before the clip does
				}
				if _, done := out[e.ID][id]; done || !okF || !okT || to <= from {
					continue
				}
				out[e.ID][id] = pose(sc.Truth, (from+to)/2)
			}
		}
	}
	return out, nil
}

// phaseName takes the number off a phase of a repeated group.
func phaseName(m model.Model, id string) string {
	if m.Repeat == nil {
		return id
	}
	for _, p := range m.Repeat.Phases {
		if n, ok := strings.CutPrefix(id, p.ID); ok {
			if _, err := strconv.Atoi(n); err == nil {
				return p.ID
			}
		}
	}
	return id
}

// moment is the frame of a position; "*" is the last of a group.
func moment(t simcam.Truth, id string) (int, bool) {
	base, last := strings.CutSuffix(id, "*")
	if !last {
		f, ok := t.Positions[id]
		return min(f, len(t.Frames)-1), ok
	}
	for n := 9; n > 0; n-- {
		if f, ok := t.Positions[base+strconv.Itoa(n)]; ok {
			return f, true
		}
	}
	return 0, false
}

func pose(t simcam.Truth, frame int) Pose {
	f := t.Frames[frame]
	at := func(id string) [3]float64 {
		if l, ok := f.Landmarks[id]; ok {
			return l.World
		}
		a, b := f.Landmarks["left_"+id].World, f.Landmarks["right_"+id].World
		return [3]float64{(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2}
	}
	zero, tall := at("hip")[0], t.Spec.Athlete.Height
	place := func(w [3]float64) [2]int {
		return [2]int{int(math.Round(100 * (w[0] - zero) / tall)), int(math.Round(100 * w[1] / tall))}
	}
	var out Pose
	for _, id := range PoseJoints {
		out = append(out, place(at(id)))
	}
	if c, ok := f.Implement["centre"]; ok && slices.Contains([]string{"hammer", "weight", "discus", "shot", "javelin"}, t.Event) {
		out = append(out, place(c.World))
	}
	return out
}
