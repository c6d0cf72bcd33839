// Package problem is the one shape of an error that a user may see: what kind it
// is, what happened and what to do about it. Use cases return it, the API turns
// it into a response, nothing else does.
package problem

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"syscall"
)

// Kind decides the HTTP status and lets the front end react.
type Kind string

// The kinds.
const (
	NotFound    Kind = "not_found"
	Invalid     Kind = "invalid"
	SignedOut   Kind = "signed_out"
	Refused     Kind = "refused"
	TooMany     Kind = "too_many"
	NewerWork   Kind = "newer_work"
	TooLarge    Kind = "too_large"
	NoRoom      Kind = "no_room"
	Unavailable Kind = "unavailable"
	Internal    Kind = "internal"
)

var status = map[Kind]int{
	NotFound: 404, Invalid: 422, SignedOut: 401, Refused: 403, TooMany: 429, NewerWork: 409,
	TooLarge: 413, NoRoom: 507, Unavailable: 503, Internal: 500,
}

// Problem is an error for a person, in the shape of RFC 9457: type, title, status and
// detail, and what this application adds.
type Problem struct {
	Type    string   `json:"type" doc:"about:blank: the kind says more"`
	Title   string   `json:"title" doc:"the HTTP status in words"`
	Status  int      `json:"status" doc:"the HTTP status"`
	Says    string   `json:"detail" doc:"what happened and what to do"`
	Kind    Kind     `json:"kind"`
	Fields  []string `json:"fields,omitempty" required:"false" doc:"what is wrong with single fields"`
	Request string   `json:"request,omitempty" required:"false" doc:"id to find this in the log"`
	cause   error
}

func (p *Problem) Error() string {
	if p.cause != nil {
		return fmt.Sprintf("%s: %s (%v)", p.Kind, p.Says, p.cause)
	}
	return fmt.Sprintf("%s: %s", p.Kind, p.Says)
}

// Unwrap gives the cause, for logs.
func (p *Problem) Unwrap() error { return p.cause }

// Told is a problem as it leaves the server, with all that a reader of such answers expects.
func (p Problem) Told(request string) *Problem {
	p.Type, p.Status, p.Request = "about:blank", p.GetStatus(), request
	p.Title = http.StatusText(p.Status)
	return &p
}

// GetStatus is the HTTP status of a kind.
func (p *Problem) GetStatus() int { return status[p.Kind] }

// New makes a problem.
func New(kind Kind, format string, args ...any) *Problem {
	return &Problem{Kind: kind, Says: fmt.Sprintf(format, args...)}
}

// Missing is what is said for things that are not there and for things of other
// teams alike, so that nothing can be guessed.
func Missing(what string) *Problem {
	return New(NotFound, "This %s is not there (any more). Go back to the queue.", what)
}

// Is tells whether an error is a problem of a kind.
func Is(err error, kind Kind) bool {
	var p *Problem
	return errors.As(err, &p) && p.Kind == kind
}

// From finds or makes the problem in an error. What is not known is internal:
// the cause goes to the log, not to the user.
func From(err error) *Problem {
	var p *Problem
	switch {
	case errors.As(err, &p):
		return p
	case errors.Is(err, syscall.ENOSPC):
		return &Problem{Kind: NoRoom, Says: "The disk of the server is full. Nothing was lost; free some space and try again.", cause: err}
	case errors.Is(err, syscall.EROFS), errors.Is(err, syscall.EACCES), errors.Is(err, syscall.EPERM), errors.Is(err, syscall.EIO), errors.Is(err, syscall.EMFILE):
		return &Problem{Kind: Unavailable, Says: "The server cannot read or write its files. Tell who runs it; what you entered in this page is kept.", cause: err}
	case errors.Is(err, context.DeadlineExceeded):
		return &Problem{Kind: Unavailable, Says: "This took too long and was given up. Try again in a minute.", cause: err}
	case errors.Is(err, context.Canceled):
		return &Problem{Kind: Unavailable, Says: "The request was given up before it was done.", cause: err}
	}
	return &Problem{Kind: Internal, Says: "Something went wrong on our side. Your last change may not be saved; try again.", cause: err}
}
