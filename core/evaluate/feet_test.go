package evaluate

import (
	"math"
	"strings"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/timebase"
	"neokinema/core/track"
)

// draftOf is an evaluation of 30 pictures a second of a draft of an athlete 300 px high, whose left
// toe, heel and ankle go as said, in px.
func draftOf(event string, frames int, where func(part string, frame int) r2.Vec) *Evaluation {
	e := &Evaluation{Model: model.Model{ID: event}, Rate: 30, cache: Cache{tall: 300}, found: map[string]foundAt{}, Movement: &kinematics.Movement{Paths: map[string]*kinematics.Path{}}}
	e.Input.Points = kinematics.Points{}
	for _, part := range []string{"toe", "heel", "ankle"} {
		id := "left_" + part
		path, points := &kinematics.Path{}, track.New(0)
		for f := range frames {
			q := where(part, f)
			path.Raw = append(path.Raw, q)
			_ = points.Set(f, &track.Point{X: q.X, Y: q.Y, Source: track.Draft.String(), Confidence: 0.8})
		}
		e.Movement.Paths[id], e.Input.Points[id] = path, points
	}
	return e
}

// landing is a foot that goes 30 px a picture until it lands, and stands from then on.
func landing(at int) func(string, int) r2.Vec {
	return func(_ string, f int) r2.Vec { return r2.Vec{X: 500 - 30*math.Max(0, float64(at-f)), Y: 20} }
}

func TestATouchdownWaitsForHeelAndAnkle(t *testing.T) {
	for name, c := range map[string]struct {
		where func(string, int) r2.Vec
		from  int
		want  int
	}{
		"a picture early":     {landing(10), 9, 10},
		"right":               {landing(10), 10, 10},
		"late":                {landing(10), 11, 11},
		"two pictures early":  {landing(10), 8, 9}, // one step at a time: farther off it is no scatter
		"a toe that goes on":  {func(p string, f int) r2.Vec { return r2.Vec{X: map[string]float64{"toe": 9}[p] * float64(f), Y: 20} }, 9, 9},
		"a heel that goes on": {func(p string, f int) r2.Vec { return r2.Vec{X: map[string]float64{"heel": 9}[p] * float64(f), Y: 20} }, 9, 9},
		"what hardly moves":   {func(_ string, f int) r2.Vec { return r2.Vec{X: 2 * float64(f), Y: 20} }, 9, 9},
		"nobody saw the foot": {func(string, int) r2.Vec { return r2.Vec{X: math.NaN(), Y: math.NaN()} }, 9, 9},
	} {
		e := draftOf("running", 30, c.where)
		list := []contact.Contact{{Foot: body.Left, From: c.from, To: c.from + 6}}
		e.settled(list)
		if list[0].From != c.want {
			t.Errorf("%s: the touchdown in frame %d is taken for one in %d, want %d", name, c.from, list[0].From, c.want)
		}
	}
	// A belt carries what stands.
	e := draftOf("running", 30, func(_ string, f int) r2.Vec { return r2.Vec{X: -40 * float64(f), Y: 20} })
	e.belt = -40 * 30
	list := []contact.Contact{{Foot: body.Left, From: 9, To: 15}}
	if e.settled(list); list[0].From != 9 {
		t.Errorf("on a belt a touchdown in frame 9 is taken for one in %d", list[0].From)
	}
	// Between many pictures, of points that a hand has placed, of what was there when the clip began, and
	// of a contact of two pictures nothing changes.
	many := draftOf("running", 60, landing(10))
	many.Rate = 120
	hand := draftOf("running", 30, landing(10))
	for _, id := range []string{"left_toe", "left_heel", "left_ankle"} {
		for f := range 30 {
			p, _ := hand.Input.Points[id].At(f)
			p.Source = track.Hand.String()
			_ = hand.Input.Points[id].Set(f, &p)
		}
	}
	for name, c := range map[string]struct {
		e *Evaluation
		contact.Contact
	}{
		"many pictures": {many, contact.Contact{Foot: body.Left, From: 9, To: 15}},
		"by hand":       {hand, contact.Contact{Foot: body.Left, From: 9, To: 15}},
		"before":        {draftOf("running", 30, landing(10)), contact.Contact{Foot: body.Left, From: 9, To: 15, Before: true}},
		"two pictures":  {draftOf("running", 30, landing(10)), contact.Contact{Foot: body.Left, From: 9, To: 11}},
	} {
		list := []contact.Contact{c.Contact}
		if c.e.settled(list); list[0].From != 9 {
			t.Errorf("%s: the touchdown in frame 9 is taken for one in %d", name, list[0].From)
		}
	}
}

