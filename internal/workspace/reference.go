package workspace

import (
	"slices"

	"github.com/google/uuid"

	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// referenceRate is how often a second the reference is looked at.
const referenceRate = 240

// reference is the faultless simulated movement of a model with an athlete's body, seen
// as a clip of his is seen: points, positions and ground, but no pictures.
func reference(sh Workspace, like store.Clip) (Workspace, store.Clip, error) {
	e, err := move.Find(sh.Model.ID)
	if err != nil {
		return sh, like, problem.New(problem.Invalid, "There is no simulated reference for this model.")
	}
	s := simcam.Spec{Event: sh.Model.ID, Athlete: sh.Athlete.Body(), Hand: sh.Athlete.ThrowingHand, Leg: sh.Athlete.TakeoffLeg, Direction: like.Direction, Camera: simcam.Camera{Place: like.View}}
	// A school that the simulated athlete does not know is shown as the usual one.
	if slices.ContainsFunc(e.Variants, func(v move.Variant) bool { return v.ID == sh.Attempt.Variant }) {
		s.Variant = sh.Attempt.Variant
	}
	if s.Direction == 0 {
		s.Direction = 1
	}
	if !slices.Contains(simcam.Places(), s.Camera.Place) {
		s.Camera.Place = "side"
	}
	_, in, err := points.ByEyeAt(s, referenceRate)
	if err != nil {
		return sh, like, problem.New(problem.Invalid, "The reference cannot be made for this athlete: %s.", err)
	}
	clip := store.Clip{State: "ready", Width: in.Clip.Width, Height: in.Clip.Height, Stamps: in.Clip.Stamps, FileRate: referenceRate, CaptureRate: referenceRate, View: s.Camera.Place,
		Direction: s.Direction, ProxyScale: 1, Camera: in.Camera, Warnings: []string{}}
	out := sh
	out.Athlete.Name = "Simulated reference"
	out.Attempt = store.Attempt{NewAttempt: store.NewAttempt{Event: sh.Attempt.Event, Variant: sh.Attempt.Variant, DoneOn: sh.Attempt.DoneOn, Session: "without a fault, with this athlete's body"}}
	out.Clips, out.Before, out.Newer = []store.Clip{clip}, nil, nil
	out.Work = Work{Clips: map[uuid.UUID]ClipWork{uuid.Nil: {Flags: in.Flags, Points: in.Points, Scale: in.Scale, Ground: in.Ground}}}
	return out, clip, nil
}
