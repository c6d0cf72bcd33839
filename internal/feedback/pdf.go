package feedback

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"math"
	"strings"

	"github.com/go-pdf/fpdf"
	"github.com/google/uuid"

	"neokinema/internal/paper"
)

// StillSource gives a frame of a clip as JPEG.
type StillSource func(ctx context.Context, clip uuid.UUID, frame int) ([]byte, error)

type sheet struct{ *paper.Sheet }

// WritePDF lays the page out on paper.
func WritePDF(ctx context.Context, w io.Writer, p Page, size paper.Size, stills StillSource) error {
	s := &sheet{paper.New(size, "P", "Feedback "+p.Athlete.Name, p.Attempt.DoneOn)}

	s.Style(18, "B", paper.Ink)
	s.CellFormat(0, 8, p.Athlete.Name, "", 1, "L", false, 0, "")
	s.Style(9.5, "", paper.Quiet)
	s.CellFormat(0, 5, strings.Join(nonEmpty(p.Event, p.Attempt.Session, p.Attempt.Place, p.Attempt.DoneOn, p.Attempt.Mark), " · "), "", 1, "L", false, 0, "")
	s.Ln(3)
	if p.Effect != nil {
		s.Style(9.5, "", paper.Ink)
		s.MultiCell(0, 5, fmt.Sprintf("Last time: “%s” – %s.", p.LastCue, strings.ReplaceAll(p.Effect.Verdict, "_", " ")), "", "L", false)
		s.Ln(2)
	}
	if err := s.stills(ctx, p, stills); err != nil {
		return err
	}
	s.heading("Keep", paper.Moss)
	for _, k := range p.Keep {
		s.bullet(k)
	}
	if p.Note != "" {
		s.Style(10, "", paper.Ink)
		s.MultiCell(0, 5, p.Note, "", "L", false)
	}
	for i, f := range p.Faults {
		title := "Also seen"
		if i == 0 {
			title = "First cause"
		}
		s.heading(title, paper.Clay)
		s.Style(11, "B", paper.Ink)
		s.MultiCell(0, 5.5, f.Name, "", "L", false)
		s.Style(10, "", paper.Ink)
		s.MultiCell(0, 5, f.Effect, "", "L", false)
		for _, line := range f.Shows {
			s.bullet(line)
		}
		if len(f.Leads) > 0 {
			s.bullet("It leads to: " + strings.Join(f.Leads, ", "))
		}
	}
	for i, a := range p.Advice {
		title := "Think of this"
		if i > 0 {
			title = "And, when that is easy"
		}
		s.heading(title, paper.Clay)
		s.Style(15, "B", paper.Ink)
		s.MultiCell(0, 7.5, "“"+a.Words+"”", "", "L", false)
		s.Style(10, "", paper.Ink)
		if a.Drill.Name != "" {
			s.MultiCell(0, 5, fmt.Sprintf("Drill: %s. %s. It should feel like: %s.", a.Drill.Name, a.Drill.Dose, strings.ToLower(a.Drill.Feel)), "", "L", false)
			if len(a.Drill.Ladder) > 0 {
				s.MultiCell(0, 5, fmt.Sprintf("From easy to hard: %s. Go on: %s. Stop: %s.", strings.Join(a.Drill.Ladder, ", "), a.Drill.GoOn, a.Drill.Stop), "", "L", false)
			}
		}
		s.MultiCell(0, 5, fmt.Sprintf("Next clip: %s, now %s, wanted %s.", strings.ToLower(p.Targets[i].Name), p.Targets[i].Now, p.Targets[i].Goal), "", "L", false)
		if a.Backfire != "" {
			s.Style(9, "", paper.Quiet)
			s.MultiCell(0, 4.5, "Watch for: "+a.Backfire, "", "L", false)
		}
	}
	for _, c := range p.Workshop {
		s.heading("From the workshop", paper.Sky)
		s.Style(11, "B", paper.Ink)
		s.MultiCell(0, 5.5, c.Name, "", "L", false)
		for _, line := range c.Lines {
			s.bullet(line)
		}
		s.Style(10, "", paper.Ink)
		for _, says := range c.Says {
			s.MultiCell(0, 5, says, "", "L", false)
		}
		if c.Caution != "" {
			s.Style(9, "", paper.Quiet)
			s.MultiCell(0, 4.5, c.Caution, "", "L", false)
		}
	}
	s.heading("Take care", paper.Quiet)
	s.Style(8.5, "", paper.Quiet)
	for _, c := range p.Cautions {
		s.MultiCell(0, 4.2, c, "", "L", false)
	}
	return s.Close(w)
}

func nonEmpty(list ...string) []string {
	var out []string
	for _, t := range list {
		if t != "" {
			out = append(out, t)
		}
	}
	return out
}

func (s *sheet) heading(t string, c paper.Colour) {
	s.Ln(3)
	s.Style(9, "B", c)
	s.CellFormat(0, 5, t, "", 1, "L", false, 0, "")
}

func (s *sheet) bullet(t string) {
	s.Style(10, "", paper.Ink)
	s.SetX(paper.Margin + 3)
	s.MultiCell(s.Width-3, 5, "– "+t, "", "L", false)
}

