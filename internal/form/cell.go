package form

import "strings"

// Cell is a text for a cell of a table that people open in a spreadsheet: one that such
// a program would take for a formula gets an apostrophe in front (OWASP, CSV injection,
// from memory). [Uncell] takes it away again.
func Cell(text string) string {
	if formula(text) {
		return "'" + text
	}
	return text
}

// Uncell is the text that [Cell] made a cell of.
func Uncell(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && formula(rest) {
		return rest
	}
	return cell
}

func formula(text string) bool {
	return text != "" && strings.ContainsRune("=+-@\t\r\n|'", rune(text[0]))
}
