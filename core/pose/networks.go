package pose

import (
	"fmt"
	"math"
)

// Network is one of the networks that look at a picture. Which program runs them, and
// where, is nobody's concern here: see [Runner].
type Network string

// The networks that ship with the application.
const (
	// Joints finds the 17 joints of one person in a square (MoveNet Thunder).
	Joints Network = "joints"
	// Details finds 33 points, heels, toes and knuckles among them (BlazePose). It is
	// good only in the right square, turned so that the trunk stands upright, and answers
	// with confident nonsense otherwise: its word is weighed against the other's.
	Details Network = "details"
)

// Side of the square that both networks take, px.
const side = 256

// Spec is what a runner must know of a network.
type Spec struct {
	Network Network `json:"network"`
	File    string  `json:"file" doc:"name of its files without extension"`
	Output  string  `json:"output" doc:"name of the result"`
	Side    int     `json:"side" doc:"px of the square that it takes, three bytes each"`
	Unit    bool    `json:"unit" doc:"it takes numbers from 0 to 1 instead of bytes"`
	Shape   []int64 `json:"shape" doc:"of what it answers"`
}

// Specs lists the networks.
func Specs() []Spec {
	return []Spec{
		{Joints, "movenet-thunder", "Identity", side, false, []int64{1, 1, 17, 3}},
		{Details, "blazepose-full", "Identity_2", side, true, []int64{1, 195}},
	}
}

// Runner runs a network on a square of 256 x 256 px, three bytes each, and gives what it
// answers. The square may be changed only after it has returned, the answer only at the
// next call.
type Runner interface {
	Run(n Network, square []byte) (answer []float32, err error)
}

// Seen is where a landmark was seen, px of the picture, and how sure that is, 0 to 1.
type Seen struct{ X, Y, Score float64 }

// Body is one person in one picture, by landmark.
type Body map[string]Seen

// joints are what the first network answers, in its order.
var joints = []string{
	"nose", "left_eye", "right_eye", "left_ear", "right_ear", "left_shoulder", "right_shoulder", "left_elbow", "right_elbow",
	"left_wrist", "right_wrist", "left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle",
}

// firstLimb is the first of the joints below the head.
const firstLimb = 5

// details are those of the second network's points that have a landmark.
var details = map[string]int{
	"left_ear": 7, "right_ear": 8, "left_shoulder": 11, "right_shoulder": 12, "left_elbow": 13, "right_elbow": 14, "left_wrist": 15, "right_wrist": 16, "left_hand": 19, "right_hand": 20,
	"left_hip": 23, "right_hip": 24, "left_knee": 25, "right_knee": 26, "left_ankle": 27, "right_ankle": 28, "left_heel": 29, "right_heel": 30, "left_toe": 31, "right_toe": 32,
}

// looker looks at squares of one picture.
type looker struct {
	picture *Picture
	runner  Runner
	square  []byte
	shown   func(Square)
}

// Squares are cut out on a grid: programs that run networks differ in the last digits of
// what they answer, and so do the places where to look next; on a grid they see the same
// bytes all the same.
const (
	grid     = 2.0 // px
	gridSide = 4.0
	gridTurn = 1.0 / 64 // radians
)

// onGrid is the nearest square on the grid.
func (s Square) onGrid() Square {
	to := func(v, step float64) float64 { return step * math.Round(v/step) }
	return Square{to(s.X, grid), to(s.Y, grid), max(gridSide, to(s.Side, gridSide)), to(s.Turn, gridTurn)}
}

// cut cuts a square out for a network.
func (l looker) cut(s Square) []byte {
	l.picture.Cut(s, side, l.square)
	if l.shown != nil {
		l.shown(s)
	}
	return l.square
}

// joints finds the joints of one person in a square, in the network's order.
func (l looker) joints(s Square) ([]Seen, error) {
	s = s.onGrid()
	a, err := l.runner.Run(Joints, l.cut(s))
	if err != nil {
		return nil, err
	}
	if len(a) < 3*len(joints) {
		return nil, fmt.Errorf("the network of joints answered %d numbers", len(a))
	}
	out := make([]Seen, len(joints))
	for i := range out {
		x, y := s.at(float64(a[3*i+1]), float64(a[3*i]))
		out[i] = Seen{x, y, float64(a[3*i+2])}
	}
	return out, nil
}

// details finds the landmarks of one person in a square.
func (l looker) details(s Square) (Body, error) {
	s = s.onGrid()
	a, err := l.runner.Run(Details, l.cut(s))
	if err != nil {
		return nil, err
	}
	if len(a) < 33*5 {
		return nil, fmt.Errorf("the network of details answered %d numbers", len(a))
	}
	out := Body{}
	for id, i := range details {
		x, y := s.at(float64(a[5*i])/side, float64(a[5*i+1])/side)
		out[id] = Seen{x, y, 1 / (1 + math.Exp(-float64(a[5*i+3])))}
	}
	return out, nil
}
