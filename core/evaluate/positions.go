package evaluate

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
)

// Flag is the frame of a key position: the coach's, or else what was found.
func (e *Evaluation) Flag(id string) (int, bool) {
	if base, ok := strings.CutSuffix(id, "*"); ok {
		// The last of a repeated group.
		for i := len(e.Model.Positions) - 1; i >= 0; i-- {
			if p := e.Model.Positions[i]; p.Group == base {
				if f, ok := e.Flag(p.ID); ok {
					return f, true
				}
			}
		}
		return 0, false
	}
	if f, ok := e.Input.Flags[id]; ok {
		return f, f >= 0 && f < e.Clock.Len()
	}
	f, ok := e.found[id]
	return f.frame, ok
}

// NotThere is the frame by which a coach says that a position is not in a clip.
const NotThere = -1

func (e *Evaluation) checkFlags() {
	last, lastName := -1, ""
	for _, p := range e.Model.Positions {
		f, ok := e.Input.Flags[p.ID]
		if !ok {
			continue
		}
		if f == NotThere {
			continue
		}
		if f < 0 || f >= e.Clock.Len() {
			e.report.Problems = append(e.report.Problems, fmt.Sprintf("%s is flagged at frame %d, outside the clip", p.Name, f))
			continue
		}
		// Optional moments overlap with their neighbours: a late arm may go
		// after the rear foot.
		if p.Optional {
			continue
		}
		if f < last {
			e.report.Problems = append(e.report.Problems, fmt.Sprintf("%s is flagged before %s; move one of the two flags", p.Name, lastName))
		}
		last, lastName = f, p.Name
	}
}

func (e *Evaluation) positions() {
	zero, hasZero := e.Flag("move")
	if !hasZero {
		zero, hasZero = e.Flag("set")
	}
	e.report.Next = e.Model.Next(func(id string) bool { _, ok := e.Flag(id); return ok })
	last := e.repeated()
	for _, p := range e.Model.Positions {
		if p.Nth > last+1 {
			continue // one more repetition than there is can be flagged next
		}
		r := report.Position{ID: p.ID, Needs: []report.Need{}}
		frame, ok := e.Flag(p.ID)
		if ok {
			r.Frame, r.Source = &frame, "coach"
			if _, mine := e.Input.Flags[p.ID]; !mine {
				r.Source, r.Confidence, r.SD = "tool", e.found[p.ID].sure, e.momentSD(p.ID)
				if _, other := e.fromOthers[p.ID]; other {
					r.Source = "clip"
				}
			}
			if hasZero && e.Clock.Known() {
				t := e.Clock.At(frame) - e.Clock.At(zero)
				r.Time = &t
			}
		}
		for _, cp := range e.Model.Checkpoints {
			if cp.Position != p.ID && cp.Position != p.Group || !slices.Contains(e.views(cp), e.Input.Clip.View) || !e.judges(cp) {
				continue
			}
			roles := e.rolesAt(p)
			for _, role := range cp.Measure.Points {
				if directed(cp.Measure) {
					break
				}
				for _, id := range roles.Resolve(role) {
					if !body.Known(id) {
						continue // the stance leg of a step whose foot is not known
					}
					at := slices.IndexFunc(r.Needs, func(n report.Need) bool { return n.Landmark == id })
					if at < 0 {
						_, placed := e.Input.Points.At(id, frame)
						r.Needs = append(r.Needs, report.Need{Landmark: id, Label: body.Label(id), Placed: ok && placed})
						at = len(r.Needs) - 1
					}
					if !slices.Contains(r.Needs[at].For, cp.ID) {
						r.Needs[at].For = append(r.Needs[at].For, cp.ID)
					}
				}
			}
		}
		e.report.Positions = append(e.report.Positions, r)
	}
}

// judges tells whether a checkpoint is judged, or one that hangs on its reading is: for what is
// information alone nobody is asked for points.
func (e *Evaluation) judges(cp model.Checkpoint) bool {
	return !cp.Info || slices.ContainsFunc(e.Model.Checkpoints, func(other model.Checkpoint) bool {
		return !other.Info && slices.Contains(other.Measure.Readings, cp.ID)
	})
}

