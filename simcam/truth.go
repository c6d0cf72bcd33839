package simcam

import (
	"encoding/json"
	"fmt"
	"os"

	"neokinema/simcam/move"
)

// Truth is everything that is known of a clip. docs/formats.md describes the
// file.
type Truth struct {
	Version   int                 `json:"version"`
	Event     string              `json:"event"`
	Variant   string              `json:"variant"`
	Spec      Spec                `json:"spec"`
	Start     float64             `json:"start" doc:"time of frame 0 on the clock that all cameras of an attempt share, s"`
	K1        float64             `json:"k1" doc:"radial distortion: r (1 + k1 r2), r in focal lengths from the picture's middle"`
	Focal     float64             `json:"focal" doc:"px"`
	Positions map[string]int      `json:"positions" doc:"key position to frame"`
	Release   *move.ReleaseState  `json:"release,omitempty"`
	Ground    map[string]Landmark `json:"ground,omitempty" doc:"marks on the ground at frame 0"`
	Frames    []Frame             `json:"frames"`
}

// Frame is the truth of one frame.
type Frame struct {
	Time      float64             `json:"t" doc:"true time since frame 0, s"`
	Landmarks map[string]Landmark `json:"landmarks"`
	Implement map[string]Landmark `json:"implement,omitempty"`
	Contacts  []string            `json:"contacts" doc:"sides whose foot is on pedal or ground"`
	OnHeel    []string            `json:"on_heel,omitempty" doc:"of these, the sides that turn on the heel; the others' toes stay in place"`
	Free      bool                `json:"free,omitempty" doc:"nothing holds the athlete: the centre of mass falls"`
	Centre    Landmark            `json:"centre" doc:"centre of mass of the body"`
	Azimuths  Azimuths            `json:"azimuths"`
	Camera    [3][4]float64       `json:"camera" doc:"projection matrix before distortion"`
	Others    [][2]float64        `json:"others,omitempty" doc:"px, the middle of the hips of everybody else"`
}

// Landmark is a place in the world (m) and in the picture (px).
type Landmark struct {
	World [3]float64 `json:"world"`
	Image [2]float64 `json:"image"`
}

// Azimuths are directions seen from above, degrees, 0 at the back of the circle
// and growing with the athlete's turn; continuous over the clip.
type Azimuths struct {
	Hips      float64  `json:"hips"`
	Shoulders float64  `json:"shoulders"`
	Implement *float64 `json:"implement,omitempty" doc:"from the middle of the trunk to the implement"`
}

// ReadTruth reads a truth file.
func ReadTruth(path string) (Truth, error) {
	var t Truth
	raw, err := os.ReadFile(path)
	if err != nil {
		return t, err
	}
	if err := json.Unmarshal(raw, &t); err != nil {
		return t, fmt.Errorf("%s is not a truth file: %w", path, err)
	}
	if t.Version != 2 || len(t.Frames) == 0 {
		return t, fmt.Errorf("%s has version %d and %d frames; version 2 with frames can be read", path, t.Version, len(t.Frames))
	}
	return t, nil
}
