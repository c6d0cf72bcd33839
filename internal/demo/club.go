package demo

import (
	"context"
	"embed"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"neokinema/core/body"
	"neokinema/core/sport"
	"neokinema/internal/store"
	"neokinema/simcam"
)

// The clips of the club, drawn by [Draw].
//
//go:embed clips/*.mp4
var files embed.FS

// person is one athlete of the club with attempts in order of time.
type person struct {
	athlete  store.NewAthlete
	attempts []attempt
}

// logged are sessions and notes without clips, by the athlete's name.
type logged struct {
	sessions []typed
	notes    []written
	plans    []planned
	consent  string // guardian who agreed
}

// planned is a calculation of the workshop, from the attempt of its day: what was tried, by the
// input that was changed.
type planned struct {
	daysAgo               int
	question, name, tried string
	input                 string
	value                 float64
	onPage                bool
}

type typed struct {
	daysAgo                            int
	event, session, implement, setting string
	lines                              []string
}

type written struct {
	daysAgo int
	kind    string
	says    string
	over    bool
}

// logs are what Lindmoor's coach typed in beside the circle. All of it is invented.
var logs = map[string]logged{
	"Brisa Haldane": {sessions: []typed{
		{75, "hammer", "Autumn block, week 1", "hammer 4 kg", "practice", []string{"54.10", "55.32", "x over the rim", "55.90", "54.88", "56.04"}},
		{54, "hammer", "Autumn block, week 4", "hammer 4 kg", "practice", []string{"56.20", "x sector", "56.85", "57.11", "55.70"}},
		{33, "hammer", "Club evening", "hammer 4 kg", "competition", []string{"55.62", "57.48", "x", "58.02", "57.90", "-"}},
		{12, "hammer", "Cage, wet circle", "hammer 4 kg", "practice", []string{"56.40", "57.95 slipped in turn two", "58.21", "57.02", "x over the rim", "58.17"}},
	}, notes: []written{{12, "note", "Circle wet from the third throw on; shoes changed.", false}, {60, "pain", "left groin after the long session", true}}},
	"Odalys Ferrin": {sessions: []typed{
		{61, "long-jump", "Short approach", "", "practice", []string{"5.11 +0.4", "5.20 -0.2", "x toe over the board", "5.24 +0.9"}},
		{18, "long-jump", "Full approach, tail wind", "", "practice", []string{"5.44 +2.3", "5.36 +1.8", "x", "5.41 +1.6"}},
	}, notes: []written{{16, "note", "Front block one notch back from today.", false}},
		plans: []planned{{16, "blocks", "Front pedal two holes nearer", "two holes", "moveFront", 6, true}}},
	"Anneke Dorn": {plans: []planned{{24, "high-plan", "Wider, before the bar goes up", "wider", "radius", 10.5, false}}},
	"Wren Castell": {sessions: []typed{
		{25, "long-jump", "Youth jumps", "", "practice", []string{"3.61", "3.70", "x", "3.82"}},
		{11, "long-jump", "Youth jumps", "", "practice", []string{"3.75", "3.88", "3.90"}},
	}, consent: "Ada Castell"},
	"Pim Dallow":     {sessions: []typed{{22, "shot", "Youth throws", "shot 3 kg", "practice", []string{"7.60", "7.92", "7.85", "8.01"}}}, consent: "Roel Dallow"},
	"Yusra Lindahl":  {notes: []written{{6, "pain", "right shin, in the last two kilometres", false}}},
	"Corvin Aldmark": {sessions: []typed{{41, "hammer", "With the big group", "hammer 7.26 kg", "practice", []string{"58.72", "59.40", "192-9", "x", "60.05"}}}},
}

type attempt struct {
	daysAgo   int
	session   string
	mark      string
	implement string
	setting   string
	focus     string
	spec      simcam.Spec // what all its clips share: event, faults, clothing
	clips     []shot
	digitise  bool
	drafted   bool     // every joint in every frame
	depth     bool     // the same in all clips, with the implement tracked and the circle marked
	worked    bool     // all clips worked out: flags by hand, joints, implement and circle tracked, questions answered
	accept    []string // findings to accept; the first one's cue is given
	word      string   // to the athlete
	state     string
}

