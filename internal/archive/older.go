package archive

import "encoding/json"

// Archives before version 3 have other names for the same things; migration 00009 brought
// them to the ones of today in the database.

// decisionKinds of before version 3.
var decisionKinds = map[string]string{"show": "annotation", "mark": "answer", "course": "followup", "eye": "outcome"}

// older brings a row of an older archive to today's names.
func older(version int, table string, row map[string]json.RawMessage) {
	if version >= 3 {
		return
	}
	switch table {
	case "clips":
		if v, ok := row["stands"]; ok {
			row["contacts"] = v
			delete(row, "stands")
		}
	case "decisions":
		if kind, ok := decisionKinds[text(row["kind"])]; ok {
			row["kind"] = quoted(kind)
		}
		if text(row["kind"]) == "outcome" && text(row["value"]) == "not taken" {
			row["value"] = quoted("not_taken")
		}
		if text(row["kind"]) == "ground" && text(row["key"]) == "marks" {
			row["key"] = quoted("points")
		}
	}
}

// text is a JSON string; empty for anything else.
func text(raw json.RawMessage) (s string) {
	if json.Unmarshal(raw, &s) != nil {
		return ""
	}
	return s
}

func quoted(s string) json.RawMessage { return json.RawMessage(`"` + s + `"`) }
