package planning

import (
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/internal/paper"
	"neokinema/internal/problem"
)

// words of a day on paper.
func dated(d season.Day, layout string) string {
	return time.Unix(int64(d)*24*60*60, 0).UTC().Format(layout)
}

// blocks as they are called.
var blocks = map[season.Block]string{season.Rebuild: "rebuilding", season.Build: "building", season.Sharpen: "sharpening", season.Taper: "taper", season.Compete: "competition", season.Between: "between", season.Off: "off"}

// prints are the sizes in which a week is tried, the largest first: letters in points and lines in mm.
var prints = []struct{ size, line float64 }{{7.5, 3.6}, {6.8, 3.2}, {6.2, 2.8}}

// row is an athlete's week in lines.
type row struct {
	name   string
	below  []string
	cells  [7][]string
	says   []string
	height float64
}

// WriteWeek lays the week of a squad on one sheet, a row for each athlete: in smaller letters when it
// would not fit, and on several only when those do not either.
func WriteWeek(w io.Writer, size paper.Size, club string, sq Squad) error {
	title := "Week of " + dated(sq.Monday, "2 January 2006")
	s := paper.New(size, "L", title, club+" · "+title)
	s.Style(17, "B", paper.Ink)
	s.CellFormat(0, 8, title, "", 0, "L", false, 0, "")
	s.Style(10, "", paper.Quiet)
	s.CellFormat(0, 8, club, "", 1, "R", false, 0, "")
	const first, foot = 34.0, 24.0
	each := (s.Width - first) / 7
	head := func() {
		s.Style(9, "B", paper.Quiet)
		s.CellFormat(first, 6, "", "", 0, "L", false, 0, "")
		for d := range season.Day(7) {
			s.CellFormat(each, 6, dated(sq.Monday+d, "Mon 2 Jan"), "", 0, "L", false, 0, "")
		}
		s.Ln(6)
	}
	head()
	_, tall := s.GetPageSize()
	var rows []row
	print := prints[0]
	for _, print = range prints {
		rows = rowsOf(s, sq, print.size, print.line, first, each)
		all := s.GetY()
		for _, r := range rows {
			all += r.height
		}
		if all <= tall-foot {
			break
		}
	}
	for _, r := range rows {
		if s.GetY()+r.height > tall-foot+6 {
			s.AddPage()
			head()
		}
		x, y := s.GetXY()
		s.SetDrawColor(paper.Quiet[0], paper.Quiet[1], paper.Quiet[2])
		s.SetLineWidth(0.15)
		s.Line(x, y, x+s.Width, y)
		put := func(at, from float64, list []string, size float64, c paper.Colour, bold bool) {
			for i, text := range list {
				weight := ""
				if bold && i == 0 {
					weight = "B"
				}
				s.Style(size, weight, c)
				s.SetXY(at, from+print.line*float64(i))
				s.CellFormat(0, print.line, text, "", 0, "L", false, 0, "")
			}
		}
		put(x, y+1, []string{r.name}, print.size+1.5, paper.Ink, true)
		put(x, y+1+print.line, r.below, print.size, paper.Quiet, false)
		for i, c := range r.cells {
			put(x+first+each*float64(i), y+1, c, print.size, paper.Ink, true)
		}
		put(x+first, y+r.height-1-print.line*float64(len(r.says)), r.says, print.size, paper.Clay, false)
		s.SetXY(x, y+r.height)
	}
	s.Ln(2)
	s.Style(8, "", paper.Quiet)
	s.MultiCell(0, 4, caution, "", "L", false)
	return s.Close(w)
}

// rowsOf are the athletes' weeks in lines of a size.
func rowsOf(s *paper.Sheet, sq Squad, size, line, first, each float64) (out []row) {
	wrap := func(list []string, width float64) (out []string) {
		for _, text := range list {
			out = append(out, s.SplitText(text, width-2)...)
		}
		return out
	}
	for _, l := range sq.Lines {
		if !l.Begun {
			continue
		}
		s.Style(size+1.5, "B", paper.Ink)
		r := row{name: clipped(s, l.Name, first-2)}
		s.Style(size, "", paper.Ink)
		for _, x := range l.Week.Sessions {
			d := int(x.Day - sq.Monday)
			r.cells[d] = append(r.cells[d], wrap(brief(x, l.Changes), each)...)
		}
		r.below = []string{blocks[l.Week.Block]}
		if l.Pain != "" {
			r.below = append(r.below, "hurts: "+l.Pain)
		} else if l.Next != "" {
			r.below = append(r.below, l.Next)
		}
		r.below = wrap(r.below, first)
		r.says = wrap(l.Week.Says, s.Width-first)
		most := len(r.below) + 1
		for _, c := range r.cells {
			most = max(most, len(c))
		}
		r.height = line*float64(most+len(r.says)) + 2
		out = append(out, r)
	}
	return out
}

