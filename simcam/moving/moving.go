// Package moving draws the figures of drills: some seconds of a simulated movement, cut, slowed, held and
// repeated, or of poses with feet that stand, seen from one side.
package moving

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
	"neokinema/simcam/move"
)

// Rate is how many pictures a second a figure has.
const Rate = 25

// Spec says how a figure moves: pieces of an event's movement, or poses.
type Spec struct {
	Event   string             `yaml:"event"`
	Variant string             `yaml:"variant"`
	Faults  map[string]float64 `yaml:"faults"`
	Turns   int                `yaml:"turns"`
	Winds   int                `yaml:"winds"`
	Pace    float64            `yaml:"pace"`  // of a run, m/s
	View    float64            `yaml:"view"`  // heading from the athlete to who looks, degrees; 90 is from the right side
	Bare    bool               `yaml:"bare"`  // without an implement
	Stick   string             `yaml:"stick"` // held on the shoulders, behind the elbows or at the hips, in place of the implement
	Stay    bool               `yaml:"stay"`  // who looks goes along
	Parts   []Part             `yaml:"parts"`
	Poses   []Pose             `yaml:"poses"`
	Things  []Thing            `yaml:"things"`
}

// Part is a piece of an event's movement: from one key position to another, each with seconds more or
// less, such as set-0.3; "start" and "end" are those of the movement.
type Part struct {
	From string  `yaml:"from"`
	To   string  `yaml:"to"`
	Slow float64 `yaml:"slow"` // how many times slower; 1 when 0
	Hold float64 `yaml:"hold"` // s that the last picture stands
	Back bool    `yaml:"back"` // and the same way back
}

// Pose is one that is held on the way, s after the one before. What is not named stays as it was.
type Pose struct {
	After   float64   `yaml:"after"`
	Hip     []float64 `yaml:"hip"` // x and height in standing heights
	Heading *float64  `yaml:"heading"`
	Lean    *float64  `yaml:"lean"`
	Twist   *float64  `yaml:"twist"`
	Bend    *float64  `yaml:"bend"`
	Nod     *float64  `yaml:"nod"`
	Left    []float64 `yaml:"left"`  // a leg in the air: flex, knee, point
	Right   []float64 `yaml:"right"` // the same
	Stand   []float64 `yaml:"stand"` // the left foot on the ground: toe x, z (standing heights), heading, heel up; y too as a fifth
	Other   []float64 `yaml:"other"` // the right foot
	LeftArm []float64 `yaml:"left_arm"`
	// flex, out, elbow, turn
	RightArm []float64 `yaml:"right_arm"`
	Grip     []float64 `yaml:"grip"` // both hands stay at x, height and aside, standing heights; none lets go
	Held     []float64 `yaml:"held"` // something in both hands, of the first pose: its radius, m; a second number: in the right hand alone
	Aim      *float64  `yaml:"aim"`  // a javelin in the right hand, where nothing is held, and where to anything leaves: over level, degrees
	Away     bool      `yaml:"away"` // it leaves here
}

// Thing stands beside the figure.
type Thing struct {
	Kind string  `yaml:"kind" json:"kind" enum:"box,bar,cord,cone,mark,wall,rope,mat,hurdle"`
	X    float64 `yaml:"x" json:"x" doc:"m along the picture"`
	Y    float64 `yaml:"y" json:"y" doc:"m over the ground"`
	W    float64 `yaml:"w" json:"w"`
	H    float64 `yaml:"h" json:"h"`
	At   string  `yaml:"at" json:"-"` // a landmark at the first picture, from which x and y count
}

// Drawn is a figure as places in the plane of who looks, m: x to the right, y up.
type Drawn struct {
	Rate   int                  `json:"rate"`
	Frames int                  `json:"frames"`
	Points map[string][]float64 `json:"points" doc:"x and y of a landmark, frame after frame"`
	Held   []float64            `json:"held" doc:"of what is held; empty without"`
	Size   float64              `json:"size" doc:"of what is held: radius, m"`
	Wire   bool                 `json:"wire" doc:"it hangs on the hands by a wire"`
	Shaft  []float64            `json:"shaft" doc:"of a pole or a javelin: both ends, frame after frame"`
	Near   string               `json:"near" doc:"the side of the body that is nearer to who looks, in the first picture" enum:"left,right"`
	Things []Thing              `json:"things"`
	Low    [2]float64           `json:"low"`
	High   [2]float64           `json:"high"`
}

// athlete is who shows drills.
var athlete = body.Person{Sex: body.Female, Height: 1.74, Mass: 66}

// longest is how long a figure moves, s.
const longest = 12.0

// Draw draws a figure.
func Draw(s Spec) (Drawn, error) {
	if (len(s.Parts) > 0) == (len(s.Poses) > 0) {
		return Drawn{}, errors.New("a figure has parts of a movement, or poses")
	}
	if s.View == 0 {
		s.View = 90
	}
	if len(s.Poses) > 0 {
		return posed(s)
	}
	return cut(s)
}

// picture is one instant.
type picture struct {
	body  figure.Body
	held  *r3.Vec
	shaft *[2]r3.Vec
}