func (a attempt) event() string {
	if a.spec.Event == "" {
		return "sprint-start"
	}
	return a.spec.Event
}

// shot is one phone's view of an attempt.
type shot struct {
	file       string
	camera     simcam.Camera
	capture    float64
	stored     float64
	untagged   bool // the file does not say its capture rate
	unanswered bool // nor has the coach looked at the clip's sheet
	upright    bool
	direction  float64
}

func (q shot) specFor(a store.NewAthlete, at attempt) simcam.Spec {
	s := at.spec
	s.Athlete, s.Hand, s.Leg = a.Body(), a.ThrowingHand, a.TakeoffLeg
	s.Camera, s.CaptureRate, s.FileRate, s.TagRate, s.Direction = q.camera, q.capture, q.stored, !q.untagged, q.direction
	s.Width, s.Height = 1280, 720
	if q.upright {
		s.Width, s.Height = 720, 1280
	}
	if s.CaptureRate == 0 {
		s.CaptureRate = 240
	}
	if s.FileRate == 0 {
		s.FileRate = 30
	}
	if s.Direction == 0 {
		s.Direction = 1
	}
	if s.Camera.Compression == 0 {
		s.Camera.Compression = 26
	}
	s.Seed = uint64(len(q.file))
	if e := sport.Of(s.Event); e.Curved || e.Pole() {
		_, _ = fmt.Sscanf(at.mark, "%f m", &s.Bar) // the mark is the height of the bar
	}
	return s
}

// slug is a clip's file name in the repository.
func slug(name string) string {
	keep := func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '.':
			return r
		case r == ' ' || r == '-':
			return '-'
		}
		return -1
	}
	return strings.ReplaceAll(strings.Map(keep, strings.ToLower(name)), "--", "-")
}

// Draw makes the club's clips, or those whose names are given, and says what it
// wrote.
func Draw(ctx context.Context, dir string, only []string, say io.Writer) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	wanted := map[string]bool{}
	for _, name := range only {
		wanted[slug(strings.TrimSuffix(name, ".mp4"))] = false
	}
	for _, who := range people() {
		for _, at := range who.attempts {
			for _, q := range at.clips {
				name := slug(q.file)
				if _, ok := wanted[strings.TrimSuffix(name, ".mp4")]; len(only) > 0 && !ok {
					continue
				}
				wanted[strings.TrimSuffix(name, ".mp4")] = true
				scene, err := simcam.New(q.specFor(who.athlete, at))
				if err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
				path := filepath.Join(dir, name)
				if err := scene.WriteClip(ctx, path); err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
				// The truth can be worked out again; only the pictures ship.
				if err := os.Remove(path + ".truth.json"); err != nil {
					return err
				}
				info, err := os.Stat(path)
				if err != nil {
					return err
				}
				fmt.Fprintf(say, "%-34s %4d frames %5.2f MB\n", name, len(scene.Truth.Frames), float64(info.Size())/1e6)
			}
		}
	}
	for name, drawn := range wanted {
		if !drawn {
			return fmt.Errorf("the demo has no clip %q", name)
		}
	}
	return nil
}

func faulty(event, variant string, kit int, faults map[string]float64) simcam.Spec {
	return simcam.Spec{Event: event, Variant: variant, Faults: faults, Kit: kit}
}

func athlete(name string, born int, sex body.Sex, height, mass float64, leg, hand, takeoff body.Side) store.NewAthlete {
	return store.NewAthlete{Name: name, Born: born, Sex: sex, Height: height, Mass: mass, FrontLeg: leg, ThrowingHand: hand, TakeoffLeg: takeoff}
}

