package seeing

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/open-spaced-repetition/go-fsrs/v3"

	"neokinema/core/eye"
	"neokinema/internal/store"
	"neokinema/simcam/lesson"
)

// clipOf is a clip as the bank has it.
func clipOf(id string, size float64, twin string) lesson.Clip {
	marks := []lesson.Mark{{ID: "left_hip", X: 100, Y: 100}, {ID: "right_hip", X: 100, Y: 100}, {ID: "left_knee", X: 100 + 40*max(0, size), Y: 150}, {ID: "left_toe", X: 101, Y: 200}}
	return lesson.Clip{ID: id, Sort: lesson.Sized, Event: "sprint-start", Variant: "blocks", Fault: "S2", View: "side", Size: size, Sign: "front knee in set", Value: 100 + 18*size, Edge: 100, Above: true, Unit: "degrees",
		Frames: 40, At: 20, Moments: map[string]int{"td1": 24, "to1": 34}, Angle: 118, Joint: "knee", Lines: [3][2]float64{{0, 0}, {10, 0}, {20, 5}}, Marks: marks, Twin: twin, Watch: "look at the knee"}
}

// bankOf is a bank of clips that nobody has drawn.
func bankOf(clips ...lesson.Clip) *Bank {
	b := &Bank{clips: map[string]lesson.Clip{}}
	b.add(clips)
	return b
}

func some() *Bank {
	dark := clipOf("dark-0", 0, "")
	dark.Sort, dark.Moments, dark.Marks, dark.Why = lesson.Dark, map[string]int{}, nil, "It ends too early."
	two := clipOf("two-1", 1, "two-0")
	two.Sort, two.Fault, two.Second, two.Third = lesson.Two, "S1", "S5", "S8"
	none := clipOf("two-0", -1, "two-0")
	none.Sort = lesson.Two
	return bankOf(clipOf("a-0", -0.6, "a-0"), clipOf("a-1", 0.3, "a-0"), clipOf("a-2", 1, "a-0"), dark, two, none)
}

func TestAnswersAreJudged(t *testing.T) {
	b := some()
	for _, c := range []struct {
		id, said string
		correct  bool
		off      float64
		truth    string
	}{
		{"there/a-2", "yes", true, 0, "Yes: front knee in set, 118°; at most 100° is right"},
		{"there/a-2", "no", false, 0, "Yes"},
		{"there/a-0", "yes", false, 0, "No"},
		{"moment/a-1/td1", "25", true, 1, "Picture 25"},
		{"moment/a-1/td1", "20", false, -4, "Picture 25"},
		{"angle/a-1", "125", true, 7, "118°"},
		{"angle/a-1", "90", false, -28, "118°"},
		{"larger/a-1/a-2", "second", true, 0, "The second"},
		{"larger/a-2/a-0", "second", false, 0, "The first"},
		{"cause/two-1", "S1", true, 0, "Shoulders"},
		{"cause/two-1", "S8", false, 0, "Shoulders"},
		{"decidable/dark-0", "no", true, 0, "It ends too early."},
		{"decidable/a-1", "no", false, 0, "Yes"},
	} {
		_, j, err := b.Judge(c.id, c.said)
		if err != nil || j.Correct != c.correct || j.Off != c.off || !strings.Contains(j.Truth, c.truth) {
			t.Errorf("%s, %s: %+v %v", c.id, c.said, j, err)
		}
	}
	for _, bad := range [][2]string{{"there/a-9", "yes"}, {"there/two-1", "yes"}, {"there/a-1", "perhaps"}, {"moment/a-1/set", "3"}, {"moment/a-1/td1", "soon"}, {"angle/a-1", "NaN"}, {"larger/a-1/a-1", "first"}, {"larger/a-1/dark-0", "first"}, {"cause/two-0", "S1"}, {"decidable/two-1", "yes"}, {"dance/a-1", "yes"}, {"", ""}} {
		if _, _, err := b.Judge(bad[0], bad[1]); err == nil {
			t.Errorf("%v is taken", bad)
		}
	}
}

