// Package fieldsheet puts a plan of the workshop on paper and into a picture: to scale, with what
// is laid out by tape.
package fieldsheet

import (
	"encoding/xml"
	"fmt"
	"io"
	"math"
	"strings"

	"neokinema/core/workshop"
	"neokinema/internal/paper"
)

// Sheet is what stands on one.
type Sheet struct {
	Title  string // the question
	Name   string // whose it is, and when
	Inputs []string
	Answer workshop.Answer
}

// style is how a role is drawn; widths in mm.
type style struct {
	colour paper.Colour
	width  float64
	dashed bool
	fill   float64 // how much of the colour fills an area, 0 to 1
}

var styles = map[string]style{
	"ground": {paper.Quiet, 0.2, false, 0.10}, "fixture": {paper.Ink, 0.8, false, 0}, "way": {paper.Sky, 0.35, true, 0}, "foot": {paper.Ink, 0.3, false, 1},
	"measured": {paper.Clay, 0.4, false, 0}, "mark": {paper.Clay, 0.5, false, 1}, "path": {paper.Sky, 0.5, false, 0}, "band": {paper.Sky, 0, false, 0.25},
	"aim": {paper.Moss, 0.5, true, 0}, "limb": {paper.Ink, 0.9, false, 0}, "faint": {paper.Quiet, 0.2, true, 0}, "note": {paper.Quiet, 0.2, false, 0},
}

// around is the box of a drawing with a margin; a runway, which is long and thin, gets room for
// its texts.
func around(d workshop.Drawing) (left, bottom, width, height float64) {
	b := d.Box()
	pad := 0.04*math.Max(b[2]-b[0], b[3]-b[1]) + 0.1
	return b[0] - pad, b[1] - pad, b[2] - b[0] + 2*pad, b[3] - b[1] + 2*pad
}

// WritePDF lays a plan out on one page: the drawing above the fold, what is laid out below it.
func WritePDF(w io.Writer, size paper.Size, sh Sheet) error {
	s := paper.New(size, "P", sh.Title, sh.Name)
	s.Style(18, "B", paper.Ink)
	s.CellFormat(0, 8, sh.Title, "", 1, "L", false, 0, "")
	s.Style(10, "", paper.Quiet)
	s.CellFormat(0, 5, sh.Name, "", 1, "L", false, 0, "")
	s.Ln(2)
	if d := sh.Answer.Drawing; d != nil {
		_, tall := s.GetPageSize()
		drawn(s, *d, tall/2-s.GetY()-6)
	}
	s.Ln(2)
	table(s, sh.Answer.Places)
	s.Ln(2)
	s.Style(10, "", paper.Ink)
	for _, says := range sh.Answer.Says {
		s.MultiCell(0, 5, says, "", "L", false)
	}
	s.Style(8.5, "", paper.Quiet)
	s.MultiCell(0, 4.2, strings.Join(sh.Inputs, " · "), "", "L", false)
	if sh.Answer.Caution != "" {
		s.MultiCell(0, 4.2, sh.Answer.Caution, "", "L", false)
	}
	return s.Close(w)
}

// table lists places with what is laid out by tape, marks in bold; of many only the marks.
func table(s *paper.Sheet, places []workshop.Place) {
	if len(places) == 0 {
		return
	}
	bar := places[0].Near > 0
	columns := []string{"", "foot", "from the edge"}
	if bar {
		columns = []string{"", "foot", "out from the bar", "along", "near upright", "far upright"}
	}
	first := s.Width * 0.3
	rest := (s.Width - first) / float64(len(columns)-1)
	row := func(high float64, cells []string) {
		for i, c := range cells {
			if i == 0 {
				s.CellFormat(first, high, c, "", 0, "L", false, 0, "")
			} else {
				s.CellFormat(rest, high, c, "", 0, "R", false, 0, "")
			}
		}
		s.Ln(high)
	}
	s.Style(8.5, "", paper.Quiet)
	row(5, columns)
	metres := func(v float64) string { return strings.ReplaceAll(fmt.Sprintf("%.2f m", v), "-", "−") }
	for i, p := range places {
		if !p.Mark && len(places) > mostListed {
			continue
		}
		size, weight, high := 10.0, "", 5.4
		if p.Mark {
			size, weight, high = 13, "B", 7
		}
		s.Style(size, weight, paper.Ink)
		cells := []string{fmt.Sprintf("%d  %s", i+1, p.Name), p.Foot, metres(math.Abs(p.X))}
		if bar {
			cells = []string{cells[0], p.Foot, metres(p.Y), metres(p.X), metres(p.Near), metres(p.Far)}
		}
		row(high, cells)
	}
	if bar {
		s.Style(8.5, "", paper.Quiet)
		s.MultiCell(0, 4.2, "Along: from the near upright along the bar, towards the far one; minus is outside of the near upright. The last two are tapes from the feet of both uprights: where they cross lies the place.", "", "L", false)
	}
}

// mostListed is how many places are listed each; of more only what is laid out.
const mostListed = 16

// scales are those that a ruler has.
var scales = []float64{10, 20, 25, 50, 75, 100, 125, 150, 200, 250, 300, 400, 500}

