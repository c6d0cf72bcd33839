package drills

import (
	"bytes"
	"fmt"
	"io"
	"strings"

	"github.com/go-pdf/fpdf"

	"neokinema/core/body"
	"neokinema/internal/paper"
	"neokinema/simcam/moving"
)

// limbs are the lines of a figure, from landmark to landmark of one side.
var limbs = [][2]string{{"shoulder", "elbow"}, {"elbow", "hand"}, {"shoulder", "hip"}, {"hip", "knee"}, {"knee", "ankle"}, {"ankle", "toe"}}

// stills is how many pictures of a figure a card shows.
const stills = 5

// WriteCard writes a drill on one page: what it is for, how it goes in five pictures, how much, how on. The
// pictures are those of its figure, or photographs (JPEG).
func WriteCard(w io.Writer, size paper.Size, d Drill, photographs ...[]byte) error {
	s := paper.New(size, "P", d.Name, "Pain ends a session; a change of exercise belongs to a coach who sees you.")
	s.Style(18, "B", paper.Ink)
	s.MultiCell(0, 8, d.Name, "", "L", false)
	s.Style(10, "", paper.Quiet)
	var names []string
	for _, f := range d.For {
		if !strings.Contains(strings.Join(names, "; "), f.Name) {
			names = append(names, f.Name)
		}
	}
	s.MultiCell(0, 5, "For: "+strings.Join(names, "; "), "", "L", false)
	photos(s, photographs)
	if d.Moves {
		f, err := Figure(d.ID)
		if err != nil {
			return err
		}
		strip(s, f)
	}
	s.Ln(3)
	s.Style(14, "B", paper.Clay)
	s.MultiCell(0, 7, d.Says, "", "L", false)
	for _, x := range [][2]string{{"You need", strings.Join(d.Needs, ", ")}, {"You should feel", d.Feel}, {"Often instead", d.Mistake}, {"Go on when", d.GoOn}, {"Stop when", d.Stop}, {"Not together with", strings.Join(d.NotWith, "; ")}} {
		if x[1] == "" {
			continue
		}
		s.Ln(1.5)
		s.Style(9, "B", paper.Quiet)
		s.CellFormat(0, 4.6, x[0], "", 1, "L", false, 0, "")
		s.Style(11, "", paper.Ink)
		s.MultiCell(0, 5.4, x[1], "", "L", false)
	}
	if len(d.Ladder) == 0 {
		return s.Close(w)
	}
	s.Ln(3)
	s.Style(9, "B", paper.Quiet)
	s.CellFormat(0, 4.6, "From the easiest rung to the hardest", "", 1, "L", false, 0, "")
	for _, rung := range d.Ladder {
		left, top := s.GetXY()
		s.SetDrawColor(paper.Quiet[0], paper.Quiet[1], paper.Quiet[2])
		s.Rect(left+0.5, top+1.4, 3.2, 3.2, "D")
		s.SetX(left + 6.5)
		s.Style(11, "", paper.Ink)
		s.MultiCell(0, 6, rung, "", "L", false)
	}
	return s.Close(w)
}

// photos puts photographs beside each other.
func photos(s *paper.Sheet, list [][]byte) {
	if len(list) == 0 {
		return
	}
	left, top := s.GetXY()
	top += 3
	const gap = 1.5
	cell := (s.Width - gap*float64(len(list)-1)) / float64(len(list))
	high := 0.0
	jpeg := fpdf.ImageOptions{ImageType: "JPG"}
	for k, raw := range list {
		name := fmt.Sprint("photograph", k)
		info := s.RegisterImageOptionsReader(name, jpeg, bytes.NewReader(raw))
		if info == nil || info.Width() == 0 {
			continue
		}
		h := cell * info.Height() / info.Width()
		s.ImageOptions(name, left+float64(k)*(cell+gap), top, cell, h, false, jpeg, 0, "")
		high = max(high, h)
	}
	s.SetXY(left, top+high+3)
}

// strip draws some pictures of a figure beside each other.
func strip(s *paper.Sheet, f moving.Drawn) {
	const high = 42.0
	left, top := s.GetXY()
	top += 3
	cell := s.Width / stills
	scale := min(high/(f.High[1]-f.Low[1]+0.1), 0.94*high/1.9)
	for k := range stills {
		n := k * (f.Frames - 1) / (stills - 1)
		at := func(id string) (x, y float64) {
			p, hips := f.Points[id], (f.Points["left_hip"][2*n]+f.Points["right_hip"][2*n])/2
			return left + (float64(k)+0.5)*cell + scale*(p[2*n]-hips), top + high - scale*(p[2*n+1]-f.Low[1])
		}
		for _, side := range []body.Side{body.Left, body.Right} {
			c := paper.Quiet
			if string(side) == f.Near {
				c = paper.Ink
			}
			s.SetDrawColor(c[0], c[1], c[2])
			s.SetLineWidth(0.9)
			for _, l := range limbs {
				x0, y0 := at(string(side) + "_" + l[0])
				x1, y1 := at(string(side) + "_" + l[1])
				s.Line(x0, y0, x1, y1)
			}
		}
		x0, y0 := at("left_ear")
		x1, y1 := at("right_ear")
		s.SetDrawColor(paper.Ink[0], paper.Ink[1], paper.Ink[2])
		s.Circle((x0+x1)/2, (y0+y1)/2, 0.11*scale, "D")
	}
	s.SetLineWidth(0.2)
	s.SetDrawColor(paper.Quiet[0], paper.Quiet[1], paper.Quiet[2])
	s.Line(left, top+high+scale*f.Low[1], left+s.Width, top+high+scale*f.Low[1])
	s.SetXY(left, top+high+3)
}