func TestTheOtherClipIsInPhase(t *testing.T) {
	b := some()
	_, j, err := b.Judge("there/a-2", "yes")
	if err != nil || j.Twin == nil || j.Twin.Clip != "a-0" || j.With || len(j.Marks) != 1 || j.Marks[0].ID != "left_knee" || j.Others[0].X != 100 {
		t.Errorf("%+v %v", j, err)
	}
	if _, j, _ = b.Judge("there/a-0", "no"); j.Twin == nil || j.Twin.Clip != "a-2" || !j.With {
		t.Errorf("%+v", j)
	}
	slow, fast := clipOf("a", 1, ""), clipOf("b", -1, "")
	fast.At, fast.Moments, fast.Frames = 10, map[string]int{"td1": 14, "to1": 19}, 30
	if f := beside(slow, fast); len(f) != 40 || f[0] != 0 || f[20] != 10 || f[24] != 14 || f[34] != 19 || f[39] != 29 || !slices.IsSorted(f) {
		t.Errorf("%v", f)
	}
	// Moments in another order tell no phase, and nothing goes backward.
	fast.Moments = map[string]int{"td1": 25, "to1": 12}
	if f := beside(slow, fast); !slices.IsSorted(f) {
		t.Errorf("%v", f)
	}
}

// An exercise tells nothing of what is true: where a fault is asked for, both clips of a twin look alike to
// whoever reads the answer of the server.
func TestAnExerciseGivesNothingAway(t *testing.T) {
	b := some()
	x, _, _ := exercise("there/a-0", b.Clip)
	y, _, _ := exercise("there/a-2", b.Clip)
	if x.Asks != y.Asks || x.About != y.About || !slices.Equal(x.Choices, y.Choices) || x.Frame != y.Frame || x.Ring != nil {
		t.Errorf("%+v\n%+v", x, y)
	}
}

// The intervals that the package's own tests give for its published weights, day by day: Good six times,
// Again twice, Good five times.
func TestSpacedAsPublished(t *testing.T) {
	p := fsrs.DefaultParam()
	p.W = fsrs.Weights{0.4197, 1.1869, 3.0412, 15.2441, 7.1434, 0.6477, 1.0007, 0.0674, 1.6597, 0.1712, 1.1178, 2.0225, 0.0904, 0.3025, 2.1214, 0.2498, 2.9466, 0.4891, 0.6468}
	f := fsrs.NewFSRS(p)
	card, now := fsrs.NewCard(), time.Date(2022, 11, 29, 12, 30, 0, 0, time.UTC)
	var got []uint64
	for _, right := range []bool{true, true, true, true, true, true, false, false, true, true, true, true, true} {
		card = f.Next(card, now, rating(store.EyeAnswer{Kind: eye.There, Correct: right})).Card
		got = append(got, card.ScheduledDays)
		now = card.Due
	}
	if want := []uint64{0, 4, 17, 62, 198, 563, 0, 0, 9, 27, 74, 190, 457}; !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}

func TestWhatIsDueComesBack(t *testing.T) {
	now := time.Date(2026, 11, 29, 10, 0, 0, 0, time.UTC)
	answer := func(fault string, ago time.Duration, right bool) store.EyeAnswer {
		return store.EyeAnswer{Kind: eye.There, Event: "sprint-start", Fault: fault, Correct: right, At: now.Add(-ago)}
	}
	const day = 24 * time.Hour
	list := []store.EyeAnswer{answer("S1", 40*day, true), answer("S2", 20*day, false), answer("S1", 10*day, true), answer("S3", time.Minute/2, true), answer("S8", day/2, false)}
	var got []string
	for _, c := range due(list, now) {
		got = append(got, c.fault)
	}
	if !slices.Equal(got, []string{"S2", "S8"}) && !slices.Equal(got, []string{"S2", "S1", "S8"}) {
		t.Errorf("due: %v", got)
	}
	if slices.Contains(got, "S3") {
		t.Error("what was right half a minute ago is due")
	}
	if r := rating(store.EyeAnswer{Kind: eye.Angle, Correct: true, Off: -7}); r != fsrs.Hard {
		t.Errorf("7 degrees off: %v", r)
	}
}

