package api

import (
	"errors"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/validation"
)

// What is wrong in a form is told in words for who filled it in: the name of the field and what it
// takes, never what was typed.

func init() {
	validation.MsgUnexpectedProperty = "is not known here"
	validation.MsgExpectedRFC3339Date = "must be a day, such as 2026-03-21"
	validation.MsgExpectedRFC3339DateTime = "must be a time, such as 2026-03-21T14:05:00Z"
	validation.MsgExpectedRFC5322Email = "must be an e-mail address%.0v"
	validation.MsgExpectedRFC4122UUID = "is no id%.0v"
	validation.MsgExpectedBoolean = "must be yes or no"
	validation.MsgExpectedNumber = "must be a number"
	validation.MsgExpectedInteger = "must be a whole number"
	validation.MsgExpectedString = "must be text"
	validation.MsgExpectedArray = "must be a list"
	validation.MsgExpectedObject = "must have parts"
	validation.MsgExpectedOneOf = `must be one of "%s"`
	validation.MsgExpectedMinimumNumber = "must be at least %v"
	validation.MsgExpectedMaximumNumber = "must be at most %v"
	validation.MsgExpectedMinLength = "needs at least %d characters"
	validation.MsgExpectedMaxLength = "takes at most %d characters"
	validation.MsgExpectedMinItems = "needs at least %d lines"
	validation.MsgExpectedMaxItems = "takes at most %d lines"
	validation.MsgExpectedRequiredProperty = "%s is missing"
}

// wrong tells what is wrong with a field.
func wrong(err error) string {
	var d *huma.ErrorDetail
	if !errors.As(err, &d) {
		return err.Error()
	}
	place, _, _ := strings.Cut(d.Location, ".")
	if place == "path" {
		return "This address is not right: go back to the queue"
	}
	says := strings.ReplaceAll(d.Message, "_", " ")
	if strings.HasSuffix(says, "is missing") {
		return first(says)
	}
	field := d.Location[strings.LastIndex(d.Location, ".")+1:]
	return first(strings.ReplaceAll(field, "_", " ")) + " " + strings.TrimPrefix(says, "invalid value: ")
}

// first makes the first letter a capital.
func first(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if n == 0 {
		return s
	}
	return string(unicode.ToUpper(r)) + s[n:]
}
