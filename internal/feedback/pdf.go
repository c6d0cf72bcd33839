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
	"sync"
	"unicode"

	"github.com/go-pdf/fpdf"
	"github.com/google/uuid"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/unicode/norm"
)

// StillSource gives a frame of a clip as JPEG.
type StillSource func(ctx context.Context, clip uuid.UUID, frame int) ([]byte, error)

// Paper is a size of paper.
type Paper string

// The two papers that schools and clubs print on.
const (
	A4     Paper = "A4"
	Letter Paper = "Letter"
)

type colour [3]int

// The print family of the theme: chalk paper, slate ink, one clay accent.
var (
	ink   = colour{34, 42, 46}
	quiet = colour{104, 114, 116}
	clay  = colour{176, 78, 48}
	moss  = colour{74, 112, 66}
	sky   = colour{48, 116, 150}
)

type sheet struct {
	*fpdf.Fpdf
	width  float64
	lacked bool // a character that the font does not have
}

// face tells which characters the font of the page has.
var face = sync.OnceValues(func() (*sfnt.Font, error) { return sfnt.Parse(goregular.TTF) })

// unknown stands for a character that the font does not have.
const unknown = '□'

// plain is a text in characters that the font has; marks that only change the one before
// go without a trace.
func (s *sheet) plain(text string) string {
	font, err := face()
	if err != nil {
		return text
	}
	var buf sfnt.Buffer
	return strings.Map(func(r rune) rune {
		if r == '\n' || r == ' ' {
			return r
		}
		if unicode.Is(unicode.Mn, r) || unicode.Is(unicode.Cf, r) || unicode.IsControl(r) {
			return -1
		}
		if g, err := font.GlyphIndex(&buf, r); err != nil || g == 0 || r > 0xffff {
			s.lacked = true
			return unknown
		}
		return r
	}, norm.NFC.String(strings.ToValidUTF8(text, string(unknown))))
}

// CellFormat and MultiCell are those of the library, for any text.
func (s *sheet) CellFormat(w, h float64, text, border string, ln int, align string, fill bool, link int, linkStr string) {
	s.Fpdf.CellFormat(w, h, s.plain(text), border, ln, align, fill, link, linkStr)
}

// MultiCell is the library's, for any text.
func (s *sheet) MultiCell(w, h float64, text, border, align string, fill bool) {
	s.Fpdf.MultiCell(w, h, s.plain(text), border, align, fill)
}

const margin = 15.0