// caption is what stands below a still.
func caption(s Still) string {
	if s.View != "" {
		return fmt.Sprintf("%s · from the %s · frame %d", s.Position, s.View, s.Frame)
	}
	return fmt.Sprintf("%s · frame %d", s.Position, s.Frame)
}

// stills sets the key positions in rows of three, each with its lines.
func (s *sheet) stills(ctx context.Context, p Page, source StillSource) error {
	list := p.Stills
	const gap = 4.0
	w := (s.Width - 2*gap) / 3
	h := w * 3 / 4
	for i, st := range list {
		raw, err := source(ctx, st.ClipID, st.Frame)
		if err != nil {
			return err
		}
		pic, err := cut(raw, st.Crop, st.Picture[0])
		if err != nil {
			return err
		}
		if i%3 == 0 && i > 0 {
			s.SetY(s.GetY() + h + 12)
		}
		x, y := paper.Margin+float64(i%3)*(w+gap), s.GetY()
		name := fmt.Sprintf("still%d", i)
		s.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(pic))
		s.ImageOptions(name, x, y, w, h, false, fpdf.ImageOptions{ImageType: "JPG"}, 0, "")
		s.lines(st, x, y, w, h)
		s.SetXY(x, y+h+1)
		s.Style(8.5, "B", paper.Ink)
		s.CellFormat(w, 4, caption(st), "", 0, "L", false, 0, "")
		s.SetXY(x, y+h+5)
		s.Style(7.5, "", paper.Quiet)
		if len(st.Values) > 0 {
			s.CellFormat(w, 3.5, st.Values[0], "", 0, "L", false, 0, "")
		}
		s.SetXY(paper.Margin, y)
	}
	if len(list) > 0 {
		s.SetY(s.GetY() + h + 11)
	}
	return nil
}

// lines draws the measured chains: left clay and solid with round joints, right
// sky and dashed with square ones.
func (s *sheet) lines(st Still, x, y, w, h float64) {
	s.ClipRect(x, y, w, h, false)
	defer s.ClipEnd()
	k := w / st.Crop[2]
	for _, l := range st.Lines {
		c := paper.Colour{250, 246, 236}
		switch l.Side {
		case "left":
			c = paper.Clay
		case "right":
			c = paper.Sky
			s.SetDashPattern([]float64{1.6, 0.9}, 0)
		}
		s.SetDrawColor(c[0], c[1], c[2])
		s.SetFillColor(c[0], c[1], c[2])
		s.SetLineWidth(0.5)
		at := func(i int) (float64, float64) { return x + (l.At[i][0]-st.Crop[0])*k, y + (l.At[i][1]-st.Crop[1])*k }
		for i := range l.At {
			px, py := at(i)
			if i > 0 {
				qx, qy := at(i - 1)
				s.Line(qx, qy, px, py)
			}
		}
		s.SetDashPattern(nil, 0)
		for i := range l.At {
			px, py := at(i)
			if l.Side == "right" {
				s.Rect(px-0.6, py-0.6, 1.2, 1.2, "F")
			} else {
				s.Circle(px, py, 0.7, "F")
			}
		}
	}
	// Labels last, on chips, moved apart so that each can be read.
	var taken [][2]float64
	for _, l := range st.Lines {
		px, py := x+(l.At[l.Vertex][0]-st.Crop[0])*k, y+(l.At[l.Vertex][1]-st.Crop[1])*k
		s.Style(6.5, "B", paper.Ink)
		tw := s.GetStringWidth(l.Label) + 2
		px, py = math.Min(math.Max(px+1.5, x+0.5), x+w-tw-0.5), math.Min(math.Max(py-1.5, y+0.5), y+h-4)
		for _, t := range taken {
			if math.Abs(t[0]-px) < tw && math.Abs(t[1]-py) < 3.6 {
				py = t[1] + 3.8
			}
		}
		taken = append(taken, [2]float64{px, py})
		s.SetFillColor(250, 247, 240)
		s.SetAlpha(0.88, "Normal")
		s.Rect(px, py, tw, 3.4, "F") // the library's rounded one leaves its clip open
		s.SetAlpha(1, "Normal")
		s.SetXY(px, py)
		s.CellFormat(tw, 3.4, l.Label, "", 0, "C", false, 0, "")
	}
}

// cut takes a region, in px of a picture of the given width, out of a JPEG that
// may be smaller.
func cut(raw []byte, crop [4]float64, width int) ([]byte, error) {
	img, err := jpeg.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	k := math.Min(1, float64(img.Bounds().Dx())/float64(max(width, 1)))
	r := image.Rect(int(k*crop[0]), int(k*crop[1]), int(math.Ceil(k*(crop[0]+crop[2]))), int(math.Ceil(k*(crop[1]+crop[3])))).Intersect(img.Bounds())
	sub, ok := img.(interface {
		SubImage(image.Rectangle) image.Image
	})
	if !ok || r.Empty() {
		return raw, nil
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, sub.SubImage(r), &jpeg.Options{Quality: 90})
	return out.Bytes(), err
}
