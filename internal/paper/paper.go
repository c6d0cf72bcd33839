// Package paper is what is printed: sheets of the usual sizes with the fonts and colours of the
// application.
package paper

import (
	"fmt"
	"io"
	"strings"
	"sync"
	"unicode"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/unicode/norm"
)

// Size is a size of paper.
type Size string

// The two papers that schools and clubs print on.
const (
	A4     Size = "A4"
	Letter Size = "Letter"
)

// Colour is red, green and blue.
type Colour [3]int

// The print family of the theme: chalk paper, slate ink, one clay accent.
var (
	Ink   = Colour{34, 42, 46}
	Quiet = Colour{104, 114, 116}
	Clay  = Colour{176, 78, 48}
	Moss  = Colour{74, 112, 66}
	Sky   = Colour{48, 116, 150}
)

// Sheet is a document that is printed.
type Sheet struct {
	*fpdf.Fpdf
	Width  float64 // between the margins, mm
	lacked bool    // a character that the font does not have
}

// face tells which characters the font of the page has.
var face = sync.OnceValues(func() (*sfnt.Font, error) { return sfnt.Parse(goregular.TTF) })

// unknown stands for a character that the font does not have.
const unknown = '□'

// plain is a text in characters that the font has; marks that only change the one before
// go without a trace.
func (s *Sheet) plain(text string) string {
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
		if g, err := font.GlyphIndex(&buf, r); err != nil || g == 0 || r > 0xffff || r == unknown {
			s.lacked = true
			return unknown
		}
		return r
	}, norm.NFC.String(strings.ToValidUTF8(text, string(unknown))))
}

// CellFormat and MultiCell are those of the library, for any text.
func (s *Sheet) CellFormat(w, h float64, text, border string, ln int, align string, fill bool, link int, linkStr string) {
	s.Fpdf.CellFormat(w, h, s.plain(text), border, ln, align, fill, link, linkStr)
}

// MultiCell is the library's, for any text.
func (s *Sheet) MultiCell(w, h float64, text, border, align string, fill bool) {
	s.Fpdf.MultiCell(w, h, s.plain(text), border, align, fill)
}

// Margin is that of every page, mm.
const Margin = 15.0

// New begins a document; way is P for upright and L for across. What stands in every footer is
// told once.
func New(size Size, way, title, footer string) *Sheet {
	s := &Sheet{Fpdf: fpdf.New(way, "mm", string(size), "")}
	s.AddUTF8FontFromBytes("go", "", goregular.TTF)
	s.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	s.SetMargins(Margin, 14, Margin)
	s.SetAutoPageBreak(true, 16)
	s.SetTitle(s.plain(title), true)
	s.AliasNbPages("")
	s.SetFooterFunc(func() {
		s.SetY(-12)
		s.Style(8, "", Quiet)
		s.CellFormat(0, 4, fmt.Sprintf("Neokinema · %s · page %d of {nb}", footer, s.PageNo()), "", 0, "R", false, 0, "")
	})
	s.AddPage()
	width, _ := s.GetPageSize()
	s.Width = width - 2*Margin
	return s
}

// Style is the size, the weight ("" or "B") and the colour of what is written next.
func (s *Sheet) Style(size float64, style string, c Colour) {
	s.SetFont("go", style, size)
	s.SetTextColor(c[0], c[1], c[2])
}

// Close ends the document; it says when it lacked characters.
func (s *Sheet) Close(w io.Writer) error {
	if s.lacked {
		s.Style(8.5, "", Quiet)
		s.MultiCell(0, 4.2, "Some characters are not in the font of this file and stand as "+string(unknown)+". Print the page from the browser to have them all.", "", "L", false)
	}
	if s.Err() {
		return s.Error()
	}
	return s.Output(w)
}

// Named is a size by the name that a request gives it; A4 for any other.
func Named(name string) Size {
	if strings.EqualFold(name, string(Letter)) {
		return Letter
	}
	return A4
}

// Point is a place on a page, mm.
type Point = fpdf.PointType