func (e *Evaluation) spans() {
	for _, p := range e.Model.Phases {
		from, ok1 := e.Flag(p.From)
		to, ok2 := e.Flag(p.To)
		if !ok1 || !ok2 || to <= from {
			continue
		}
		s := report.Span{ID: p.ID, Name: p.Name, From: from, To: to}
		if v, err := e.Clock.Between(from, to); err == nil {
			s.Seconds = &v
		}
		e.report.Phases = append(e.report.Phases, s)
	}
	for _, c := range e.Model.Contacts {
		side, _, _ := strings.Cut(e.rolesAt(model.Position{Nth: c.Nth}).Resolve(c.Foot + "_toe")[0], "_")
		foot := body.Side(side)
		if foot == "" {
			continue
		}
		from, ok1 := e.Flag(c.From)
		to, ok2 := e.Flag(c.To)
		since := from
		if at, ok := e.Flag(c.Since); ok {
			since = at
		}
		if bar, ok := contact.Between(e.Clock, foot, c.Name, from, since, to); ok && ok1 && ok2 {
			sinceID := c.Since
			if sinceID == "" || since == from {
				sinceID = c.From
			}
			bar.FromSD, bar.ToSD = e.momentSD(sinceID), e.momentSD(c.To)
			e.bar(bar)
		}
	}
	// What the feet did beside that, where it is sure.
	least := e.least()
	for _, f := range e.contacts {
		known := false
		for _, b := range e.report.Contacts {
			known = known || b.Foot == f.Foot && b.From < f.To && f.From < b.To
		}
		if known {
			continue
		}
		cutFrom, cutTo := f.Before && f.From <= e.pictures(edge), f.After && f.To >= e.Clock.Len()-e.pictures(edge)
		begins, ends := e.moment(f.From, f.FromSD).sure, e.moment(f.To, f.ToSD).sure
		on := cutFrom || !f.Before && begins >= least
		off := cutTo || !f.After && ends >= least
		glimpse := contact.Glimpse{Foot: f.Foot, From: f.From, To: f.To}
		switch {
		case on && off:
			if bar, ok := contact.Between(e.Clock, f.Foot, "down", f.From, f.From, f.To); ok {
				bar.FromSD, bar.ToSD = f.FromSD/e.Rate, f.ToSD/e.Rate
				e.bar(bar)
			}
			continue
		case on && !cutFrom:
			glimpse.Open = "to"
		case off && !cutTo:
			glimpse.Open = "from"
		case (f.Confidence >= surelyDown || math.Max(begins, ends) >= leastInner) && e.seenWhole(f):
			glimpse.Open = "both"
		default:
			continue
		}
		e.report.Glimpses = append(e.report.Glimpses, glimpse)
	}
	for _, c := range e.pictured() {
		e.report.Glimpses = append(e.report.Glimpses, contact.Glimpse{Foot: c.Foot, From: c.From, To: c.To, Open: "both"})
	}
	sort.SliceStable(e.report.Contacts, func(i, j int) bool { return e.report.Contacts[i].From < e.report.Contacts[j].From })
}

// pictured are contacts that the picture shows and no look at the points does: of feet that run,
// where neither foot is known to stand.
func (e *Evaluation) pictured() (out []contact.Contact) {
	if !e.runs() {
		return nil
	}
	all := slices.Clone(e.contacts)
	for _, c := range e.Input.Contacts {
		c.Foot = e.whose(c)
		all = append(all, c)
	}
	for i, c := range all[len(e.contacts):] {
		taken := false
		for k, o := range all {
			both := float64(min(o.To, c.To)-max(o.From, c.From)) / e.Rate
			clearer := k < len(e.contacts) || o.Confidence >= c.Confidence // of what the picture shows the clearer one
			taken = taken || k != i+len(e.contacts) && clearer && (both > longestBoth || o.Foot == c.Foot && both > -restOf)
		}
		if !taken && c.Confidence >= leastPictured && c.From > e.pictures(edge) {
			out = append(out, c)
		}
	}
	return out
}

// A contact is there when it is so likely, or one of its ends is, though neither can be told; where
// the clip begins with it, the end that is in the clip must be told so surely. What the picture alone
// shows must be shown so clearly. Assumed; shaped on the half of the hard set that is there to build on.
const (
	surelyDown    = 0.9
	leastInner    = 0.6
	leastPictured = 0.5
)

// seenWhole tells whether a contact lies within the clip, or is known at the end that does.
func (e *Evaluation) seenWhole(c contact.Contact) bool {
	first := c.Before || c.From <= e.pictures(edge)
	last := c.After || c.To >= e.Clock.Len()-e.pictures(edge)
	switch {
	case first && last:
		return false
	case first:
		return e.moment(c.To, c.ToSD).sure >= leastInner
	case last:
		return e.moment(c.From, c.FromSD).sure >= leastInner || c.Confidence >= surelyDown && !e.reverses()
	}
	return true
}

// reverses tells whether the athlete may end on one foot while the other hangs low: after the
// throw out of a circle of what is not swung round.
func (e *Evaluation) reverses() bool { return sport.Of(e.Model.ID).Circle > 0 && !e.swings() }

// edge is how many pictures from the ends of a clip nothing can be told of what happens there.
const edge = 3

// bar adds a contact with the doubt of its ends.
func (e *Evaluation) bar(b contact.Interval) {
	if b.Seconds != nil {
		v := between(*b.Seconds, b.FromSD, b.ToSD)
		b.Seconds = &v
	}
	e.report.Contacts = append(e.report.Contacts, b)
}