// drawn draws to one of the usual scales, as large as it goes into the width and a height, mm, and
// says the scale.
func drawn(s *paper.Sheet, d workshop.Drawing, room float64) {
	left, bottom, width, height := around(d)
	scale := scales[len(scales)-1]
	for _, k := range scales {
		if 1000*width/k <= s.Width && 1000*height/k <= room {
			scale = k
			break
		}
	}
	mm := 1000 / scale
	top := s.GetY()
	off := (s.Width - width*mm) / 2
	at := func(p [2]float64) (x, y float64) {
		return paper.Margin + off + (p[0]-left)*mm, top + (bottom+height-p[1])*mm
	}
	var taken [][2]float64
	for _, shape := range d.Shapes {
		st := styles[shape.Role]
		c := st.colour
		s.SetDrawColor(c[0], c[1], c[2])
		s.SetFillColor(c[0], c[1], c[2])
		s.SetLineWidth(math.Max(0.1, st.width))
		if st.dashed {
			s.SetDashPattern([]float64{1.2, 0.9}, 0)
		}
		switch shape.Kind {
		case "line":
			// One path, so that dashes run on.
			for i, p := range shape.Points {
				if x, y := at(p); i == 0 {
					s.MoveTo(x, y)
				} else {
					s.LineTo(x, y)
				}
			}
			s.DrawPath("D")
		case "area":
			s.SetAlpha(st.fill, "Normal")
			// The library closes polygons by itself.
			var list []paper.Point
			for _, p := range shape.Points {
				x, y := at(p)
				list = append(list, paper.Point{X: x, Y: y})
			}
			s.Polygon(list, "F")
			s.SetAlpha(1, "Normal")
		case "dot":
			x, y := at(shape.Points[0])
			dot(s, shape, x, y)
		case "text":
			x, y := at(shape.Points[0])
			s.Style(8, "", c)
			wide := s.GetStringWidth(shape.Text) + 1
			x, y = math.Min(math.Max(x+1.2, paper.Margin), paper.Margin+s.Width-wide), y-4.2
			for _, t := range taken {
				if math.Abs(t[1]-y) < 3.6 && math.Abs(t[0]-x) < math.Max(wide, 14) {
					y = t[1] + 3.8
				}
			}
			taken = append(taken, [2]float64{x, y})
			s.SetXY(x, y)
			s.CellFormat(wide, 3.6, shape.Text, "", 0, "L", false, 0, "")
		}
		s.SetDashPattern(nil, 0)
	}
	s.SetXY(paper.Margin, top+height*mm+1)
	s.Style(8, "", paper.Quiet)
	s.CellFormat(0, 4, fmt.Sprintf("drawn 1 : %.0f, %.0f mm a metre; left feet round, right feet square, hollow: measured in a clip", scale, mm), "", 1, "L", false, 0, "")
}

// dot draws a foot: left ones round, right ones square, measured ones hollow.
func dot(s *paper.Sheet, shape workshop.Shape, x, y float64) {
	how := "F"
	if shape.Role == "measured" {
		how = "D"
	}
	r := 0.9
	if shape.Role == "mark" {
		r = 1.3
	}
	if shape.Foot == "right" {
		s.Rect(x-r, y-r, 2*r, 2*r, how)
	} else {
		s.Circle(x, y, r, how)
	}
}

// WriteSVG is the drawing as a picture of its own, to scale: 40 px a metre, less when it is long.
func WriteSVG(w io.Writer, sh Sheet) error {
	d := sh.Answer.Drawing
	if d == nil {
		return fmt.Errorf("%s has no drawing", sh.Title)
	}
	left, bottom, width, height := around(*d)
	k := math.Min(40, 1600/math.Max(width, height))
	at := func(p [2]float64) string { return fmt.Sprintf("%.1f,%.1f", (p[0]-left)*k, (bottom+height-p[1])*k) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %.0f %.0f" width="%.0f" height="%.0f" font-family="sans-serif" font-size="13">`, width*k, height*k, width*k, height*k)
	fmt.Fprintf(&b, `<title>%s, %.2f px a metre</title>`, escaped(sh.Title+" "+sh.Name), k)
	for _, shape := range d.Shapes {
		st := styles[shape.Role]
		colour := fmt.Sprintf("#%02x%02x%02x", st.colour[0], st.colour[1], st.colour[2])
		dash := ""
		if st.dashed {
			dash = ` stroke-dasharray="5 4"`
		}
		var list []string
		for _, p := range shape.Points {
			list = append(list, at(p))
		}
		switch shape.Kind {
		case "line":
			fmt.Fprintf(&b, `<polyline points="%s" fill="none" stroke="%s" stroke-width="%.1f"%s/>`, strings.Join(list, " "), colour, 1+2*st.width, dash)
		case "area":
			fmt.Fprintf(&b, `<polygon points="%s" fill="%s" fill-opacity="%.2f"/>`, strings.Join(list, " "), colour, st.fill)
		case "dot":
			x, y, _ := strings.Cut(list[0], ",")
			fill := colour
			if shape.Role == "measured" {
				fill = "none"
			}
			if shape.Foot == "right" {
				fmt.Fprintf(&b, `<path d="M%s,%s m-4,-4 h8 v8 h-8 z" fill="%s" stroke="%s"/>`, x, y, fill, colour)
			} else {
				fmt.Fprintf(&b, `<circle cx="%s" cy="%s" r="4.5" fill="%s" stroke="%s"/>`, x, y, fill, colour)
			}
		case "text":
			x, y, _ := strings.Cut(list[0], ",")
			fmt.Fprintf(&b, `<text x="%s" y="%s" dx="7" dy="-7" fill="%s">%s</text>`, x, y, colour, escaped(shape.Text))
		}
	}
	b.WriteString("</svg>\n")
	_, err := io.WriteString(w, b.String())
	return err
}

func escaped(text string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(text)) // a builder takes all
	return b.String()
}
