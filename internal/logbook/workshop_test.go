package logbook

import (
	"math"
	"slices"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/uncertainty"
	"neokinema/core/workshop"
	"neokinema/core/workshop/known"
	"neokinema/internal/store"
)

// row is a line of the log.
func row(event, day, mark string, change func(*store.LogRow)) store.LogRow {
	r := store.LogRow{Attempt: store.Attempt{ID: uuid.New(), NewAttempt: store.NewAttempt{Event: event, DoneOn: day, Mark: mark}}}
	if change != nil {
		change(&r)
	}
	return r
}

// told are facts of a clip.
func told(pairs ...any) Summary {
	f := known.Facts{Values: map[string]uncertainty.Estimate{}}
	for i := 0; i < len(pairs); i += 2 {
		f.Values[pairs[i].(string)] = uncertainty.Normal(pairs[i+1].(float64), 0.02)
	}
	return Summary{Facts: &f}
}

func filledFrom(event string, rows []store.LogRow, sums map[uuid.UUID]Summary, attempt uuid.UUID) Workshop {
	w := Workshop{Event: event, Facts: map[string]Fact{}, Lists: map[string]FactList{}}
	w.Athlete.NewAthlete = store.NewAthlete{Born: 2004, Sex: "female", Height: 1.75, Mass: 64, TakeoffLeg: "left"}
	w.fill(rows, sums, attempt)
	return w
}

// The attempt that is named comes first, then the newest that tells something; each fact says where
// it is from.
func TestWhoseNumbersComeFirst(t *testing.T) {
	old := row("high-jump", "2026-05-01", "1.70 m", nil)
	mid := row("high-jump", "2026-05-08", "1.75 m", nil)
	last := row("high-jump", "2026-05-15", "", nil)
	rows := []store.LogRow{old, mid, last}
	sums := map[uuid.UUID]Summary{old.ID: told("curve-radius", 8.8, "jump-upward", 3.6), mid.ID: told("curve-radius", 9.4)}
	w := filledFrom("high-jump", rows, sums, uuid.Nil)
	if f := w.Facts["curve-radius"]; f.Value != 9.4 || *f.AttemptID != mid.ID || f.From != "clip" || f.DoneOn != "2026-05-08" {
		t.Errorf("radius %+v", f)
	}
	if f := w.Facts["jump-upward"]; f.Value != 3.6 || *f.AttemptID != old.ID {
		t.Errorf("upward %+v", f)
	}
	if f := w.Facts["bar"]; f.Value != 1.75 || f.From != "log" {
		t.Errorf("bar %+v", f)
	}
	if f := w.Facts["body-height"]; f.Value != 1.75 || f.From != "card" || f.AttemptID != nil {
		t.Errorf("height %+v", f)
	}
	w = filledFrom("high-jump", rows, sums, old.ID)
	if f := w.Facts["curve-radius"]; f.Value != 8.8 || *f.AttemptID != old.ID {
		t.Errorf("of the first attempt: %+v", f)
	}
	q, _ := workshop.Find("high-plan")
	if v := w.Values(q); v["radius"].Value != 8.8 || v["straight"].Value != 5 {
		t.Errorf("values %+v", v)
	} else if _, seen := v["lean"]; seen {
		t.Error("a lean that nobody has seen")
	}
}

// What the coach writes about pole and run-up fills its question.
func TestPoleAndRunUp(t *testing.T) {
	ten := 10
	jump := row("high-jump", "2026-05-01", "1.70 m", func(r *store.LogRow) { r.RunUp = &ten })
	if f := filledFrom("high-jump", []store.LogRow{jump}, nil, uuid.Nil).Facts["straight-steps"]; f.Value != 5 || f.From != "log" {
		t.Errorf("straight steps %+v", f)
	}
	vault := row("pole-vault", "2026-05-01", "4.20 m", func(r *store.LogRow) { r.Implement = "pole 4,45 m, 75 kg" })
	w := filledFrom("pole-vault", []store.LogRow{vault}, nil, uuid.Nil)
	if w.Facts["pole-length"].Value != 4.45 || w.Facts["pole-rating"].Value != 75 {
		t.Errorf("length %+v, rating %+v", w.Facts["pole-length"], w.Facts["pole-rating"])
	}
	if _, thrown := w.Facts["implement-mass"]; thrown {
		t.Error("a pole is no implement that is thrown")
	}
	q, _ := workshop.Find("vault-energy")
	if v := w.Values(q); v["pole"].Value != 4.45 || v["rating"].Value != 75 {
		t.Errorf("values %+v", v)
	}
}

