package e2e

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// On a tablet that is held upright the stage comes first and nothing stands beside the page; two
// fingers zoom where they are, and one across the whole picture turns through its frames.
func TestFingersOnTheStage(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	if err := (proto.EmulationSetTouchEmulationEnabled{Enabled: true}).Call(s); err != nil {
		t.Fatal(err)
	}
	for _, size := range [][2]int{{1024, 768}, {768, 1024}, {390, 844}} {
		s.MustSetViewport(size[0], size[1], 1, size[0] < 1000)
		s.Bench(h, at.ID)
		s.Until(func() bool {
			return s.MustEval(`() => document.documentElement.scrollWidth <= innerWidth`).Bool()
		}, "nothing stands beside a page of %d x %d", size[0], size[1])
		if w := s.MustEval(`() => document.querySelector("[data-testid=stage]").clientWidth`).Int(); w < min(size[0]-40, 560) {
			t.Errorf("%v: the stage is %d px wide", size, w)
		}
	}
	r := s.MustEval(`() => { const r = document.querySelector("[data-testid=stage]").getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; }`)
	x, y := r.Get("0").Num(), r.Get("1").Num()
	touch := func(kind proto.InputDispatchTouchEventType, at ...[2]float64) {
		t.Helper()
		list := []*proto.InputTouchPoint{}
		for i, p := range at {
			id := float64(i)
			list = append(list, &proto.InputTouchPoint{X: p[0], Y: p[1], ID: &id})
		}
		if err := (proto.InputDispatchTouchEvent{Type: kind, TouchPoints: list}).Call(s); err != nil {
			t.Fatal(err)
		}
	}
	look := func() (k float64) {
		_, _ = fmt.Sscan(*s.See("[data-testid=stage]").MustAttribute("data-look"), &k)
		return k
	}
	// A finger to the right goes on in time, back to the left back.
	touch("touchStart", [2]float64{x - 60, y})
	touch("touchMove", [2]float64{x - 30, y})
	touch("touchMove", [2]float64{x + 30, y})
	touch("touchEnd")
	s.Until(func() bool { return s.Frame() == 10 }, "a finger 90 px to the right goes ten frames on")
	whole := look()
	touch("touchStart", [2]float64{x - 40, y})
	touch("touchStart", [2]float64{x - 40, y}, [2]float64{x + 40, y})
	touch("touchMove", [2]float64{x - 80, y}, [2]float64{x + 80, y})
	touch("touchEnd")
	s.Until(func() bool { return math.Abs(look()/whole-2) < 0.1 }, "fingers twice as far apart show it twice as large")
	if s.Frame() != 10 {
		t.Errorf("the pinch went to frame %d", s.Frame())
	}
	touch("touchStart", [2]float64{x - 80, y})
	touch("touchStart", [2]float64{x - 80, y}, [2]float64{x + 80, y})
	touch("touchMove", [2]float64{x - 20, y}, [2]float64{x + 20, y})
	touch("touchEnd")
	s.Until(func() bool { return math.Abs(look()/whole-1) < 0.01 }, "and together the whole again")
	// The wheel under the thumb does so whatever the stage shows.
	w := s.MustEval(`() => { const e = document.querySelector(".wheel"); e.scrollIntoView({ block: "center" }); const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2, r.height]; }`)
	x, y = w.Get("0").Num(), w.Get("1").Num()
	if w.Get("2").Num() < 44 {
		t.Errorf("the wheel is %v px high", w.Get("2"))
	}
	touch("touchStart", [2]float64{x, y})
	touch("touchMove", [2]float64{x - 30, y})
	touch("touchMove", [2]float64{x - 60, y})
	touch("touchEnd")
	s.Until(func() bool { return s.Frame() == 5 }, "a thumb 60 px to the left turns five frames back")
}
