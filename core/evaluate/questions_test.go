package evaluate_test

import (
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func question(r report.Report, id string) (report.Question, bool) {
	i := slices.IndexFunc(r.Questions, func(q report.Question) bool { return q.ID == id })
	if i < 0 {
		return report.Question{}, false
	}
	return r.Questions[i], true
}

// A jump from the other leg than the one on the card is no take-off; the tool asks which leg
// is which, and where the plant is, with the moments at which feet come down.
func TestWhatIsMissingIsAskedFor(t *testing.T) {
	m := load(t, "high-jump")
	tr := truth(t, simcam.Spec{Event: "high-jump", CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 0.3, 1))
	in.Flags = map[string]int{}
	in.Athlete.TakeoffLeg = tr.Spec.Leg
	if tr.Spec.Leg == "" {
		in.Athlete.TakeoffLeg = body.Left
	}
	if _, asked := question(evaluate.Attempt(m, in), "moment:plant"); asked {
		t.Fatal("the plant is asked for though it is found")
	}
	in.Athlete.TakeoffLeg = in.Athlete.TakeoffLeg.Other()
	r := evaluate.Attempt(m, in)
	sides, asked := question(r, "sides")
	if !asked || len(sides.Options) != 2 || sides.Options[0].Exchanged || !sides.Options[1].Exchanged {
		t.Fatalf("sides: %+v", sides)
	}
	left := tr.Frames[sides.Frame].Landmarks["left_ankle"].Image
	if o := sides.Options[0]; math.Hypot(o.X-left[0], o.Y-left[1]) > 2 {
		t.Errorf("the left foot is shown at %.0f, %.0f, it is at %.0f", o.X, o.Y, left)
	}
	named := in
	named.Points = maps.Clone(in.Points)
	named.Points["left_knee"] = in.Points["left_knee"].Clone()
	knee, _ := named.Points["left_knee"].At(sides.Frame)
	knee.Source = track.Hand.String()
	_ = named.Points["left_knee"].Set(sides.Frame, &knee)
	if _, again := question(evaluate.Attempt(m, named), "sides"); again {
		t.Error("the left leg is asked for though a hand has placed it")
	}
	for id, want := range map[string]int{"plant": tr.Positions["plant"], "to": tr.Positions["to"]} {
		q, asked := question(r, "moment:"+id)
		if !asked {
			t.Fatalf("%s is not asked for: %+v", id, r.Questions)
		}
		if !slices.ContainsFunc(q.Options, func(o report.Option) bool { return o.Frame >= want-1 && o.Frame <= want+1 }) {
			t.Errorf("%s is at %d; offered: %+v", id, want, q.Options)
		}
		in.Flags[id] = want
	}
	for _, q := range evaluate.Attempt(m, in).Questions {
		if q.Position == "plant" && q.Kind == "moment" {
			t.Errorf("asked again: %+v", q)
		}
	}
}

// A missing point is asked for where something is read from it; a joint that nobody works
// with in a clip is not.
func TestAMissingPointIsAskedFor(t *testing.T) {
	m := load(t, "sprint-start")
	tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 0.3, 1))
	in.Flags = map[string]int{}
	delete(in.Points, body.Breastbone)
	td := tr.Positions["td1"]
	for id := range in.Points {
		if id == "left_ankle" || id == "right_ankle" {
			in.Points[id].Apply(track.Clear(td-40, td+40), true)
		}
	}
	in.Flags["td1"] = td
	missing := 0
	for _, q := range evaluate.Attempt(m, in).Questions {
		if q.Landmark == body.Breastbone {
			t.Errorf("%+v", q)
		}
		if q.Kind == "joint" && len(q.Options) == 0 && q.Frame == td {
			missing++
		}
	}
	if missing == 0 {
		t.Error("the ankle at the touchdown is not asked for")
	}
}

