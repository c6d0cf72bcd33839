package workshop

import "math"

// Drawing is a picture to scale: metres to the right and up. It is drawn on screens, as SVG and
// on paper alike.
type Drawing struct {
	// View is what one sees: the ground from above, or a side.
	View   string  `json:"view" enum:"above,side"`
	Shapes []Shape `json:"shapes"`
}

// Shape is a part of a drawing.
type Shape struct {
	Kind   string       `json:"kind" enum:"line,area,dot,text"`
	Role   string       `json:"role" enum:"ground,fixture,way,foot,measured,mark,path,band,aim,limb,faint,note" doc:"what it stands for"`
	Points [][2]float64 `json:"points"`
	Text   string       `json:"text,omitempty" required:"false"`
	// Foot is which foot a dot is of.
	Foot string `json:"foot,omitempty" required:"false" enum:"left,right,"`
	// N is the place of the plan that it shows, counted from its first, or -1.
	N int `json:"n"`
}

func (d *Drawing) add(kind, role, text string, points ...[2]float64) {
	d.Shapes = append(d.Shapes, Shape{Kind: kind, Role: role, Points: points, Text: text, N: -1})
}

func (d *Drawing) line(role string, points ...[2]float64) { d.add("line", role, "", points...) }

func (d *Drawing) area(role string, points ...[2]float64) { d.add("area", role, "", points...) }

func (d *Drawing) text(role, text string, at [2]float64) { d.add("text", role, text, at) }

func (d *Drawing) dot(role, foot string, n int, at [2]float64) {
	d.Shapes = append(d.Shapes, Shape{Kind: "dot", Role: role, Foot: foot, N: n, Points: [][2]float64{at}})
}

// Box is the least rectangle around it: left, bottom, right, top.
func (d Drawing) Box() (box [4]float64) {
	box = [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	for _, s := range d.Shapes {
		for _, p := range s.Points {
			box = [4]float64{math.Min(box[0], p[0]), math.Min(box[1], p[1]), math.Max(box[2], p[0]), math.Max(box[3], p[1])}
		}
	}
	return box
}