func TestAFootThatIsElsewhereDoesNotStand(t *testing.T) {
	// It stands in frames 5 to 19, and is so far away in 20.
	moved := func(toe, heel float64) func(string, int) r2.Vec {
		return func(p string, f int) r2.Vec {
			q := r2.Vec{X: 500, Y: 20}
			if f < 5 || f > 19 {
				q.X += map[string]float64{"toe": toe, "heel": heel}[p]
			}
			return q
		}
	}
	for name, c := range map[string]struct {
		toe, heel float64
		doubted   bool
	}{
		"both away":              {40, 50, true},
		"back":                   {-40, -40, true},
		"on its toe":             {0, 60, false},
		"on its heel":            {60, 0, false},
		"within a foot's length": {20, 20, false},
	} {
		e := draftOf("shot", 40, moved(c.toe, c.heel))
		list := []contact.Contact{{Foot: body.Left, From: 4, To: 21, FromSD: 0.5, ToSD: 0.5}}
		e.inPlace(list)
		for _, sd := range []float64{list[0].FromSD, list[0].ToSD} {
			if stated := e.moment(0, sd).sure >= leastDrafted; stated == c.doubted {
				t.Errorf("%s: the end is doubted by %.2f frames", name, sd)
			}
		}
	}
	// Where each picture stands twice in the file it is the same.
	twice := draftOf("shot", 80, func(p string, f int) r2.Vec {
		if f%2 == 1 {
			return r2.Vec{X: math.NaN(), Y: math.NaN()}
		}
		return moved(50, 50)(p, f/2)
	})
	twice.Rate, twice.Input.Clip.Pictures = 60, timebase.Pictures(strings.Repeat(".r", 40))
	slow := []contact.Contact{{Foot: body.Left, From: 8, To: 42, FromSD: 1, ToSD: 1}}
	twice.inPlace(slow)
	for _, sd := range []float64{slow[0].FromSD, slow[0].ToSD} {
		if twice.moment(0, sd).sure >= leastDrafted {
			t.Errorf("pictures shown twice: the end is doubted by %.2f frames", sd)
		}
	}
	// Ends that the clip does not show have none.
	e := draftOf("shot", 40, moved(50, 50))
	list := []contact.Contact{{Foot: body.Left, From: 4, To: 21, Before: true, After: true}}
	if e.inPlace(list); list[0].FromSD != 0 || list[0].ToSD != 0 {
		t.Errorf("ends outside the clip: %+v", list[0])
	}
}

func TestTheFirstLiftInACircleIsDoubted(t *testing.T) {
	first := contact.Contact{Foot: body.Right, To: 30, ToSD: 0.5, Before: true}
	second := contact.Contact{Foot: body.Left, To: 42, ToSD: 0.5, Before: true}
	later := contact.Contact{Foot: body.Right, From: 45, To: 55, FromSD: 0.5, ToSD: 0.5}
	still := landing(0)
	for event, doubted := range map[string]bool{"shot": true, "discus": true, "hammer": false, "weight": false} {
		list := []contact.Contact{second, first, later}
		e := draftOf(event, 60, still)
		e.firstLift(list)
		if list[0] != second || list[2] != later {
			t.Errorf("%s: others than the first lift are doubted: %+v", event, list)
		}
		if sure := e.moment(0, list[1].ToSD).sure; doubted != (sure < leastDrafted) {
			t.Errorf("%s: the first lift is %.2f sure", event, sure)
		}
	}
	none := []contact.Contact{later}
	if draftOf("shot", 60, still).firstLift(none); none[0] != later {
		t.Errorf("where nobody stood when the clip began: %+v", none)
	}
}

func TestOfTwoMomentsThatAreSureOneMayBeMistaken(t *testing.T) {
	e := &Evaluation{found: map[string]foundAt{"on": {10, 0.9, 1}, "off": {20, 0.92, 1}}}
	e.Input.Flags = map[string]int{"mine": 30}
	for _, c := range []struct {
		at    string
		hangs []string
		want  float64
	}{
		{"mine", nil, 0},
		{"unknown", nil, 0},
		{"on", nil, 0.1},
		{"on", []string{"on", "mine"}, 0.1},
		{"off", []string{"on", "off"}, 1 - 0.9*0.92},
	} {
		if got := e.mistaken(model.Checkpoint{Position: c.at, Measure: model.Measure{Positions: c.hangs}}); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s with %v: %.3f, want %.3f", c.at, c.hangs, got, c.want)
		}
	}
}
