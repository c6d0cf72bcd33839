package ground

import (
	"math"

	"neokinema/core/sport"
)

// Place is a named place of a template.
type Place struct {
	Name  string  `json:"name"`
	Along float64 `json:"along" doc:"m"`
	Right float64 `json:"right" doc:"m"`
	Line  bool    `json:"line,omitempty" required:"false" doc:"anywhere on the line along the run"`
	Bar   bool    `json:"bar,omitempty" required:"false" doc:"at the height of the bar, which is asked for"`
}

// at is a place of the ground by name.
func at(name string, along, right float64) Place {
	return Place{Name: name, Along: along, Right: right}
}

// Template is a marked ground whose measures the rules fix.
type Template struct {
	ID     string         `json:"id"`
	Name   string         `json:"name"`
	Says   string         `json:"says" doc:"what to click"`
	Places []Place        `json:"places"`
	Lines  [][][2]float64 `json:"lines" doc:"what is drawn over the picture to check, (along, right) in m"`
}

// Measures of the ground, m: World Athletics technical rules (check the edition
// in force). By the rules, from memory.
const (
	laneWidth    = 1.22
	shotCircle   = 2.135
	discusCircle = 2.50
	boardAcross  = sport.RunwayAcross
	boardAlong   = 0.20
	runwayWidth  = sport.JavelinRunway
	arcRadius    = sport.ArcRadius
	boxLength    = 1.00
	dividing     = 0.75
	upright      = sport.Uprights / 2
)

// Templates lists the grounds. Along is the running or throwing direction, the
// origin at the line, the middle of the circle, the edge of the board or the
// back of the box.
func Templates() []Template {
	lanes := Template{ID: "lanes", Name: "Two lanes", Says: "Click where lane lines meet lines across, such as the start line and a line 10 m on."}
	for _, along := range []float64{0, 10} {
		for lane := range 3 {
			lanes.Places = append(lanes.Places, at([]string{"start line", "10 m line"}[int(along/10)]+[]string{" × near lane line", " × middle lane line", " × far lane line"}[lane], along, -float64(lane)*laneWidth))
		}
	}
	for lane := range 3 {
		r := -float64(lane) * laneWidth
		lanes.Lines = append(lanes.Lines, [][2]float64{{-3, r}, {13, r}})
	}
	for along := 0.0; along <= 10; along++ {
		lanes.Lines = append(lanes.Lines, [][2]float64{{along, 0}, {along, -2 * laneWidth}})
	}
	return []Template{
		lanes,
		circle("shot-circle", "Circle of shot, hammer, weight", shotCircle/2),
		circle("discus-circle", "Circle of discus", discusCircle/2),
		board(),
		bar(),
		box(),
		arc(),
		{ID: "free", Name: "Places of your own", Says: "Measure four places with a tape and type where they are.", Places: []Place{}, Lines: [][][2]float64{}},
	}
}

func circle(id, name string, r float64) Template {
	t := Template{ID: id, Name: name, Says: "The white dividing lines meet the circle left and right; front and back of the rim are on the line of the throw; sector lines meet it in front. Four of these will do.",
		Places: []Place{
			at("rim at the left dividing line", 0, -r), at("rim at the right dividing line", 0, r),
			at("rim at the back", -r, 0), at("rim at the front", r, 0),
			at("outer end of the left dividing line", 0, -r-dividing), at("outer end of the right dividing line", 0, r+dividing),
		}}
	// Sector lines go out from the middle of the circle, 34.92 degrees apart.
	ss, sc := math.Sincos(17.46 * math.Pi / 180)
	t.Places = append(t.Places, at("rim at the left sector line", r*sc, -r*ss), at("rim at the right sector line", r*sc, r*ss))
	var rim [][2]float64
	for i := range 49 {
		s, c := math.Sincos(2 * math.Pi * float64(i) / 48)
		rim = append(rim, [2]float64{r * c, r * s})
	}
	t.Lines = [][][2]float64{rim, {{0, -r - dividing}, {0, -r}}, {{0, r}, {0, r + dividing}}, {{-r, 0}, {r, 0}}}
	return t
}

