package archive

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"strings"
	"testing"

	"github.com/google/uuid"
)

func zipped(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range files {
		f, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.WriteString(f, text); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// Two archives of a team differ by what is in their files, not by when they were made or by the order of
// rows.
func TestWhatIsTheSame(t *testing.T) {
	a := map[string]string{"team.json": `{"exported":"then"}`, "notes.json": `[{"a":1},{"b":2}]`, "gone.json": "[]"}
	b := map[string]string{"team.json": `{"exported":"now"}`, "notes.json": `[{"a":1},{"b":3}]`, "new.json": "[]"}
	got, err := Same(zipped(t, a), zipped(t, b))
	if err != nil || strings.Join(got, "; ") != "gone.json is missing; new.json is new; notes.json differs" {
		t.Errorf("%q, %v", got, err)
	}
	if got, err := Same(zipped(t, a), zipped(t, a)); err != nil || len(got) != 0 {
		t.Errorf("%q, %v", got, err)
	}
	if _, err := Same([]byte("no zip"), zipped(t, a)); err == nil {
		t.Error("what is no archive is compared")
	}
}

// A team that took an archive in has the same under ids of its own, rows in any order.
func TestMovedArchivesAreTheSame(t *testing.T) {
	from, to, clip, athlete := uuid.New(), uuid.New(), uuid.NewString(), uuid.NewString()
	rows := func(ids ...string) string { return `[{"id":"` + ids[0] + `"},{"id":"` + ids[1] + `"}]` }
	a := map[string]string{"team.json": `{"team_id":"` + from.String() + `"}`, "athletes.json": rows(athlete, clip), "media/" + clip + "/proxy.mp4": "film"}
	b := map[string]string{"team.json": `{"team_id":"` + to.String() + `"}`, "athletes.json": rows(moved(to, clip), moved(to, athlete)), "media/" + moved(to, clip) + "/proxy.mp4": "film"}
	differences := func(a, b map[string]string) []string {
		t.Helper()
		x, y := zipped(t, a), zipped(t, b)
		got, err := Differences(bytes.NewReader(x), int64(len(x)), bytes.NewReader(y), int64(len(y)))
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	if got := differences(a, b); len(got) != 0 {
		t.Errorf("%q", got)
	}
	b["athletes.json"] = rows(moved(to, clip), uuid.NewString())
	delete(b, "media/"+moved(to, clip)+"/proxy.mp4")
	b["media/x/proxy.mp4"] = "film"
	if got := differences(a, b); len(got) != 3 {
		t.Errorf("%q", got)
	}
}

// Rows of before version 3 get the names of today; newer ones stay as they are.
func TestOlderRows(t *testing.T) {
	for _, c := range []struct {
		version         int
		table, row, now string
	}{
		{2, "clips", `{"id":"x","stands":[1]}`, `{"contacts":[1],"id":"x"}`},
		{3, "clips", `{"id":"x","stands":[1]}`, `{"id":"x","stands":[1]}`},
		{2, "decisions", `{"kind":"show","value":1}`, `{"kind":"annotation","value":1}`},
		{1, "decisions", `{"kind":"mark","value":"yes"}`, `{"kind":"answer","value":"yes"}`},
		{2, "decisions", `{"kind":"course"}`, `{"kind":"followup"}`},
		{2, "decisions", `{"kind":"eye","value":"not taken"}`, `{"kind":"outcome","value":"not_taken"}`},
		{2, "decisions", `{"kind":"eye","value":"taken"}`, `{"kind":"outcome","value":"taken"}`},
		{2, "decisions", `{"kind":"ground","key":"marks"}`, `{"key":"points","kind":"ground"}`},
		{2, "decisions", `{"kind":7}`, `{"kind":7}`},
		{2, "notes", `{"kind":"show"}`, `{"kind":"show"}`},
	} {
		row := map[string]json.RawMessage{}
		if err := json.Unmarshal([]byte(c.row), &row); err != nil {
			t.Fatal(err)
		}
		older(c.version, c.table, row)
		if got, _ := json.Marshal(row); string(got) != c.now {
			t.Errorf("version %d, %s: %s becomes %s", c.version, c.table, c.row, got)
		}
	}
}

// A file that unpacks to more than it may, or a row that does, ends.
func TestFilesAreBounded(t *testing.T) {
	read := func(b *bounded) error {
		_, err := io.ReadAll(b)
		return err
	}
	text := strings.Repeat("x", 1000)
	if err := read(&bounded{r: strings.NewReader(text), left: 1000}); err != nil {
		t.Error(err)
	}
	if err := read(&bounded{r: strings.NewReader(text), left: 999}); !errors.Is(err, errPacked) {
		t.Errorf("a file too long: %v", err)
	}
	if err := read(&bounded{r: strings.NewReader(text), left: 1000, row: 600}); !errors.Is(err, errPacked) {
		t.Errorf("a row too long: %v", err)
	}
}

// The size of an archive's list of files is read from its end, whatever stands behind it as a comment.
func TestTheListOfFilesIsMeasured(t *testing.T) {
	raw := zipped(t, map[string]string{"a.json": "[]", "b.json": "[]"})
	n, err := listed(bytes.NewReader(raw), int64(len(raw)))
	// 46 bytes a file (APPNOTE 4.3.12, from memory), its name, and what the library says of its flags.
	if err != nil || n < 2*(46+6) || n > int64(len(raw)) {
		t.Errorf("%d bytes of %d, %v", n, len(raw), err)
	}
	var commented bytes.Buffer
	z := zip.NewWriter(&commented)
	if err := z.SetComment(strings.Repeat("remark ", 100)); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"a.json", "b.json"} {
		f, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		_, _ = io.WriteString(f, "[]")
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if m, err := listed(bytes.NewReader(commented.Bytes()), int64(commented.Len())); err != nil || m != n {
		t.Errorf("%d bytes with a comment, %d without; %v", m, n, err)
	}
	for _, bad := range [][]byte{nil, []byte("short"), bytes.Repeat([]byte("no zip"), 100), []byte("PK\x05\x06")} {
		if _, err := listed(bytes.NewReader(bad), int64(len(bad))); err == nil {
			t.Errorf("%.20q is measured", bad)
		}
	}
}

func TestIdsMoveTheSameWayEachTime(t *testing.T) {
	team, other, id := uuid.New(), uuid.New(), uuid.NewString()
	here := moved(team, id)
	if again := moved(team, id); here != again || here == moved(other, id) || here == id {
		t.Error("an id does not move as it should")
	}
	a := &reading{head: head{TeamID: other}}
	a.user.TeamID = team
	got := string(a.here([]byte(`{"team":"` + other.String() + `","id":"` + id + `","says":"no id"}`)))
	if want := `{"team":"` + team.String() + `","id":"` + here + `","says":"no id"}`; got != want {
		t.Errorf("%s, want %s", got, want)
	}
}
