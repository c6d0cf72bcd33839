package planning

import (
	"context"
	"fmt"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/google/uuid"

	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/internal/account"
	"neokinema/internal/problem"
)

// Calendar writes an athlete's season as iCalendar, a whole day for each with a session. A day keeps
// its name from one file to the next and counts up with each change of the season (RFC 5545, 3.8.7.4),
// so that taking the file in again moves what has moved; days to come without a session are sent as
// cancelled, which takes away what was there before.
func (s *Service) Calendar(ctx context.Context, team, athlete uuid.UUID, l Look, now time.Time) (string, error) {
	v, err := s.Open(ctx, team, athlete, l)
	if err != nil {
		return "", err
	}
	if v.Revision == 0 {
		return "", problem.New(problem.Invalid, "No season was entered for %s yet. Enter one, then take its calendar.", v.Athlete.Name)
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Neokinema//Season//EN")
	cal.SetMethod(ics.MethodPublish)
	cal.SetXWRCalName(v.Athlete.Name)
	// How often a calendar that follows the address looks again (RFC 7986, 5.7).
	cal.SetRefreshInterval("PT6H")
	for _, w := range v.Plan.Weeks {
		for day := w.Monday; day < w.Monday+7; day++ {
			var titles, says []string
			for _, x := range w.Sessions {
				if x.Day == day {
					titles, says = append(titles, Title(x)), append(says, strings.Join(Lines(x, v.Changes), "\n"))
				}
			}
			if len(titles) == 0 && day < l.Today {
				continue
			}
			e := cal.AddEvent(fmt.Sprintf("%s-%s@neokinema", athlete, day))
			e.SetDtStampTime(now.UTC())
			e.SetSequence(int(v.Revision))
			at := time.Unix(int64(day)*24*60*60, 0).UTC()
			e.SetAllDayStartAt(at)
			e.SetAllDayEndAt(at.AddDate(0, 0, 1))
			if len(titles) == 0 {
				e.SetStatus(ics.ObjectStatusCancelled)
				e.SetSummary(v.Athlete.Name + ": free")
				continue
			}
			e.SetStatus(ics.ObjectStatusConfirmed)
			e.SetSummary(v.Athlete.Name + ": " + strings.Join(titles, "; "))
			e.SetDescription(strings.Join(says, "\n\n"))
		}
	}
	return cal.Serialize(ics.WithNewLineWindows), nil
}

// Subscribe gives a season an address from which calendars keep themselves up to date, and returns its
// secret, which is shown once. An address that was given before is out of use.
func (s *Service) Subscribe(ctx context.Context, team, athlete uuid.UUID) (string, error) {
	secret := account.Secret()
	return secret, s.store.SetCalendar(ctx, team, athlete, account.HashOf(secret))
}

// Fetch writes the season behind a secret.
func (s *Service) Fetch(ctx context.Context, secret string, today season.Day, now time.Time) (string, error) {
	c, err := s.store.FetchCalendar(ctx, account.HashOf(secret))
	if problem.Is(err, problem.NotFound) {
		return "", problem.New(problem.NotFound, "This calendar was taken back. Ask your coach for its new address.")
	}
	if err != nil {
		return "", err
	}
	return s.Calendar(ctx, c.TeamID, c.AthleteID, Look{Today: today}, now)
}

// Title names a session in a few words.
func Title(x season.Session) string {
	event := sport.Of(x.Event).Name
	switch x.Kind {
	case season.Lift:
		return "Lifting"
	case season.Meet:
		if x.Event == "" {
			return x.Name
		}
		return x.Name + ", " + event
	case season.Test:
		return event + ", test"
	case season.Full:
		return event + ", full"
	}
	return event
}

// Lines say what is done in a session, one after the other.
func Lines(x season.Session, changes []season.Change) (out []string) {
	if x.Kind == season.Meet {
		return []string{"Think of what you can do. Nothing new today."}
	}
	for _, p := range x.Parts {
		if p.Tries > 0 {
			out = append(out, fmt.Sprintf("%s: %d", p.Name, p.Tries))
		} else {
			out = append(out, p.Name)
		}
	}
	switch {
	case x.Heavy > 0 && x.Easy > 0:
		out = append(out, fmt.Sprintf("Of these %d with a heavier implement and %d with a lighter one", x.Heavy, x.Easy))
	case x.Heavy > 0:
		out = append(out, fmt.Sprintf("Of these %d with a heavier implement", x.Heavy))
	case x.Easy > 0:
		out = append(out, fmt.Sprintf("Of these %d with a lighter implement", x.Easy))
	}
	for _, c := range changes {
		if c.ID == x.Change {
			out = append(out, "Think of: "+c.Words)
		}
	}
	if x.Drill != "" {
		out = append(out, fmt.Sprintf("Drill: %s, %s", x.Drill, x.Dose))
	}
	if x.Rung != "" {
		out = append(out, "Rung: "+x.Rung)
	}
	return append(out, fmt.Sprintf("%d min, effort %.0f of 10", x.Minutes, x.Effort))
}