func TestMeasured(t *testing.T) {
	now := time.Date(2026, 11, 29, 10, 0, 0, 0, time.UTC)
	var list []store.EyeAnswer
	for k := range 40 {
		there := k%2 == 0
		list = append(list, store.EyeAnswer{ID: uuid.New(), Kind: eye.There, Event: "sprint-start", Fault: "S2", View: "side", Size: map[bool]float64{true: 0.8, false: -0.5}[there], There: there, Yes: there || k%4 == 1, Correct: there || k%4 != 1, At: now.AddDate(0, 0, k/20-3)})
		list = append(list, store.EyeAnswer{ID: uuid.New(), Kind: eye.Angle, Event: "sprint-start", Fault: "knee", Off: 8 + float64(k%3), At: now.AddDate(0, 0, k/20-3)})
	}
	e, err := measure(list, now)
	if err != nil {
		t.Fatal(err)
	}
	if e.Answers != 80 || len(e.Faults) != 2 || e.Faults[1].Name != "Front knee too open in set" || e.Faults[1].View != "side" || e.Faults[1].Detection == nil || e.Faults[1].Curve == nil || len(e.Days) != 2 || e.Days[0].N != 40 {
		t.Errorf("%+v", e)
	}
	if !slices.Contains(e.Says, "You say “front knee too open in set” too often.") || !slices.ContainsFunc(e.Says, func(s string) bool { return strings.HasSuffix(s, "; you say 9 too many.") }) {
		t.Errorf("%q", e.Says)
	}
	// Every fault was seen, and half of those that were not there as well.
	if len(e.Trust) != 1 || e.Trust[0].Event != "sprint-start" || math.Abs(e.Trust[0].There-0.66) > 0.02 || e.Trust[0].Not < 0.9 {
		t.Errorf("%+v", e.Trust)
	}
	if e, err = measure(nil, now); err != nil || e.Correct != 0 || e.Says == nil || e.Faults == nil || math.IsNaN(e.Correct) {
		t.Errorf("%+v %v", e, err)
	}
}

// A bank that is drawn while something else is more important waits; stopped and opened again it goes on,
// and a scene that cannot be read is drawn anew.
func TestTheBankIsDrawnInPieces(t *testing.T) {
	dir := t.TempDir()
	log := slog.New(slog.DiscardHandler)
	busy := true
	asked := make(chan struct{}, 1)
	b, err := OpenBank(dir, func(context.Context) bool {
		select {
		case asked <- struct{}{}:
		default:
		}
		return busy
	}, log)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- b.Fill(ctx, 1) }()
	<-asked
	cancel()
	if err := <-done; !errors.Is(err, context.Canceled) || b.Size() != 0 {
		t.Fatalf("%v, %d clips", err, b.Size())
	}
	busy = false
	if err := b.Fill(t.Context(), 1); err != nil || b.Size() < 3 {
		t.Fatalf("%v, %d clips", err, b.Size())
	}
	for _, c := range b.Clips() {
		path, err := b.Sheet(c.ID)
		if err != nil {
			t.Error(err)
		} else if _, err := os.Stat(path); err != nil {
			t.Error(err)
		}
	}
	for _, bad := range []string{"../secret", "nobody", ""} {
		if _, err := b.Sheet(bad); err == nil {
			t.Errorf("%q has a sheet", bad)
		}
	}
	again, err := OpenBank(dir, nil, log)
	if err != nil || again.Size() != b.Size() || again.Scenes() != 1 {
		t.Fatalf("%v, %d clips", err, again.Size())
	}
	if err := os.WriteFile(again.scene(0), []byte("{"), 0o600); err != nil {
		t.Fatal(err)
	}
	if again, err = OpenBank(dir, nil, log); err != nil || again.Size() != 0 {
		t.Errorf("%v, %d clips of a spoilt scene", err, again.Size())
	}
	if parts, _ := filepath.Glob(filepath.Join(dir, edition, "*.part")); len(parts) > 0 {
		t.Errorf("left behind: %v", parts)
	}
	if _, err := os.Stat(again.scene(0)); !errors.Is(err, fs.ErrNotExist) {
		t.Error("a spoilt scene stays")
	}
}

// The cause stands first, second and third about equally often, each time at the same place.
func TestTheCauseStandsAnywhere(t *testing.T) {
	var list []lesson.Clip
	for k := range 300 {
		c := clipOf(fmt.Sprintf("two-%d-1", k), 1, fmt.Sprintf("two-%d-0", k))
		c.Sort, c.Fault, c.Second, c.Third = lesson.Two, "S1", "S5", "S8"
		list = append(list, c)
	}
	b := bankOf(list...)
	at := [3]int{}
	for _, c := range list {
		x, _, err := exercise("cause/"+c.ID, b.Clip)
		if err != nil {
			t.Fatal(err)
		}
		again, _, _ := exercise("cause/"+c.ID, b.Clip)
		if !slices.Equal(x.Choices, again.Choices) {
			t.Fatalf("%v, then %v", x.Choices, again.Choices)
		}
		at[slices.IndexFunc(x.Choices, func(k Choice) bool { return k.ID == "S1" })]++
	}
	for i, n := range at {
		if n < 75 || n > 125 { // 100 ± 3 standard deviations
			t.Errorf("%d of 300 at place %d", n, i+1)
		}
	}
}