// caution stands under every plan on paper.
const caution = "A plan is a proposal: pain ends a session, and a physician or physiotherapist says when it goes on. Before throws and jumps: sector and runway clear, nobody beside the cage, mats and pit looked at."

// clipped is a text that fits a width.
func clipped(s *paper.Sheet, text string, width float64) string {
	for s.GetStringWidth(text) > width && len(text) > 1 {
		r := []rune(text)
		text = string(r[:len(r)-2]) + "…"
	}
	return text
}

// brief is a session in a cell.
func brief(x season.Session, changes []season.Change) []string {
	out := []string{Title(x)}
	if x.Kind == season.Lift || x.Kind == season.Meet {
		return out
	}
	out = append(out, fmt.Sprintf("%d, %d full", x.Tries, x.Full))
	for _, c := range changes {
		if c.ID == x.Change {
			out = append(out, "“"+c.Words+"”")
		}
	}
	if x.Drill != "" {
		out = append(out, x.Drill+", "+x.Dose)
	}
	return out
}

// WriteCard lays an athlete's sessions of a day on one page, with room for what came of them.
func WriteCard(w io.Writer, size paper.Size, v View, day season.Day) error {
	week, _ := v.Plan.Week(day)
	list := slices.DeleteFunc(slices.Clone(week.Sessions), func(x season.Session) bool { return x.Day != day })
	if len(list) == 0 {
		return problem.New(problem.Invalid, "%s has no session on that day.", v.Athlete.Name)
	}
	title := dated(day, "Monday, 2 January 2006")
	s := paper.New(size, "P", v.Athlete.Name+", "+title, v.Athlete.Name+" · "+title)
	s.Style(20, "B", paper.Ink)
	s.CellFormat(0, 9, v.Athlete.Name, "", 1, "L", false, 0, "")
	s.Style(11, "", paper.Quiet)
	s.CellFormat(0, 6, title+" · "+blocks[week.Block], "", 1, "L", false, 0, "")
	for _, x := range list {
		s.Ln(4)
		s.Style(14, "B", paper.Ink)
		s.CellFormat(0, 7, Title(x), "", 1, "L", false, 0, "")
		for _, c := range v.Changes {
			if c.ID == x.Change {
				s.Ln(1)
				s.Style(17, "B", paper.Clay)
				s.MultiCell(0, 8, "“"+c.Words+"”", "", "L", false)
				s.Ln(1)
			}
		}
		for _, text := range Lines(x, v.Changes) {
			if strings.HasPrefix(text, "Think of: ") {
				continue
			}
			s.SetDrawColor(paper.Quiet[0], paper.Quiet[1], paper.Quiet[2])
			left, top := s.GetXY()
			s.Rect(left+0.5, top+1.4, 3.2, 3.2, "D")
			s.SetX(left + 6.5)
			s.Style(11, "", paper.Ink)
			s.MultiCell(0, 6, text, "", "L", false)
		}
		for _, c := range v.Changes {
			if c.ID != x.Change {
				continue
			}
			s.Style(9, "", paper.Quiet)
			for _, text := range [][2]string{{"You should feel: ", c.Drill.Feel}, {"Go on when: ", c.Drill.GoOn}, {"Stop when: ", c.Drill.Stop}} {
				if text[1] != "" {
					s.MultiCell(0, 4.6, text[0]+text[1], "", "L", false)
				}
			}
		}
		if x.Kind != season.Lift && sport.Of(x.Event).Change != sport.Running {
			room(s, x)
		}
	}
	s.Ln(4)
	s.Style(10, "", paper.Ink)
	s.CellFormat(0, 7, "How hard (0 to 10): ______    Minutes: ______    How it felt: _________________________________", "", 1, "L", false, 0, "")
	s.Ln(1)
	s.Style(8.5, "", paper.Quiet)
	s.MultiCell(0, 4.2, caution, "", "L", false)
	return s.Close(w)
}

// room is a table for full efforts: mark, and whether the cue was kept.
func room(s *paper.Sheet, x season.Session) {
	n := min(x.Full, 12)
	if n == 0 {
		return
	}
	const columns = 6
	s.Ln(2)
	s.Style(8.5, "", paper.Quiet)
	s.CellFormat(0, 5, "Full efforts: mark or x, and a tick when the cue was kept", "", 1, "L", false, 0, "")
	wide := s.Width / columns
	for i := range n {
		ln := 0
		if i%columns == columns-1 || i == n-1 {
			ln = 1
		}
		s.CellFormat(wide, 9, fmt.Sprintf(" %d", i+1), "1", ln, "L", false, 0, "")
	}
}
