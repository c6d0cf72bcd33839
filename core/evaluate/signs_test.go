package evaluate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// found are the doubts, s, of the touchdowns and toe-offs that a report states.
func found(r report.Report) (list []float64) {
	for _, p := range r.Positions {
		if p.Frame != nil && (strings.HasPrefix(p.ID, "td") || strings.HasPrefix(p.ID, "to")) {
			list = append(list, p.SD)
		}
	}
	return list
}

// pictured are the contacts as the picture of the feet shows them, of frames each of which stands
// so often in the file.
func pictured(tr simcam.Truth, each int) (list []contact.Contact) {
	last := len(tr.Frames) - 1
	for _, side := range []body.Side{body.Left, body.Right} {
		for f := 1; f <= last; f++ {
			if !points.Down(tr, side, f) || points.Down(tr, side, f-1) {
				continue
			}
			to := f
			for to < last && points.Down(tr, side, to) {
				to++
			}
			list = append(list, contact.Contact{Foot: side, From: each * f, To: each * to, FromSD: 1, ToSD: 1, Confidence: 0.7, After: to == last})
		}
	}
	return list
}

// What is seen about a moment at which a drafted foot comes down or leaves tells how far it is
// believed: less where the networks hardly see the ankle, more where the picture shows that
// the feet take turns.
func TestSignsTellHowFarAMomentIsBelieved(t *testing.T) {
	m := load(t, "running")
	read := func(change func(tr simcam.Truth, in *evaluate.Input)) (n int, sum float64) {
		for seed := range uint64(4) {
			tr := truth(t, simcam.Spec{Event: "running", Speed: 4 + float64(seed)/2, CaptureRate: 60, Direction: 1})
			in := points.Input(tr, points.All(tr, 0.3, seed))
			in.Flags = map[string]int{}
			trembling(&in, 300, 0.004, seed)
			change(tr, &in)
			for _, sd := range found(evaluate.Attempt(m, in)) {
				n, sum = n+1, sum+sd
			}
		}
		return n, sum / math.Max(1, float64(n))
	}
	n, sd := read(func(simcam.Truth, *evaluate.Input) {})
	if n < 10 {
		t.Fatalf("%d moments are stated", n)
	}
	dim, dimSD := read(func(_ simcam.Truth, in *evaluate.Input) {
		for _, id := range []string{"left_ankle", "right_ankle"} {
			p := in.Points[id]
			for i := range p.Confidence {
				p.Confidence[i] /= 4
			}
		}
	})
	if dim > n || dim > 0 && dimSD <= sd {
		t.Errorf("of ankles that are hardly seen %d moments are stated with %.4f s; else %d with %.4f s", dim, dimSD, n, sd)
	}
	looked, lookedSD := read(func(tr simcam.Truth, in *evaluate.Input) { in.Contacts = pictured(tr, 1) })
	if looked < n || lookedSD >= sd {
		t.Errorf("with feet that the picture shows %d moments are stated with %.4f s; else %d with %.4f s", looked, lookedSD, n, sd)
	}
}

// A contact that the picture alone shows is drawn with both ends open, where neither foot is
// known to stand, and nothing is computed from it.
func TestWhatThePictureAloneShowsIsOpen(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 60, Direction: 1})
	looks := pictured(tr, 1)
	only := slices.IndexFunc(looks, func(c contact.Contact) bool { return c.From > 30 && !c.After })
	if only < 0 {
		t.Fatalf("contacts %+v", looks)
	}
	hidden := looks[only]
	in := points.Input(tr, points.All(tr, 0.3, 1))
	in.Flags, in.Contacts = map[string]int{}, looks
	hide := func(from, to int) {
		for _, part := range []string{"toe", "heel", "ankle"} {
			p := in.Points[string(hidden.Foot)+"_"+part]
			for f := from; f < to; f++ {
				_ = p.Set(f, nil) // the frame is there
			}
		}
	}
	// From one contact of the other foot to the next.
	hide(hidden.From-15, hidden.To+15)
	shown := func(r report.Report, c contact.Contact) bool {
		return slices.ContainsFunc(r.Glimpses, func(g contact.Glimpse) bool {
			return g.Foot == c.Foot && g.Open == "both" && g.From == c.From && g.To == c.To
		})
	}
	r := evaluate.Attempt(m, in)
	if !shown(r, hidden) {
		t.Errorf("%+v is not among %+v", hidden, r.Glimpses)
	}
	// Of both feet at one place, as the picture has them, it is the one that it shows more clearly.
	rival := hidden
	for rival.Foot = hidden.Foot.Other(); rival.Confidence >= 0.6; rival.Confidence -= 0.1 {
		in.Contacts = append(slices.Clone(looks), rival)
		clearer := rival.Confidence < hidden.Confidence
		if r := evaluate.Attempt(m, in); shown(r, rival) || shown(r, hidden) != clearer {
			t.Errorf("%+v beside %+v: %+v", hidden, rival, r.Glimpses)
		}
	}
	for _, s := range r.Steps {
		if s.From >= hidden.From-2 && s.From <= hidden.From+2 {
			t.Errorf("step %+v of a contact that nobody saw in the points", s)
		}
	}
	// The other foot stands: nobody who runs has both down.
	other := looks[slices.IndexFunc(looks, func(c contact.Contact) bool { return c.Foot != hidden.Foot && c.From > 10 })]
	claimed := contact.Contact{Foot: hidden.Foot, From: other.From + 1, To: other.To - 1, FromSD: 1, ToSD: 1, Confidence: 0.7}
	hide(claimed.From-5, claimed.To+5)
	in.Contacts = append(slices.Delete(slices.Clone(looks), only, only+1), claimed)
	if r := evaluate.Attempt(m, in); shown(r, claimed) {
		t.Errorf("both feet are down: %+v beside %+v", claimed, r.Contacts)
	}
}

// Where the clip ends with a foot on the ground and nobody can tell since when, it is there all the
// same.
func TestTheLastFootIsThere(t *testing.T) {
	there, shown := 0, 0
	for seed := range uint64(12) {
		tr := truth(t, simcam.Spec{Event: "javelin", CaptureRate: 25, Direction: 1})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		in.Flags = map[string]int{}
		trembling(&in, 300, 0.012, seed)
		last := len(tr.Frames) - 1
		for _, g := range evaluate.Attempt(load(t, "javelin"), in).Glimpses {
			if g.Open != "both" || g.To < last-3 {
				continue
			}
			if shown++; points.Down(tr, g.Foot, last) {
				there++
			}
		}
	}
	t.Logf("%d of 12 throws end with a foot that is shown, %d of them rightly", shown, there)
	if shown < 6 || 10*there < 9*shown {
		t.Errorf("%d of 12 throws end with a foot that is shown, %d of them rightly", shown, there)
	}
}
