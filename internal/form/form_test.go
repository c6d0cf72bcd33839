package form

import "testing"

func TestCells(t *testing.T) {
	for in, want := range map[string]string{"": "", "12.34": "12.34", "=1+1": "'=1+1", "+4": "'+4", "-4.20": "'-4.20", "@x": "'@x", "\tx": "'\tx", "'quoted": "''quoted", "Ödön": "Ödön", "a=b": "a=b"} {
		got := Cell(in)
		if got != want || Uncell(got) != in {
			t.Errorf("%q became %q and %q", in, got, Uncell(got))
		}
	}
	if Uncell("'s Gravenhage") != "'s Gravenhage" {
		t.Error("an apostrophe that stands for itself is taken away")
	}
}

func TestCheckIsThatOfTheAPI(t *testing.T) {
	type entry struct {
		Name string `json:"name" minLength:"1" maxLength:"5"`
		Age  int    `json:"age" minimum:"1" maximum:"9"`
		Day  string `json:"day" format:"date"`
	}
	if err := Check(entry{"a", 3, "2026-01-02"}); err != nil {
		t.Error(err)
	}
	for _, bad := range []entry{{"", 3, "2026-01-02"}, {"longer", 3, "2026-01-02"}, {"a", 0, "2026-01-02"}, {"a", 3, "2 January"}} {
		if Check(bad) == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
}