// WritePDF lays the page out on paper.
func WritePDF(ctx context.Context, w io.Writer, p Page, paper Paper, stills StillSource) error {
	s := &sheet{Fpdf: fpdf.New("P", "mm", string(paper), "")}
	s.AddUTF8FontFromBytes("go", "", goregular.TTF)
	s.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	s.SetMargins(margin, 14, margin)
	s.SetAutoPageBreak(true, 16)
	s.SetTitle(s.plain("Feedback "+p.Athlete.Name), true)
	s.AliasNbPages("")
	s.SetFooterFunc(func() {
		s.SetY(-12)
		s.text(8, "", quiet)
		s.CellFormat(0, 4, fmt.Sprintf("Neokinema · %s · page %d of {nb}", p.Attempt.DoneOn, s.PageNo()), "", 0, "R", false, 0, "")
	})
	s.AddPage()
	pageWidth, _ := s.GetPageSize()
	s.width = pageWidth - 2*margin

	s.text(18, "B", ink)
	s.CellFormat(0, 8, p.Athlete.Name, "", 1, "L", false, 0, "")
	s.text(9.5, "", quiet)
	s.CellFormat(0, 5, strings.Join(nonEmpty(p.Event, p.Attempt.Session, p.Attempt.Place, p.Attempt.DoneOn, p.Attempt.Mark), " · "), "", 1, "L", false, 0, "")
	s.Ln(3)
	if p.Effect != nil {
		s.text(9.5, "", ink)
		s.MultiCell(0, 5, fmt.Sprintf("Last time: “%s” – %s.", p.LastCue, strings.ReplaceAll(p.Effect.Verdict, "_", " ")), "", "L", false)
		s.Ln(2)
	}
	if err := s.stills(ctx, p, stills); err != nil {
		return err
	}
	s.heading("Keep", moss)
	for _, k := range p.Keep {
		s.bullet(k)
	}
	if p.Note != "" {
		s.text(10, "", ink)
		s.MultiCell(0, 5, p.Note, "", "L", false)
	}
	for i, f := range p.Faults {
		title := "Also seen"
		if i == 0 {
			title = "First cause"
		}
		s.heading(title, clay)
		s.text(11, "B", ink)
		s.MultiCell(0, 5.5, f.Name, "", "L", false)
		s.text(10, "", ink)
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
		s.heading(title, clay)
		s.text(15, "B", ink)
		s.MultiCell(0, 7.5, "“"+a.Words+"”", "", "L", false)
		s.text(10, "", ink)
		if a.Drill.Name != "" {
			s.MultiCell(0, 5, fmt.Sprintf("Drill: %s. %s. It should feel like: %s.", a.Drill.Name, a.Drill.Dose, strings.ToLower(a.Drill.Feel)), "", "L", false)
			if len(a.Drill.Ladder) > 0 {
				s.MultiCell(0, 5, fmt.Sprintf("From easy to hard: %s. Go on: %s. Stop: %s.", strings.Join(a.Drill.Ladder, ", "), a.Drill.GoOn, a.Drill.Stop), "", "L", false)
			}
		}
		s.MultiCell(0, 5, fmt.Sprintf("Next clip: %s, now %s, wanted %s.", strings.ToLower(p.Targets[i].Name), p.Targets[i].Now, p.Targets[i].Goal), "", "L", false)
		if a.Backfire != "" {
			s.text(9, "", quiet)
			s.MultiCell(0, 4.5, "Watch for: "+a.Backfire, "", "L", false)
		}
	}
	s.heading("Take care", quiet)
	s.text(8.5, "", quiet)
	for _, c := range p.Cautions {
		s.MultiCell(0, 4.2, c, "", "L", false)
	}
	if s.lacked {
		s.MultiCell(0, 4.2, "Some characters are not in the font of this file and stand as "+string(unknown)+". Print the page from the browser to have them all.", "", "L", false)
	}
	if s.Err() {
		return s.Error()
	}
	return s.Output(w)
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

func (s *sheet) text(size float64, style string, c colour) {
	s.SetFont("go", style, size)
	s.SetTextColor(c[0], c[1], c[2])
}

func (s *sheet) heading(t string, c colour) {
	s.Ln(3)
	s.text(9, "B", c)
	s.CellFormat(0, 5, t, "", 1, "L", false, 0, "")
}

func (s *sheet) bullet(t string) {
	s.text(10, "", ink)
	s.SetX(margin + 3)
	s.MultiCell(s.width-3, 5, "– "+t, "", "L", false)
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
	w := (s.width - 2*gap) / 3
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
		x, y := margin+float64(i%3)*(w+gap), s.GetY()
		name := fmt.Sprintf("still%d", i)
		s.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(pic))
		s.ImageOptions(name, x, y, w, h, false, fpdf.ImageOptions{ImageType: "JPG"}, 0, "")
		s.lines(st, x, y, w, h)
		s.SetXY(x, y+h+1)
		s.text(8.5, "B", ink)
		s.CellFormat(w, 4, caption(st), "", 0, "L", false, 0, "")
		s.SetXY(x, y+h+5)
		s.text(7.5, "", quiet)
		if len(st.Values) > 0 {
			s.CellFormat(w, 3.5, st.Values[0], "", 0, "L", false, 0, "")
		}
		s.SetXY(margin, y)
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
		c := colour{250, 246, 236}
		switch l.Side {
		case "left":
			c = clay
		case "right":
			c = sky
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
		s.text(6.5, "B", ink)
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