func cut(s Spec) (Drawn, error) {
	m, err := move.New(athlete, move.Wish{Event: s.Event, Variant: s.Variant, Faults: s.Faults, Turns: s.Turns, Winds: s.Winds, Speed: s.Pace})
	if err != nil {
		return Drawn{}, err
	}
	var list []picture
	for _, p := range s.Parts {
		from, err := when(m, p.From)
		if err != nil {
			return Drawn{}, err
		}
		to, err := when(m, p.To)
		if err != nil {
			return Drawn{}, err
		}
		if to <= from {
			return Drawn{}, fmt.Errorf("%s comes after %s", p.From, p.To)
		}
		slow := p.Slow
		if slow == 0 {
			slow = 1
		}
		var piece []picture
		for k := 0; ; k++ {
			t := from + float64(k)/Rate/slow
			if t > to {
				break
			}
			st := m.At(t)
			one := picture{body: st.Body}
			if s.Stick != "" {
				if one.body, one.shaft, err = held(one.body, s.Stick); err != nil {
					return Drawn{}, err
				}
			} else if !s.Bare {
				if c, ok := st.Implement["centre"]; ok {
					one.held = &c
				}
				for _, ends := range [][2]string{{"tail", "tip"}, {move.PolePoint(0), move.PolePoint(poleLast(st.Implement))}} {
					a, okA := st.Implement[ends[0]]
					b, okB := st.Implement[ends[1]]
					if okA && okB && ends[0] != ends[1] {
						one.shaft = &[2]r3.Vec{a, b}
					}
				}
			}
			piece = append(piece, one)
		}
		if len(piece) == 0 {
			return Drawn{}, fmt.Errorf("%s to %s is shorter than a picture", p.From, p.To)
		}
		list = append(list, piece...)
		if p.Hold > 0 {
			list = append(list, slices.Repeat(piece[len(piece)-1:], int(p.Hold*Rate))...)
		}
		if p.Back {
			back := slices.Clone(piece)
			slices.Reverse(back)
			list = append(list, back...)
		}
	}
	out, err := project(s, list)
	if m.Thrown.Kind != "" && !s.Bare && s.Stick == "" {
		out.Size = m.Thrown.Diameter / 2
		out.Wire = s.Event == "hammer" || s.Event == "weight"
	}
	return out, err
}

// poleLast is the highest point of a pole that an implement has.
func poleLast(im move.Implement) (last int) {
	for i := 1; ; i++ {
		if _, ok := im[move.PolePoint(i)]; !ok {
			return i - 1
		}
	}
}

// when reads a key position with seconds more or less.
func when(m *move.Motion, text string) (float64, error) {
	name, by := text, 0.0
	if i := strings.LastIndexAny(text, "+-"); i > 0 {
		v, err := strconv.ParseFloat(text[i:], 64)
		if err != nil {
			return 0, fmt.Errorf("%q is no time", text)
		}
		name, by = text[:i], v
	}
	switch name {
	case "start":
		return m.First + by, nil
	case "end":
		return m.Last + by, nil
	}
	t, ok := m.Times[name]
	if !ok {
		return 0, fmt.Errorf("there is no %q; there are %s", name, strings.Join(slices.Sorted(maps.Keys(m.Times)), ", "))
	}
	return min(max(t+by, m.First), m.Last), nil
}

// project puts pictures into the plane of who looks.
func project(s Spec, list []picture) (Drawn, error) {
	if n := float64(len(list)) / Rate; n > longest || len(list) < Rate {
		return Drawn{}, fmt.Errorf("a figure moves for 1 to %g s; this one for %.1f", longest, n)
	}
	to := figure.Along(s.View)
	right := r3.Cross(r3.Scale(-1, to), figure.Up)
	out := Drawn{Rate: Rate, Frames: len(list), Points: map[string][]float64{}, Held: []float64{}, Shaft: []float64{}, Things: []Thing{}, Low: [2]float64{math.Inf(1), 0}, High: [2]float64{math.Inf(-1), math.Inf(-1)}}
	round := func(v float64) float64 { return math.Round(1000*v) / 1000 }
	ids := body.Landmarks()
	for _, p := range list {
		mid := p.body.Mid(figure.Hip)
		at := func(v r3.Vec) (float64, float64) {
			if s.Stay {
				v.X, v.Z = v.X-mid.X, v.Z-mid.Z
			}
			return round(r3.Dot(v, right)), round(v.Y)
		}
		add := func(to []float64, v r3.Vec, counts bool) []float64 {
			x, y := at(v)
			if counts {
				out.Low[0], out.High[0] = math.Min(out.Low[0], x), math.Max(out.High[0], x)
				out.Low[1], out.High[1] = math.Min(out.Low[1], y), math.Max(out.High[1], y)
			}
			return append(to, x, y)
		}
		for i, id := range ids {
			out.Points[id] = add(out.Points[id], p.body[i], true)
		}
		if p.held != nil {
			out.Held = add(out.Held, *p.held, r3.Norm(r3.Sub(*p.held, mid)) < 2.6)
		}
		if p.shaft != nil {
			out.Shaft = add(add(out.Shaft, p.shaft[0], false), p.shaft[1], false)
		}
	}
	if len(out.Held) != 0 && len(out.Held) != 2*len(list) || len(out.Shaft) != 0 && len(out.Shaft) != 4*len(list) {
		return out, errors.New("an implement that is there in some pictures only")
	}
	out.Near = "left"
	b := list[0].body
	if r3.Dot(r3.Sub(b.At(figure.Right, figure.Hip), b.At(figure.Left, figure.Hip)), to) > 0 {
		out.Near = "right"
	}
	for _, t := range s.Things {
		if t.At != "" {
			p, ok := out.Points[t.At]
			if !ok {
				return out, fmt.Errorf("there is no landmark %q", t.At)
			}
			t.X, t.Y = t.X+p[0], t.Y+p[1]
		}
		out.Low[0], out.High[0] = math.Min(out.Low[0], t.X-t.W/2), math.Max(out.High[0], t.X+t.W/2)
		out.High[1] = math.Max(out.High[1], t.Y+t.H)
		out.Things = append(out.Things, t)
	}
	return out, nil
}
