package ground

import "math"

// Place is a named place of a template.
type Place struct {
	Name  string  `json:"name"`
	Along float64 `json:"along" doc:"m"`
	Right float64 `json:"right" doc:"m"`
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
	boardAcross  = 1.22
	boardAlong   = 0.20
	runwayWidth  = 4.00
	arcRadius    = 8.00
	boxLength    = 1.00
	dividing     = 0.75
)

// Templates lists the grounds. Along is the running or throwing direction, the
// origin at the line, the middle of the circle, the edge of the board or the
// back of the box.
func Templates() []Template {
	lanes := Template{ID: "lanes", Name: "Two lanes", Says: "Click where lane lines meet lines across, such as the start line and a line 10 m on."}
	for _, along := range []float64{0, 10} {
		for lane := range 3 {
			lanes.Places = append(lanes.Places, Place{[]string{"start line", "10 m line"}[int(along/10)] + []string{" × near lane line", " × middle lane line", " × far lane line"}[lane], along, -float64(lane) * laneWidth})
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
		box(),
		arc(),
		{ID: "free", Name: "Places of your own", Says: "Measure four places with a tape and type where they are.", Places: []Place{}, Lines: [][][2]float64{}},
	}
}

func circle(id, name string, r float64) Template {
	t := Template{ID: id, Name: name, Says: "The white dividing lines meet the circle left and right; front and back of the rim are on the line of the throw; sector lines meet it in front. Four of these will do.",
		Places: []Place{
			{"rim at the left dividing line", 0, -r}, {"rim at the right dividing line", 0, r},
			{"rim at the back", -r, 0}, {"rim at the front", r, 0},
			{"outer end of the left dividing line", 0, -r - dividing}, {"outer end of the right dividing line", 0, r + dividing},
		}}
	// Sector lines go out from the middle of the circle, 34.92 degrees apart.
	ss, sc := math.Sincos(17.46 * math.Pi / 180)
	t.Places = append(t.Places, Place{"rim at the left sector line", r * sc, -r * ss}, Place{"rim at the right sector line", r * sc, r * ss})
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

func board() Template {
	h := boardAcross / 2
	return Template{ID: "board", Name: "Take-off board", Says: "The four corners of the white board; the edge to the sand is 0. More places on the runway make it surer.",
		Places: []Place{
			{"sand edge, left", 0, -h}, {"sand edge, right", 0, h}, {"run-up edge, left", -boardAlong, -h}, {"run-up edge, right", -boardAlong, h},
			{"runway line, left, 2 m before", -2, -h}, {"runway line, right, 2 m before", -2, h},
		},
		Lines: [][][2]float64{rectangle(-boardAlong, 0, h), {{-8, -h}, {0, -h}}, {{-8, h}, {0, h}}}}
}

func box() Template {
	// 0.60 m wide at the front, 0.408 m at the back wall, on the runway's level.
	return Template{ID: "box", Name: "Planting box", Says: "The corners of the box at runway level and the edges of the runway beside it.",
		Places: []Place{
			{"back, left", 0, -0.204}, {"back, right", 0, 0.204}, {"front, left", -boxLength, -0.30}, {"front, right", -boxLength, 0.30},
			{"runway edge, left, at the front", -boxLength, -boardAcross / 2}, {"runway edge, right, at the front", -boxLength, boardAcross / 2},
		},
		Lines: [][][2]float64{{{0, -0.204}, {0, 0.204}, {-boxLength, 0.30}, {-boxLength, -0.30}, {0, -0.204}}, {{-8, -boardAcross / 2}, {0, -boardAcross / 2}}, {{-8, boardAcross / 2}, {0, boardAcross / 2}}}}
}

func arc() Template {
	h := runwayWidth / 2
	deep := math.Sqrt(arcRadius*arcRadius - h*h)
	t := Template{ID: "arc", Name: "Javelin arc", Says: "The arc's middle is 0; its ends lie on the runway's lines.",
		Places: []Place{
			{"arc, middle", 0, 0}, {"arc, left end", deep - arcRadius, -h}, {"arc, right end", deep - arcRadius, h},
			{"runway line, left, 4 m before", -4, -h}, {"runway line, right, 4 m before", -4, h},
		}}
	var curve [][2]float64
	for i := range 17 {
		y := h * (float64(i)/8 - 1)
		curve = append(curve, [2]float64{math.Sqrt(arcRadius*arcRadius-y*y) - arcRadius, y})
	}
	t.Lines = [][][2]float64{curve, {{-12, -h}, {deep - arcRadius, -h}}, {{-12, h}, {deep - arcRadius, h}}}
	return t
}
