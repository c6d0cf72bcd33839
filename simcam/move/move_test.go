package move

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var adult = body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}

func motion(t testing.TB, w Wish) *Motion {
	t.Helper()
	m, err := New(adult, w)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

func TestCurvesKeepTheirKeysAndDoNotOvershoot(t *testing.T) {
	c := Keys(0, 1, 1, 3, 2, 3, 4, -2)
	for _, k := range [][2]float64{{0, 1}, {1, 3}, {2, 3}, {4, -2}, {-5, 1}, {9, -2}} {
		if got := c.At(k[0]); math.Abs(got-k[1]) > 1e-12 {
			t.Errorf("at %v: %v, want %v", k[0], got, k[1])
		}
	}
	for x := 0.0; x < 4; x += 0.01 {
		if v := c.At(x); v > 3+1e-12 || v < -2-1e-12 {
			t.Fatalf("overshoots to %v at %v", v, x)
		}
	}
	if (Curve{}).At(3) != 0 {
		t.Error("an empty curve is not 0")
	}
	b := Keys(0, 0, 1, 1).bound(1, 5)
	if s := (b.At(1) - b.At(1-1e-6)) / 1e-6; math.Abs(s-5) > 1e-3 {
		t.Errorf("slope %v", s)
	}
	rising := Keys(0, 0, 1, 10, 3, 12)
	if x := rising.invert(11, 0, 3); math.Abs(rising.At(x)-11) > 1e-9 {
		t.Errorf("inverts to %v", x)
	}
}

// TestPlantedFootTurnsOnItsPivot: first on the heel, then on the toe, as the
// foot of a hammer thrower does; each half turn gains two foot lengths.
func TestPlantedFootTurnsOnItsPivot(t *testing.T) {
	m := &Motion{Sizes: figure.SizesOf(adult)}
	pl := Plant{From: 0, To: 2, Toe: r3.Vec{X: -1, Y: sole0}, Heading: Keys(0, 180, 1, 0, 2, -180), Sole: Keys(0, 0), Rolls: []Roll{{From: 0, OnHeel: true}, {From: 1}}}
	over := r3.Vec{Y: 0.8}
	start := m.Sizes.Heel(m.foot(&pl, 0, over))
	for x := 0.0; x <= 1; x += 0.1 {
		if d := r3.Norm(r3.Sub(m.Sizes.Heel(m.foot(&pl, x, over)), start)); d > 1e-9 {
			t.Fatalf("the heel moves %.4f m", d)
		}
	}
	toe := m.foot(&pl, 1, over).Toe
	for x := 1.0; x <= 2; x += 0.1 {
		if d := r3.Norm(r3.Sub(m.foot(&pl, x, over).Toe, toe)); d > 1e-9 {
			t.Fatalf("the toe moves %.4f m", d)
		}
	}
	end := m.foot(&pl, 2, over)
	if gain := end.Toe.X - pl.Toe.X; math.Abs(gain-2*m.Sizes.Foot) > 1e-9 {
		t.Errorf("gains %.3f m, foot %.3f", gain, m.Sizes.Foot)
	}
}

// TestHammerFeetStayInTheCircle and go forward with every turn.
func TestHammerFeetStayInTheCircle(t *testing.T) {
	for _, event := range []string{"hammer", "weight"} {
		for i, turns := range []int{3, 4} {
			w := Wish{Event: event, Turns: turns}
			if event == "hammer" {
				w.Winds = 1 + i
			}
			m := motion(t, w)
			for x := m.First; x < m.Last; x += 0.01 {
				st := m.At(x)
				for s := range 2 {
					if at := st.Body.At(s, figure.Toe); st.Down[s] && math.Hypot(at.X, at.Z) > 2.135/2 {
						t.Fatalf("%s %d turns: foot %.2f m from the middle at %.2f s", event, turns, math.Hypot(at.X, at.Z), x)
					}
				}
			}
			last := math.Inf(-1)
			for n := range turns {
				st := m.At(m.Times["zero"+string(rune('1'+n))])
				at := st.Body.At(left, figure.Heel).X
				if at <= last {
					t.Errorf("%s turn %d: the pivot foot does not gain ground", event, n+1)
				}
				last = at
			}
		}
	}
}

// TestThrowersStayInTheirCircles from start to release.
func TestThrowersStayInTheirCircles(t *testing.T) {
	for _, w := range []Wish{{Event: "discus"}, {Event: "discus", Variant: "standing"}, {Event: "shot"}, {Event: "shot", Variant: "rotational"}} {
		m := motion(t, w)
		for x := m.First; x < m.Release; x += 0.01 {
			st := m.At(x)
			for s := range 2 {
				if at := st.Body.At(s, figure.Toe); st.Down[s] && math.Hypot(at.X, at.Z) > m.Props.Circle/2 {
					t.Fatalf("%+v: a foot %.2f m from the middle at %.2f s", w, math.Hypot(at.X, at.Z), x)
				}
			}
		}
	}
}

// TestPoleKeepsItsLength between tip and top hand, stands in the box from the
// take-off on, and is shortest while it is bent most.
func TestPoleKeepsItsLength(t *testing.T) {
	m := motion(t, Wish{Event: "pole-vault"})
	var length float64
	shortest, when := math.Inf(1), 0.0
	for x := m.Times["to"] + 0.01; x < m.Times["push_off"]; x += 0.01 {
		im := m.At(x).Implement
		var arc float64
		for i := range 10 {
			arc += r3.Norm(r3.Sub(im[PolePoint(i+1)], im[PolePoint(i)]))
		}
		if length == 0 {
			length = arc
		}
		// Ten straight pieces are a little shorter than the bent pole.
		if math.Abs(arc/length-1) > 0.015 {
			t.Fatalf("pole of %.3f m at %.2f s, %.3f m before", arc, x, length)
		}
		if d := r3.Norm(r3.Sub(im[PolePoint(0)], *m.Props.VaultBox)); d > 1e-9 {
			t.Fatalf("the tip is %.3f m off the box", d)
		}
		if chord := r3.Norm(r3.Sub(im[PolePoint(10)], im[PolePoint(0)])); chord < shortest {
			shortest, when = chord, x
		}
	}
	if math.Abs(when-m.Times["bend"]) > 0.03 {
		t.Errorf("bent most at %.2f s, the flag says %.2f", when, m.Times["bend"])
	}
}

// TestVaulterHoldsThePole: both hands on it through the swing.
func TestVaulterHoldsThePole(t *testing.T) {
	m := motion(t, Wish{Event: "pole-vault"})
	for x := m.Times["to"]; x < m.Times["bend"]; x += 0.02 {
		st := m.At(x)
		for s := range 2 {
			near := math.Inf(1)
			for i := range 11 {
				a, b := st.Implement[PolePoint(i)], st.Implement[PolePoint(i+1)]
				for f := 0.0; f <= 1; f += 0.05 {
					near = math.Min(near, r3.Norm(r3.Sub(st.Body.At(s, figure.Hand), figure.Between(a, b, f))))
				}
			}
			if near > 0.10 {
				t.Fatalf("hand %d is %.2f m off the pole at %.2f s", s, near, x)
			}
		}
	}
}

// TestJumpersClearWhatTheyJump: at the top the hips are over the bar, and no
// foot or hip is lower than the bar while it is above it.
func TestJumpersClearWhatTheyJump(t *testing.T) {
	for _, event := range []string{"high-jump", "pole-vault"} {
		m := motion(t, Wish{Event: event})
		bar := m.Props.Bar
		st := m.At(m.Times["top"])
		if st.Body.Mid(figure.Hip).Y < bar.A.Y {
			t.Errorf("%s: hips %.2f m under the bar", event, bar.A.Y-st.Body.Mid(figure.Hip).Y)
		}
		if rise := m.At(m.Times["top"]).Centre.Y - m.At(m.Times["to"]).Centre.Y; rise < 0.5 {
			t.Errorf("%s: the centre of mass rises %.2f m", event, rise)
		}
	}
}

// TestLongJumpLandsInTheSand, beyond the board, by a club athlete's distance.
func TestLongJumpLandsInTheSand(t *testing.T) {
	for _, v := range []string{"sail", "hang", "hitch-kick"} {
		m := motion(t, Wish{Event: "long-jump", Variant: v})
		foot, sand := m.At(m.Times["td"]+0.03), m.At(m.Times["land"])
		toe, heel := foot.Body.At(left, figure.Toe).X, sand.Body.At(left, figure.Heel).X
		if toe > m.Props.Board || toe < m.Props.Board-0.3 {
			t.Errorf("%s: takes off %.2f m before the edge", v, m.Props.Board-toe)
		}
		if d := heel - m.Props.Board; d < 5.5 || d > 7.5 || heel < m.Props.Sand {
			t.Errorf("%s: lands after %.2f m", v, d)
		}
	}
}

// TestRunnersAreAsFastAsWished.
func TestRunnersAreAsFastAsWished(t *testing.T) {
	for _, v := range []float64{3, 4.2, 6, 9} {
		m := motion(t, Wish{Event: "running", Speed: v})
		a, b := m.At(m.Times["td1"]), m.At(m.Times["td3"])
		got := (b.Centre.X - a.Centre.X) / (m.Times["td3"] - m.Times["td1"])
		if math.Abs(got/v-1) > 0.03 {
			t.Errorf("%.2f m/s, wished %.1f", got, v)
		}
		if c := m.Times["to1"] - m.Times["td1"]; c < 0.08 || c > 0.3 {
			t.Errorf("contact of %.3f s at %.1f m/s", c, v)
		}
	}
	slow, fast := motion(t, Wish{Event: "running", Speed: 3}), motion(t, Wish{Event: "running", Speed: 9})
	if slow.Times["to1"]-slow.Times["td1"] <= fast.Times["to1"]-fast.Times["td1"] {
		t.Error("contacts do not shorten with speed")
	}
}

func TestOrbitIsLowWhereItSays(t *testing.T) {
	o := orbit{phase: Keys(0, 0, 1, 360), tilt: Keys(0, 40), low: Keys(0, 0)}
	low, high := math.Inf(1), math.Inf(-1)
	var atLow, atHigh float64
	for x := 0.0; x <= 1; x += 0.01 {
		d := o.out(x)
		if math.Abs(r3.Norm(d)-1) > 1e-12 {
			t.Fatal("not a direction")
		}
		if d.Y < low {
			low, atLow = d.Y, 360*x
		}
		if d.Y > high {
			high, atHigh = d.Y, 360*x
		}
	}
	if math.Abs(math.Asin(-low)*180/math.Pi-40) > 0.1 || math.Abs(math.Remainder(atLow, 360)) > 4 || math.Abs(atHigh-180) > 4 {
		t.Errorf("low %.2f at %.0f, high %.2f at %.0f", low, atLow, high, atHigh)
	}
	if r := reach(r3.Vec{}, r3.Vec{X: 1}, 0.6, r3.Vec{Z: 0.2}, r3.Vec{Z: -0.2}); math.Abs(r-math.Sqrt(0.36-0.04)) > 1e-12 {
		t.Errorf("two straight arms reach %.3f m", r)
	}
}

func TestWrongWishes(t *testing.T) {
	for _, w := range []Wish{{Event: "croquet"}, {Event: "hammer", Winds: 5}, {Event: "discus", Turns: 3}, {Event: "running", Speed: 1},
		{Event: "shot", Variant: "glide", Faults: map[string]float64{"dive": 10}}, {Event: "javelin", Faults: map[string]float64{"reaching": math.NaN()}}} {
		if _, err := New(adult, w); err == nil {
			t.Errorf("%+v is built", w)
		}
	}
	if e, err := Find("shot"); err != nil || math.IsNaN(e.Shown("glide", "crooked")) || !math.IsNaN(e.Shown("rotational", "crooked")) {
		t.Error("sizes of faults belong to their variants")
	}
}

func BenchmarkAt(b *testing.B) {
	m := motion(b, Wish{Event: "pole-vault"})
	i := 0
	for b.Loop() {
		m.At(m.First + (m.Last-m.First)*float64(i%997)/997)
		i++
	}
}

// Nobody's hips are thrown about, in the movement as written and in styles of it: where
// feet come down and leave, a pose that does not fit the next would show as a jolt.
func TestNoJolts(t *testing.T) {
	const step, most = 0.004, 1200.0 // s; m/s2 over 8 ms: a pole takes hold with a thousand
	for _, e := range Events() {
		for _, v := range e.Variants {
			for _, style := range []uint64{0, 5} {
				m, err := New(body.Person{Sex: body.Male, Height: 1.84, Mass: 82, FrontLeg: body.Left}, Wish{Event: e.ID, Variant: v.ID, Style: style})
				if err != nil {
					t.Fatal(err)
				}
				end := m.Last
				if !math.IsNaN(m.Release) {
					end = m.Release
				}
				at := func(x float64) r3.Vec { b := m.At(x).Body; return b.Mid(figure.Hip) }
				for x := m.First + step; x < end-step; x += step / 2 {
					a := r3.Norm(r3.Add(r3.Sub(at(x-step), r3.Scale(2, at(x))), at(x+step))) / (step * step)
					if a > most {
						t.Errorf("%s %s, style %d: hips are pushed by %.0f m/s2 at %.3f s", e.ID, v.ID, style, a, x)
						break
					}
				}
			}
		}
	}
}