// Plants are past the edge when positive, in the order of the days, at most fifteen; winds only
// when all are known. A vaulter's are past the hand.
func TestListsOfPlants(t *testing.T) {
	wind := 1.1
	var rows []store.LogRow
	sums := map[uuid.UUID]Summary{}
	for i := range 17 {
		r := row("long-jump", "2026-05-01", "", func(r *store.LogRow) { r.Wind = &wind })
		sums[r.ID] = told("toe-behind", float64(i)/100, "toe-under", float64(i)/50)
		rows = append(rows, r)
	}
	w := filledFrom("long-jump", rows, sums, uuid.Nil)
	if l := w.Lists["plants"].Values; len(l) != triesTogether || math.Abs(l[0]+0.02) > 1e-9 || math.Abs(l[14]+0.16) > 1e-9 {
		t.Errorf("plants %v", l)
	}
	if l := w.Lists["winds"].Values; len(l) != triesTogether {
		t.Errorf("winds %v", l)
	}
	rows[4].Wind = nil
	if _, had := filledFrom("long-jump", rows, sums, uuid.Nil).Lists["winds"]; had {
		t.Error("winds though one is not known")
	}
	if l := filledFrom("pole-vault", rows, sums, uuid.Nil).Lists["plants"].Values; math.Abs(l[14]-0.32) > 1e-9 {
		t.Errorf("of the vault: %v", l)
	}
}

// Bests: fouls and wind-assisted marks are none, short run-ups and techniques stand for themselves,
// and implements only within some weeks of each other.
func TestBestsOfTheLog(t *testing.T) {
	fast, calm, far, near := 3.1, 0.4, 18, 8
	rows := []store.LogRow{
		row("long-jump", "2026-05-01", "6.60 m", func(r *store.LogRow) { r.Wind, r.RunUp = &fast, &far }),
		row("long-jump", "2026-05-02", "6.20 m", func(r *store.LogRow) { r.Wind, r.RunUp = &calm, &far }),
		row("long-jump", "2026-05-03", "6.40 m", func(r *store.LogRow) { r.Foul = "toe" }),
		row("long-jump", "2026-05-04", "5.60 m", func(r *store.LogRow) { r.RunUp = &near }),
	}
	w := filledFrom("long-jump", rows, nil, uuid.Nil)
	if w.Facts["mark-best"].Value != 6.2 || w.Facts["mark-short"].Value != 5.6 {
		t.Errorf("best %+v, short %+v", w.Facts["mark-best"], w.Facts["mark-short"])
	}
	kg := func(text string) func(*store.LogRow) { return func(r *store.LogRow) { r.Implement = text } }
	turn := func(r *store.LogRow) { r.Implement, r.Variant = "shot 4 kg", "rotational" }
	rows = []store.LogRow{
		row("shot", "2025-10-01", "15.00 m", kg("shot 3 kg")), row("shot", "2026-05-01", "13.10 m", kg("shot 4 kg")), row("shot", "2026-05-02", "13.60 m", turn),
		row("shot", "2026-05-03", "14.40 m", kg("shot 3 kg")), row("shot", "2026-05-04", "11.90 m", kg("shot 5 kg")),
	}
	w = filledFrom("shot", rows, nil, uuid.Nil)
	if !slices.Equal(w.Lists["masses"].Values, []float64{3, 4, 5}) || !slices.Equal(w.Lists["marks"].Values, []float64{14.4, 13.6, 11.9}) {
		t.Errorf("%v, %v", w.Lists["masses"].Values, w.Lists["marks"].Values)
	}
	if w.Facts["mark-glide"].Value != 13.1 || w.Facts["mark-turn"].Value != 13.6 {
		t.Errorf("glide %+v, turn %+v", w.Facts["mark-glide"], w.Facts["mark-turn"])
	}
}

// A prediction is held against attempts of its day and later, newest first, but not against the one
// that it was made from; one that is answered no longer says why.
func TestWhatBecameOfAPrediction(t *testing.T) {
	from := row("sprint-start", "2026-05-01", "", nil)
	rows := []store.LogRow{row("sprint-start", "2026-04-20", "", nil), from, row("sprint-start", "2026-05-01", "", nil), row("sprint-start", "2026-05-09", "10 m 2.05 s", nil)}
	sums := map[uuid.UUID]Summary{}
	for i, r := range rows {
		sums[r.ID] = told("front-knee", 100-float64(i))
	}
	c := store.Calculation{NewCalculation: store.NewCalculation{AttemptID: &from.ID, Event: "sprint-start", Question: "blocks", MadeOn: "2026-05-01", Variants: store.Variants{{Values: workshop.Values{"moveFront": {Value: 2.5}}}}}}
	got := reckoned(c, rows, sums)
	if len(got.Tried) != 2 || got.Tried[0].AttemptID != rows[3].ID || got.Tried[0].Lines[0].Fact != "front-knee" || got.Answer == nil {
		t.Fatalf("%+v", got)
	}
	c.Variants[0].Values["front"] = workshop.Value{Value: 1000}
	if got := reckoned(c, rows, sums); got.Refused == "" || got.Answer != nil || len(got.Tried) != 0 {
		t.Errorf("%+v", got)
	}
}