// A foot has come down somewhere between the first picture that shows it and the one before:
// angles that change fast there are read for the middle of that, and are as doubtful as the
// pictures are few.
func TestReadingsOfFewPicturesCoverTheMoment(t *testing.T) {
	m := load(t, "running")
	covered, all := 0, 0
	var off, step []float64
	for _, speed := range []float64{3.6, 4.1, 4.7, 5.2, 5.9, 6.4} {
		for _, rate := range []float64{30, 60} {
			spec := simcam.Spec{Event: "running", Speed: speed, Width: 1280, Height: 720}
			spec.CaptureRate = 960
			fine := truth(t, spec)
			spec.CaptureRate = rate
			coarse := truth(t, spec)
			read := func(tr simcam.Truth) map[string]report.Repetition {
				in := points.Input(tr, points.All(tr, 0, 1))
				in.Flags = map[string]int{}
				for id, f := range tr.Positions {
					in.Flags[id] = f
				}
				out := map[string]report.Repetition{}
				v, _ := evaluate.Attempt(m, in).Reading("shank")
				for _, x := range v.Repetitions {
					out[x.Position] = x
				}
				return out
			}
			want := read(fine)
			for id, x := range read(coarse) {
				w, ok := want[id]
				if !ok || x.Frame < 2 {
					continue
				}
				all++
				if math.Abs(x.Value.Value-w.Value.Value) <= x.Value.Half95 {
					covered++
				}
				off, step = append(off, x.Value.Value-w.Value.Value), append(step, x.Value.SD)
			}
		}
	}
	mean := func(v []float64) (s float64) {
		for _, x := range v {
			s += x / float64(len(v))
		}
		return s
	}
	if all < 30 || float64(covered) < 0.93*float64(all) {
		t.Errorf("%d of %d shanks at touchdown lie within their doubt", covered, all)
	}
	// What is left comes from smoothing, which rounds a landing.
	if bias := mean(off); math.Abs(bias) > 2.5 {
		t.Errorf("they are %.1f degrees off on the whole, with a doubt of %.1f", bias, mean(step))
	}
}

// Who stands about is not the athlete of a run; who runs is, and so is a thrower who winds up.
func TestWhoStandsAboutIsAskedFor(t *testing.T) {
	for _, event := range []string{"running", "hammer", "shot"} {
		m := load(t, event)
		tr := truth(t, simcam.Spec{Event: event, CaptureRate: 60})
		in := points.Input(tr, points.All(tr, 0.5, 1))
		if _, asked := question(evaluate.Attempt(m, in), "athlete"); asked {
			t.Errorf("%s: the athlete is taken for somebody who stands about", event)
		}
		for _, p := range in.Points {
			first, ok := p.At(0)
			for f := 0; ok && f < len(tr.Frames); f++ {
				first.X += 0.3 * math.Sin(float64(f)) // nobody stands quite still
				_ = p.Set(f, &first)
			}
		}
		in.Camera, in.Contacts = nil, nil
		if q, asked := question(evaluate.Attempt(m, in), "athlete"); !asked || len(q.For) == 0 {
			t.Errorf("%s: nobody is asked for: %+v", event, q)
		}
	}
}

// A clip of stills is read position by position: angles at flags, no times, no contacts; asked
// are its pictures.
func TestStillsAreReadByPosition(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 0, 1))
	letters := []byte(strings.Repeat("r", len(tr.Frames)))
	td, to := tr.Positions["td2"], tr.Positions["to2"]
	for _, f := range []int{0, td, to} {
		letters[f] = timebase.Own
	}
	in.Clip.Pictures = timebase.Pictures(letters)
	if !in.Clip.Pictures.Stills() {
		t.Fatalf("%d and %d are too near for stills", td, to)
	}
	in.Flags = map[string]int{}
	for _, q := range evaluate.Attempt(m, in).Questions {
		for _, o := range q.Options {
			if q.Kind == "moment" && o.Frame != 0 && o.Frame != td && o.Frame != to {
				t.Errorf("%s: frame %d is no still", q.ID, o.Frame)
			}
		}
	}
	in.Flags = map[string]int{"td1": td, "to1": to + 3}
	r := evaluate.Attempt(m, in)
	if len(r.Contacts) > 0 && r.Contacts[0].Seconds != nil {
		t.Errorf("a contact lasts %v between stills", r.Contacts[0].Seconds)
	}
	if v, _ := r.Reading("contact"); v.Value != nil || !strings.Contains(v.Reason, "stills") && !strings.Contains(v.Reason, "not known") {
		t.Errorf("contact time of stills: %+v", v)
	}
	hand := in
	hand.Clip.Pictures = ""
	want, _ := evaluate.Attempt(m, hand).Reading("knee")
	if got, _ := r.Reading("knee"); got.Value == nil || want.Value == nil || math.Abs(got.Value.Value-want.Value.Value) > 4 {
		t.Errorf("the knee in a still is %+v, in the clip %+v", got.Value, want.Value)
	}
}
