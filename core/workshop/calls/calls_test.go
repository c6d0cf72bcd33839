package calls

import (
	"encoding/json"
	"strings"
	"testing"
)

func do[T any](t *testing.T, name, request string) (out T) {
	t.Helper()
	raw, err := Do(name, []byte(request))
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		t.Fatalf("%v in %.200s", err, raw)
	}
	return out
}

// What crosses is JSON without null where a list is meant.
func TestCalls(t *testing.T) {
	list := do[QuestionsAnswer](t, "questions", `{"event":"javelin"}`)
	if len(list.Questions) < 4 || list.Questions[0].ID != "javelin-plan" {
		t.Errorf("%+v", list.Questions)
	}
	a := do[AskAnswer](t, "ask", `{"question":"high-plan","values":{"radius":{"value":9.5,"half":-1}}}`)
	if a.Answer == nil || a.Refused != "" || len(a.Answer.Places) != 11 {
		t.Errorf("%+v", a)
	}
	for _, q := range list.Questions {
		raw, err := Do("ask", []byte(`{"question":"`+q.ID+`","values":{"lengths":{"value":0,"half":0,"list":[1.8,1.6]},"masses":{"value":0,"half":0,"list":[1,2,3]},"marks":{"value":0,"half":0,"list":[30,20,10]}}}`))
		if err != nil || strings.Contains(string(raw), `"lines":null`) || strings.Contains(string(raw), `"says":null`) {
			t.Errorf("%s: %v %.120s", q.ID, err, raw)
		}
	}
	if no := do[AskAnswer](t, "ask", `{"question":"flight","values":{"speed":{"value":4000,"half":0}}}`); no.Answer != nil || !strings.Contains(no.Refused, "between 3 and 40 m/s") {
		t.Errorf("%+v", no)
	}
}

// What is no call, and what is no JSON, is an error and ends nothing.
func TestWhatIsNoCall(t *testing.T) {
	for _, c := range [][2]string{{"dance", "{}"}, {"ask", "{"}, {"questions", "[]"}, {"ask", `{"values":[]}`}} {
		if out, err := Do(c[0], []byte(c[1])); err == nil {
			t.Errorf("%v answers %.80s", c, out)
		}
	}
	if a := do[AskAnswer](t, "ask", `{}`); !strings.Contains(a.Refused, "no question") {
		t.Errorf("%+v", a)
	}
}

// Any request that is JSON is answered, refused or an error, without a panic.
func FuzzDo(f *testing.F) {
	f.Add("ask", []byte(`{"question":"start","values":{"plants":{"value":0,"half":0,"list":[1,2,3,4,5]}},"path":[{"x":1e300}]}`))
	f.Add("ask", []byte(`{"question":"blocks","values":{"front":{"value":180,"half":1e308}}}`))
	f.Add("questions", []byte(`{"event":"nothing"}`))
	f.Fuzz(func(t *testing.T, name string, request []byte) {
		if out, err := Do(name, request); err == nil && !json.Valid(out) {
			t.Errorf("no JSON: %.120s", out)
		}
	})
}

// Three taps tell an angle with the doubt of a finger; two on one place tell none.
func TestAngleOfThreeTaps(t *testing.T) {
	a := do[AngleAnswer](t, "angle", `{"points":[{"x":0,"y":0},{"x":0,"y":100},{"x":100,"y":100}],"sigma":4}`)
	if a.Angle == nil || a.Angle.Value < 89.999 || a.Angle.Value > 90.001 || a.Angle.Half95 < 5 || a.Angle.Half95 > 12 {
		t.Errorf("%+v", a.Angle)
	}
	if no := do[AngleAnswer](t, "angle", `{"points":[{"x":1,"y":1},{"x":1,"y":1},{"x":2,"y":2}],"sigma":4}`); no.Angle != nil {
		t.Errorf("%+v", no.Angle)
	}
}

func TestNotesTellStreaks(t *testing.T) {
	note := func(try, field, value string) string {
		return `{"id":"` + try + field + `","phone":"A","try":"` + try + `","athlete":"anna","event":"hammer","day":"2026-11-29","at":1790000000000,"field":"` + field + `","value":"` + value + `","before":""}`
	}
	var list []string
	for i, try := range []string{"1", "2", "3", "4", "5", "6"} {
		list = append(list, note(try, "made", ""), note(try, "words", "Sit"), note(try, "kept", map[bool]string{true: "kept", false: "lost"}[i == 0]))
	}
	j := do[JoinAnswer](t, "join", `{"notes":[`+strings.Join(list, ",")+`]}`)
	if len(j.Tries) != 6 || len(j.Streaks) != 1 || j.Streaks[0].Kept != 1 || j.Streaks[0].Of != 6 || j.Streaks[0].Verdict != "change" {
		t.Errorf("%+v", j.Streaks)
	}
	if j = do[JoinAnswer](t, "join", `{"notes":[]}`); j.Tries == nil || j.Streaks == nil || j.Conflicts == nil {
		t.Error("lists that are missing")
	}
}

func TestNotesTellHowACompetitionStands(t *testing.T) {
	note := func(try, field, value string) string {
		return `{"id":"` + try + field + `","phone":"A","try":"` + try + `","athlete":"anna","event":"hammer","day":"2026-11-29","at":179000000000` + try + `,"field":"` + field + `","value":"` + value + `","before":""}`
	}
	list := []string{note("1", "made", ""), note("1", "foul", "sector"), note("2", "made", ""), note("2", "foul", "sector")}
	ask := func(list []string) Series {
		return do[JoinAnswer](t, "join", `{"notes":[`+strings.Join(list, ",")+`],"series":[{"athlete":"anna","event":"hammer","before":{"valid":8,"fouls":4}}]}`).Series[0]
	}
	if s := ask(list); s.Next.Take != "safe" || s.Next.Attempt != 3 || s.Marks.Unit != "" || s.Marks.Reasons == nil {
		t.Errorf("%+v", s)
	}
	list = append(list, note("3", "made", ""), note("3", "mark", "48.20 m"))
	if s := ask(list); s.Next.Take != "all" || s.Next.Attempt != 4 || s.Marks.Best != 48.2 || s.Marks.Fouls != 2 {
		t.Errorf("%+v", s)
	}
	// A try that was taken out is none.
	if s := ask(append(list, note("4", "made", "gone"), note("4", "mark", "60 m"))); s.Next.Attempt != 4 {
		t.Errorf("%+v", s)
	}
}