func rectangle(a0, a1, half float64) [][2]float64 {
	return [][2]float64{{a0, -half}, {a1, -half}, {a1, half}, {a0, half}, {a0, -half}}
}

// edges are places anywhere on both lines of a runway.
func edges(half float64) []Place {
	return []Place{{Name: "left edge of the runway, anywhere", Right: -half, Line: true}, {Name: "right edge of the runway, anywhere", Right: half, Line: true},
		{Name: "left edge once more, far from there", Right: -half, Line: true}, {Name: "right edge once more, far from there", Right: half, Line: true}}
}

func board() Template {
	h := boardAcross / 2
	return Template{ID: "board", Name: "Take-off board", Says: "The four corners of the white board; the edge to the sand is 0. Then both edges of the runway, where they show plainly: they tell the direction.",
		Places: append([]Place{
			at("sand edge, left", 0, -h), at("sand edge, right", 0, h), at("run-up edge, left", -boardAlong, -h), at("run-up edge, right", -boardAlong, h),
		}, edges(h)...),
		Lines: [][][2]float64{rectangle(-boardAlong, 0, h), {{-8, -h}, {0, -h}}, {{-8, h}, {0, h}}}}
}

// bar is the ground before a high jump's bar: along is the way along the bar in which the run
// goes, the origin below its middle.
func bar() Template {
	return Template{ID: "bar", Name: "High jump bar", Says: "Where both uprights stand on the ground, and both ends of the bar, whose height you know. The first upright is the one on whose side the run begins.",
		Places: []Place{
			at("first upright, at the ground", -upright, 0), at("far upright, at the ground", upright, 0),
			{Name: "end of the bar at the first upright", Along: -upright, Bar: true}, {Name: "end of the bar at the far upright", Along: upright, Bar: true},
		},
		Lines: [][][2]float64{{{-upright, 0}, {upright, 0}}, {{-upright, -3}, {-upright, 3}}, {{upright, -3}, {upright, 3}}}}
}

func box() Template {
	// 0.60 m wide at the front, 0.408 m at the back wall, on the runway's level.
	return Template{ID: "box", Name: "Planting box", Says: "The corners of the box at runway level, then both edges of the runway, where they show plainly.",
		Places: append([]Place{
			at("back, left", 0, -0.204), at("back, right", 0, 0.204), at("front, left", -boxLength, -0.30), at("front, right", -boxLength, 0.30),
		}, edges(boardAcross/2)...),
		Lines: [][][2]float64{{{0, -0.204}, {0, 0.204}, {-boxLength, 0.30}, {-boxLength, -0.30}, {0, -0.204}}, {{-8, -boardAcross / 2}, {0, -boardAcross / 2}}, {{-8, boardAcross / 2}, {0, boardAcross / 2}}}}
}

func arc() Template {
	h := runwayWidth / 2
	deep := math.Sqrt(arcRadius*arcRadius - h*h)
	t := Template{ID: "arc", Name: "Javelin arc", Says: "The arc's middle is 0; its ends lie on the runway's lines.",
		Places: []Place{
			at("arc, middle", 0, 0), at("arc, left end", deep-arcRadius, -h), at("arc, right end", deep-arcRadius, h),
			at("runway line, left, 4 m before", -4, -h), at("runway line, right, 4 m before", -4, h),
		}}
	var curve [][2]float64
	for i := range 17 {
		y := h * (float64(i)/8 - 1)
		curve = append(curve, [2]float64{math.Sqrt(arcRadius*arcRadius-y*y) - arcRadius, y})
	}
	t.Lines = [][][2]float64{curve, {{-12, -h}, {deep - arcRadius, -h}}, {{-12, h}, {deep - arcRadius, h}}}
	return t
}