// people are the athletes of Lindmoor: a club evening in late autumn, one week
// before an indoor meeting at home. Names and marks are invented.
func people() []person {
	const l, r = body.Left, body.Right
	type cam = simcam.Camera
	return []person{
		{athlete("Tavi Renholm", 2004, body.Male, 1.82, 76, l, r, l), []attempt{
			{daysAgo: 2, session: "Tuesday starts", mark: "10 m 1.92 s", setting: "practice", clips: []shot{{file: "renholm start 3.mp4"}}, digitise: true, state: "in_work"},
			{daysAgo: 9, session: "Flying thirties", mark: "30 m 3.41 s", setting: "practice", spec: simcam.Spec{Event: "running", Speed: 8.4},
				clips: []shot{{file: "tavi flying 30.mp4", camera: cam{Distance: 13}}}, state: "new"},
		}},
		{athlete("Odalys Ferrin", 2006, body.Female, 1.71, 61, l, r, l), []attempt{
			{daysAgo: 44, session: "First starts of the winter", mark: "10 m 2.16 s", setting: "practice", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 124, "early-rise": 13}},
				clips: []shot{{file: "odalys winter 1.mp4"}}, digitise: true, state: "sent"},
			{daysAgo: 30, session: "Starts with timing gate", mark: "10 m 2.13 s", setting: "practice", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 120, "early-rise": 12}},
				clips: []shot{{file: "odalys winter 2.mp4"}}, digitise: true, state: "sent"},
			{daysAgo: 16, session: "Starts with timing gate", mark: "10 m 2.11 s", setting: "practice", focus: "relaxed face, long pushes", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 118, "early-rise": 11}},
				clips: []shot{{file: "odalys blocks.mp4"}}, digitise: true, accept: []string{"S2", "S7"}, state: "sent"},
			{daysAgo: 9, session: "Blocks moved back", mark: "10 m 2.08 s", setting: "practice", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 110, "early-rise": 6}},
				clips: []shot{{file: "odalys after the cue.mp4"}}, digitise: true, state: "ready"},
			{daysAgo: 5, session: "Hall starts", mark: "10 m 2.06 s", setting: "practice", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 106, "early-rise": 4}},
				clips: []shot{{file: "odalys in the hall.mp4"}}, digitise: true, state: "ready"},
			{daysAgo: 1, session: "Starts with timing gate", mark: "10 m 2.05 s", setting: "practice", spec: simcam.Spec{Kit: 1, Faults: map[string]float64{"front-knee": 104, "early-rise": 2.5}},
				clips: []shot{{file: "odalys blocks again.mp4", untagged: true, unanswered: true}}, state: "new"},
			{daysAgo: 4, session: "Short approach jumps", mark: "5.38 m", setting: "practice", focus: "tall at the board", spec: faulty("long-jump", "hang", 1, map[string]float64{"lean-back": 20}),
				clips: []shot{{file: "odalys jump 4.mp4", camera: cam{Pan: true, Exposure: 0.001}, capture: 120}}, state: "new"},
		}},
		{athlete("Jorik Sandvale", 2008, body.Male, 1.76, 66, r, l, r), []attempt{
			{daysAgo: 0, session: "Club evening", mark: "60 m 7.41 s", setting: "competition", spec: simcam.Spec{Kit: 2, Faults: map[string]float64{"head-up": 34}},
				clips: []shot{{file: "IMG 0417 – Jorik.mp4", stored: 240, untagged: true, direction: -1}}, state: "new"},
			{daysAgo: 3, session: "Bar at the back field", mark: "1.79 m", setting: "practice", spec: faulty("high-jump", "", 2, map[string]float64{"upright-early": 0.9}),
				clips: []shot{{file: "jorik 179.mp4", camera: cam{Late: 0.5, Distance: 10}, capture: 120, direction: 1}}, state: "new"},
		}},
		{athlete("Brisa Haldane", 2001, body.Female, 1.74, 84, l, r, l), []attempt{
			{daysAgo: 40, session: "Cage, first long turns", mark: "55.90 m", implement: "hammer 4 kg", setting: "practice", focus: "all turns at one rhythm", spec: faulty("hammer", "", 3, map[string]float64{"drag": 28}),
				clips: []shot{{file: "haldane october back.mp4", camera: cam{Place: "back", Late: 1.0}, capture: 120}, {file: "haldane october side.mp4", camera: cam{Place: "side", Late: 1.0, Distance: 13}, capture: 120}}, worked: true, accept: []string{"H3"}, word: "Only the entry for the next three weeks. Let the ball go first, and film from behind again.", state: "sent"},
			{daysAgo: 20, session: "Entries, then whole throws", mark: "57.11 m", implement: "hammer 4 kg", setting: "practice", spec: faulty("hammer", "", 3, nil),
				clips: []shot{{file: "haldane november.mp4", camera: cam{Place: "back", Late: 1.0}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 36, session: "Weight, back in the hall", mark: "15.80 m", implement: "weight 9.08 kg", setting: "practice", spec: faulty("weight", "", 3, map[string]float64{"late-catch": 62}),
				clips: []shot{{file: "haldane weight october.mp4", camera: cam{Place: "back", Late: 0.6}, capture: 120}}, worked: true, accept: []string{"H8a"}, word: "Clap at each catch, no weight in your hands. Ten minutes, three times a week.", state: "sent"},
			{daysAgo: 15, session: "Weight after the clapping", mark: "16.44 m", implement: "weight 9.08 kg", setting: "practice", spec: faulty("weight", "", 3, map[string]float64{"late-catch": 38}),
				clips: []shot{{file: "haldane weight november.mp4", camera: cam{Place: "back", Late: 0.6}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 5, session: "Cage, last light", mark: "58.40 m", implement: "hammer 4 kg", setting: "practice", focus: "patience in the entry", spec: simcam.Spec{Event: "hammer", Kit: 3},
				clips: []shot{{file: "haldane hammer back.mp4", camera: cam{Place: "back", Late: 1.0, Sound: true}, capture: 120}, {file: "haldane hammer side.mp4", camera: cam{Place: "side", Late: 1.35, Distance: 13, Sound: true}, capture: 120}}, depth: true, state: "in_work"},
			{daysAgo: 1, session: "Indoor weight", mark: "17.02 m", implement: "weight 9.08 kg", setting: "practice", spec: faulty("weight", "", 3, map[string]float64{"late-catch": 50}),
				clips: []shot{{file: "haldane weight.mp4", camera: cam{Place: "back", Late: 0.6, Dim: 0.72, Noise: 5, Exposure: 0.002}, capture: 120}}, state: "new"},
		}},
		{athlete("Corvin Aldmark", 1998, body.Male, 1.90, 112, l, l, r), []attempt{
			{daysAgo: 6, session: "Sent by his brother", mark: "61.15 m", implement: "hammer 7.26 kg", setting: "competition", spec: simcam.Spec{Event: "hammer", Turns: 4, Kit: 4, Faults: map[string]float64{"drag": 28}},
				clips: []shot{{file: "through the net.mp4", camera: cam{Place: "back", Net: true, Post: true, Late: 1.5, Compression: 30, Shake: 1.5}, capture: 60, untagged: true}}, state: "new"},
		}},
		{athlete("Sunniva Orr", 2003, body.Female, 1.79, 86, l, r, l), []attempt{
			{daysAgo: 43, session: "Discus before the rain", mark: "45.20 m", implement: "discus 1 kg", setting: "practice", spec: faulty("discus", "full", 1, map[string]float64{"late-front": 0.10}),
				clips: []shot{{file: "sunniva october.mp4", camera: cam{Place: "back", Late: 0.3}, capture: 120}, {file: "sunniva october side.mp4", camera: cam{Place: "side", Late: 0.3, Distance: 14}, capture: 120}}, worked: true, accept: []string{"D7"}, word: "Two beats, nearly one. Half turns only until I see you on Thursday.", state: "sent"},
			{daysAgo: 22, session: "Half turns and six throws", mark: "46.75 m", implement: "discus 1 kg", setting: "practice", spec: faulty("discus", "full", 1, nil),
				clips: []shot{{file: "sunniva november.mp4", camera: cam{Place: "back", Late: 0.3}, capture: 120}, {file: "sunniva november side.mp4", camera: cam{Place: "side", Late: 0.3, Distance: 14}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 7, session: "Discus, three rhythms", mark: "47.90 m", implement: "discus 1 kg", setting: "practice", spec: faulty("discus", "full", 1, map[string]float64{"over-turned": 32, "wobble": 8}),
				clips: []shot{{file: "sunniva discus.mp4", camera: cam{Place: "back", Late: 0.3, Sound: true}, capture: 120}, {file: "sunniva discus side.mp4", camera: cam{Place: "side", Late: 0.9, Distance: 14, Zoom: 0.6, Sound: true}, capture: 240}}, depth: true, state: "in_work"},
		}},
		{athlete("Pim Dallow", 2012, body.Male, 1.52, 44, l, r, l), []attempt{
			{daysAgo: 8, session: "Youth throws", mark: "21.30 m", implement: "discus 1 kg", setting: "practice", spec: faulty("discus", "standing", 2, nil),
				clips: []shot{{file: "pim standing throw.mp4", capture: 120}}, state: "new"},
			{daysAgo: 8, session: "Youth throws", mark: "8.12 m", implement: "shot 3 kg", setting: "practice", spec: faulty("shot", "glide", 2, map[string]float64{"flat-centre": 22}),
				clips: []shot{{file: "pim shot.mp4", capture: 120}}, state: "new"},
		}},
		{athlete("Ruben Eskelund", 1995, body.Male, 1.88, 118, l, r, l), []attempt{
			{daysAgo: 45, session: "First rotations of the winter", mark: "15.60 m", implement: "shot 7.26 kg", setting: "practice", spec: faulty("shot", "rotational", 0, map[string]float64{"late-front": 0.11}),
				clips: []shot{{file: "ruben october.mp4", camera: cam{Late: 0.3}, capture: 120}}, worked: true, accept: []string{"D7"}, word: "Quick and quiet at the front. No full throws before the half turns sound right.", state: "sent"},
			{daysAgo: 21, session: "Half turns, then four full", mark: "16.02 m", implement: "shot 7.26 kg", setting: "practice", spec: faulty("shot", "rotational", 0, map[string]float64{"late-front": 0.06}),
				clips: []shot{{file: "ruben november.mp4", camera: cam{Late: 0.3}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 2, session: "Hall, before the meeting", mark: "16.35 m", implement: "shot 7.26 kg", setting: "practice", spec: faulty("shot", "rotational", 0, nil),
				clips: []shot{{file: "ruben rotation.mp4", camera: cam{Place: "oblique", Late: 0.3, Dim: 0.6, Noise: 7, Exposure: 0.003}, capture: 120}}, state: "in_work"},
		}},
		{athlete("Nadja Korvel", 2002, body.Female, 1.75, 70, l, l, r), []attempt{
			{daysAgo: 38, session: "Five steps, stubble field", mark: "42.10 m", implement: "javelin 600 g", setting: "practice", spec: faulty("javelin", "foot-slanted", 3, map[string]float64{"late-block": 0.14}),
				clips: []shot{{file: "nadja october.mp4", camera: cam{Late: 0.45}, capture: 120}}, worked: true, accept: []string{"J3"}, word: "Da-dam. Balls first, the javelin when the rhythm is there.", state: "sent"},
			{daysAgo: 17, session: "Balls and six javelins", mark: "43.55 m", implement: "javelin 600 g", setting: "practice", spec: faulty("javelin", "foot-slanted", 3, map[string]float64{"late-block": 0.08}),
				clips: []shot{{file: "nadja november.mp4", camera: cam{Late: 0.45}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 3, session: "Cross steps and throw", mark: "44.76 m", implement: "javelin 600 g", setting: "practice", spec: faulty("javelin", "foot-slanted", 3, map[string]float64{"late-block": 0.12}),
				clips: []shot{{file: "nadja javelin side.mp4", camera: cam{Pan: true}, capture: 120, direction: -1}, {file: "nadja javelin back.mp4", camera: cam{Place: "back", Late: 0.4, Distance: 20}, capture: 120}}, state: "in_work"},
		}},
		{athlete("Elio Thorsby", 2000, body.Male, 1.86, 82, l, r, l), []attempt{
			{daysAgo: 10, session: "Full approach", mark: "63.88 m", implement: "javelin 800 g", setting: "competition", spec: faulty("javelin", "foot-across", 4, nil),
				clips: []shot{{file: "thorsby 63.mp4", camera: cam{Late: 0.45}, capture: 240}}, state: "new"},
			{daysAgo: 52, session: "Short approach", mark: "6.42 m", setting: "practice", spec: faulty("long-jump", "hitch-kick", 4, map[string]float64{"short-drive": 50}),
				clips: []shot{{file: "thorsby october.mp4", camera: cam{Late: 0.35, Distance: 16}, capture: 120}}, worked: true, accept: []string{"L1b"}, word: "Push until it is gone. Low box twice a week, and no full run-ups for now.", state: "sent"},
			{daysAgo: 29, session: "Ten steps", mark: "6.63 m", setting: "practice", spec: faulty("long-jump", "hitch-kick", 4, map[string]float64{"short-drive": 30}),
				clips: []shot{{file: "thorsby november.mp4", camera: cam{Late: 0.35, Distance: 16}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 10, session: "Decathlon evening", mark: "6.91 m", setting: "competition", spec: faulty("long-jump", "hitch-kick", 4, nil),
				clips: []shot{{file: "thorsby long.mp4", camera: cam{Late: 0.35, Distance: 16}, capture: 240}}, state: "new"},
		}},
		{athlete("Wren Castell", 2013, body.Female, 1.46, 37, r, r, l), []attempt{
			{daysAgo: 4, session: "Youth jumps", mark: "3.94 m", setting: "practice", spec: faulty("long-jump", "sail", 1, map[string]float64{"fold": 38}),
				clips: []shot{{file: "wren jump.mp4", camera: cam{Pan: true, Shake: 2}, capture: 60, stored: 60, untagged: true}}, state: "new"},
		}},
		{athlete("Anneke Dorn", 2004, body.Female, 1.81, 62, l, r, l), []attempt{
			{daysAgo: 48, session: "Seven steps, low bar", mark: "1.65 m", setting: "practice", spec: faulty("high-jump", "", 3, map[string]float64{"soft-knee": 0.05}),
				clips: []shot{{file: "anneke october.mp4", camera: cam{Late: 0.75, Distance: 12}, capture: 120}}, worked: true, accept: []string{"HJ7"}, word: "Low box and plant walks twice a week, and squats. The bar can wait.", state: "sent"},
			{daysAgo: 24, session: "Plant walks and eight jumps", mark: "1.71 m", setting: "practice", spec: faulty("high-jump", "", 3, nil),
				clips: []shot{{file: "anneke november.mp4", camera: cam{Late: 0.75, Distance: 12}, capture: 120},
					{file: "anneke november curve.mp4", camera: cam{Place: "far-oblique", Distance: 13, Above: 3}, capture: 120, direction: -1}}, worked: true, state: "ready"},
			{daysAgo: 3, session: "Bar at the back field", mark: "1.74 m", setting: "practice", spec: faulty("high-jump", "", 3, nil),
				clips: []shot{{file: "anneke upright.mp4", camera: cam{Late: 0.75, Distance: 12}, capture: 120, upright: true, direction: -1}}, state: "new"},
		}},
		{athlete("Marek Ivarsson", 1999, body.Male, 1.84, 79, l, r, l), []attempt{
			{daysAgo: 50, session: "Vault hall, eight steps", mark: "4.30 m", implement: "pole 4.30 m", setting: "practice", spec: faulty("pole-vault", "", 0, map[string]float64{"low-plant": 0.30}),
				clips: []shot{{file: "marek 430.mp4", camera: cam{Late: 0.45, Early: 0.3}, capture: 120}}, worked: true, accept: []string{"P1"}, word: "Plant walks along the wall line before every session. Hands before feet.", state: "sent"},
			{daysAgo: 31, session: "Vault hall, ten steps", mark: "4.50 m", implement: "pole 4.30 m", setting: "practice", spec: faulty("pole-vault", "", 0, nil),
				clips: []shot{{file: "marek 450.mp4", camera: cam{Late: 0.45, Early: 0.3}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 12, session: "Vault hall", mark: "4.60 m", implement: "pole 4.45 m", setting: "practice", spec: faulty("pole-vault", "", 0, nil),
				clips: []shot{{file: "marek 460.mp4", camera: cam{Late: 0.45, Early: 0.3}, capture: 120}}, state: "new"},
			{daysAgo: 0, session: "Vault hall", mark: "no height", implement: "pole 4.45 m", setting: "practice", spec: faulty("pole-vault", "", 0, map[string]float64{"low-plant": 0.27}),
				clips: []shot{{file: "marek video.mp4", camera: cam{Pan: true, Compression: 32, Shake: 3, Exposure: 0.008, Zoom: 0.85}, capture: 30, stored: 30, untagged: true}}, state: "new"},
		}},
		{athlete("Yusra Lindahl", 1986, body.Female, 1.66, 58, r, r, r), []attempt{
			{daysAgo: 41, session: "Easy 6 km", mark: "5:31 a km", setting: "practice", spec: simcam.Spec{Event: "running", Variant: "steady", Speed: 3.3, Kit: 1, Faults: map[string]float64{"over-stride": 0.2}},
				clips: []shot{{file: "yusra october.mp4", camera: cam{Distance: 12}, capture: 120}}, worked: true, accept: []string{"R1"}, word: "Step-overs in the warm-up, then half a minute of each kilometre with your mind on it.", state: "sent"},
			{daysAgo: 18, session: "Easy 7 km", mark: "5:24 a km", setting: "practice", spec: simcam.Spec{Event: "running", Variant: "steady", Speed: 3.3, Kit: 1},
				clips: []shot{{file: "yusra november.mp4", camera: cam{Distance: 12}, capture: 120}}, worked: true, state: "ready"},
			{daysAgo: 1, session: "Easy 8 km", mark: "5:18 a km", setting: "practice", spec: simcam.Spec{Event: "running", Speed: 3.3, Kit: 1, Faults: map[string]float64{"over-stride": 0.12}},
				clips: []shot{{file: "yusra easy.mp4", camera: cam{Pan: true, Shake: 2.5}, capture: 120}}, drafted: true, state: "in_work"},
		}},
	}
}

// Shipped gives a clip of the club by its file name, with the truth of it.
func Shipped(name string) ([]byte, simcam.Truth, error) {
	for _, who := range people() {
		for _, at := range who.attempts {
			for _, q := range at.clips {
				if q.file != name {
					continue
				}
				scene, err := simcam.New(q.specFor(who.athlete, at))
				if err != nil {
					return nil, simcam.Truth{}, err
				}
				raw, err := files.ReadFile("clips/" + slug(name))
				return raw, scene.Truth, err
			}
		}
	}
	return nil, simcam.Truth{}, fmt.Errorf("the club has no clip %q", name)
}

// ClipNames lists the shipped clips, in the order of the club.
func ClipNames() (out []string) {
	for _, who := range people() {
		for _, at := range who.attempts {
			for _, q := range at.clips {
				out = append(out, q.file)
			}
		}
	}
	return out
}
