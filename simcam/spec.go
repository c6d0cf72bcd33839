package simcam

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"neokinema/core/body"
	"neokinema/simcam/move"
)

// Spec describes a clip to be made. The zero value of most fields is the usual
// thing; [Spec.filled] says what that is.
type Spec struct {
	Event       string             `json:"event" doc:"one of move.Events; sprint-start when empty"`
	Variant     string             `json:"variant,omitempty"`
	Athlete     body.Person        `json:"athlete"`
	Hand        body.Side          `json:"hand,omitempty" doc:"throwing hand; right when empty"`
	Leg         body.Side          `json:"leg,omitempty" doc:"take-off leg; left when empty"`
	Faults      map[string]float64 `json:"faults"`
	Speed       float64            `json:"speed,omitempty" doc:"of a run, m/s"`
	Turns       int                `json:"turns,omitempty" doc:"hammer and weight: 3 or 4"`
	Winds       int                `json:"winds,omitempty" doc:"hammer: 1 or 2"`
	Bar         float64            `json:"bar,omitempty" doc:"height of the bar of a jump, m; just cleared when 0"`
	Style       uint64             `json:"style,omitempty" doc:"a movement of its own: other joint paths, other times on the ground; 0 as written"`
	Camera      Camera             `json:"camera"`
	Direction   float64            `json:"direction" doc:"+1 runs to the right of the picture, -1 to the left"`
	CaptureRate float64            `json:"capture_rate"`
	FileRate    float64            `json:"file_rate"`
	TagRate     bool               `json:"tag_rate" doc:"write the capture rate into the file's metadata"`
	Width       int                `json:"width"`
	Height      int                `json:"height"`
	Kit         int                `json:"kit" doc:"choice of clothing"`
	Look        Look               `json:"look,omitzero"`
	Others      []Other            `json:"others,omitempty" doc:"people behind and beside"`
	Seed        uint64             `json:"seed,omitempty"`
}

// Camera says where the phone stands and how good its pictures are.
type Camera struct {
	Place       string  `json:"place,omitempty" enum:"side,back,front,oblique,far-oblique" doc:"side when empty"`
	Turned      float64 `json:"turned,omitempty" doc:"off the place, degrees to the left as seen from above"`
	Distance    float64 `json:"distance,omitempty" doc:"from the middle of the action, m; the event's own when 0"`
	Above       float64 `json:"above,omitempty" doc:"height of the lens, m; 1.3 when 0"`
	Zoom        float64 `json:"zoom,omitempty" doc:"focal length against the one that fits the action; 1 when 0"`
	Distortion  float64 `json:"distortion,omitempty" doc:"radial, -0.3 to 0.3"`
	Pan         bool    `json:"pan,omitempty" doc:"follows the athlete"`
	Shake       float64 `json:"shake,omitempty" doc:"of the hand, px"`
	Exposure    float64 `json:"exposure,omitempty" doc:"s; a 1000th, or half a frame if that is shorter, when 0"`
	Noise       float64 `json:"noise,omitempty" doc:"standard deviation, of 255"`
	Dim         float64 `json:"dim,omitempty" doc:"light against full sun; 1 when 0"`
	Compression int     `json:"compression,omitempty" doc:"CRF of the file, 18 fine to 40 coarse; 24 when 0"`
	Net         bool    `json:"net,omitempty" doc:"a cage net in front"`
	Post        bool    `json:"post,omitempty" doc:"a post in front"`
	Late        float64 `json:"late,omitempty" doc:"starts this much after the action's first frame, s"`
	Sound       bool    `json:"sound,omitempty" doc:"takes the sound of steps and of the shout at the release"`
	Early       float64 `json:"early,omitempty" doc:"stops this much before its last, s"`
}

// places are the views and the heading from the action to the camera.
var places = map[string]float64{"side": 90, "back": 180, "front": 0, "oblique": 140, "far-oblique": 42}

// Places lists the camera places.
func Places() []string { return []string{"side", "back", "front", "oblique", "far-oblique"} }

func (s Spec) filled() Spec {
	def := func(v *float64, to float64) {
		if *v == 0 {
			*v = to
		}
	}
	if s.Event == "" {
		s.Event = "sprint-start"
	}
	if s.Camera.Place == "" {
		s.Camera.Place = "side"
	}
	if s.Hand == "" {
		s.Hand = body.Right
	}
	if s.Leg == "" {
		s.Leg = body.Left
	}
	def(&s.Direction, 1)
	def(&s.Camera.Above, 1.3)
	def(&s.Camera.Zoom, 1)
	def(&s.Camera.Dim, 1)
	def(&s.Camera.Exposure, math.Min(0.001, 0.5/s.CaptureRate))
	if s.Camera.Compression == 0 {
		s.Camera.Compression = 24
	}
	return s
}

func (s Spec) wish() move.Wish {
	return move.Wish{Event: s.Event, Variant: s.Variant, Faults: s.Faults, Speed: s.Speed, Turns: s.Turns, Winds: s.Winds, Bar: s.Bar, Style: s.Style}
}

// Check refuses what cannot be simulated and says what can.
func (s Spec) Check() error {
	within := func(what string, v, lo, hi float64) error {
		if math.IsNaN(v) || v < lo || v > hi {
			return fmt.Errorf("%s of %g cannot be simulated; give %g to %g", what, v, lo, hi)
		}
		return nil
	}
	c := s.Camera
	if _, ok := places[c.Place]; !ok {
		return fmt.Errorf("there is no camera place %q; there are %s", c.Place, strings.Join(Places(), ", "))
	}
	if s.Width%2+s.Height%2 != 0 {
		return errors.New("the picture's width and height must be even")
	}
	return errors.Join(
		within("a standing height in metres", s.Athlete.Height, 1.0, 2.3),
		within("a capture rate", s.CaptureRate, 24, 1000),
		within("a file rate", s.FileRate, 10, 240),
		within("a picture width", float64(s.Width), 320, 3840),
		within("a picture height", float64(s.Height), 180, 3840),
		within("a camera distance in metres", c.Distance, 0, 60),
		within("a camera turned off its place in degrees", c.Turned, -40, 40),
		within("a camera height in metres", c.Above, 0.2, 12),
		within("a zoom", c.Zoom, 0.3, 5),
		within("a distortion", c.Distortion, -0.3, 0.3),
		within("a shake in px", c.Shake, 0, 40),
		within("an exposure in seconds", c.Exposure, 0, 1/s.CaptureRate),
		within("noise", c.Noise, 0, 60),
		within("light", c.Dim, 0.1, 1.5),
		within("a compression", float64(c.Compression), 10, 45),
		within("a late start in seconds", c.Late, 0, 5),
		within("an early end in seconds", c.Early, 0, 5),
	)
}

// Mirrored tells whether the athlete does everything the other way round than
// the motions are written.
func (s Spec) Mirrored() bool {
	switch s.Event {
	case "sprint-start":
		return s.Athlete.FrontLeg == body.Right
	case "long-jump", "high-jump":
		return s.Leg == body.Right
	}
	return s.Hand == body.Left
}

// View is the camera's view in the words of the clip sheet.
func (s Spec) View() string {
	switch s.Camera.Place {
	case "":
		return "side"
	case "far-oblique":
		return "oblique"
	}
	return s.Camera.Place
}
