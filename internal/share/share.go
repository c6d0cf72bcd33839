// Package share is about what athletes see: links that end, accounts of their own,
// consent for minors, and what they send back.
package share

import (
	"context"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/account"
	"neokinema/internal/feedback"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// Service shares feedback pages.
type Service struct {
	store   *store.Store
	bench   *workspace.Service
	account *account.Service
	now     func() time.Time
}

// New makes the service; now is the clock.
func New(s *store.Store, b *workspace.Service, a *account.Service, now func() time.Time) *Service {
	return &Service{store: s, bench: b, account: a, now: now}
}

// Limits of a link's life, days.
const (
	ShortestLink = 1
	LongestLink  = 90
)

// Link is a sending with its secret, which is shown once.
type Link struct {
	store.Share
	Secret string `json:"secret" doc:"the link is /s/ with this behind it"`
}

// accountKey is the secret under which the sending to an athlete's account is kept:
// nothing that anybody could send, since a link's secret has another form.
func accountKey(attempt uuid.UUID) string { return "account:" + attempt.String() }

// allowed refuses what may not be shown: clips of a minor without consent.
func (s *Service) allowed(a store.Athlete) error {
	if a.Minor(s.now().Year()) && (a.ConsentBy == "" || a.ConsentOn == nil) {
		return problem.New(problem.Refused, "%s may be under age, and no consent of a guardian is noted. Note who agreed and when on the athlete's page, then share.", a.Name)
	}
	return nil
}

// Send makes a link that ends after some days.
func (s *Service) Send(ctx context.Context, team, attempt uuid.UUID, days int) (Link, error) {
	if days < ShortestLink || days > LongestLink {
		return Link{}, problem.New(problem.Invalid, "A link lives %d to %d days.", ShortestLink, LongestLink)
	}
	sh, err := s.bench.Open(ctx, team, attempt)
	if err != nil {
		return Link{}, err
	}
	if err := s.allowed(sh.Athlete); err != nil {
		return Link{}, err
	}
	key := account.Secret()
	made, err := s.store.AddShare(ctx, team, attempt, account.HashOf(key), s.now().AddDate(0, 0, days))
	return Link{made, key}, err
}

// Invite makes an invitation by which an athlete can make an account of his own.
func (s *Service) Invite(ctx context.Context, team, athlete uuid.UUID) (string, error) {
	a, err := s.store.Athlete(ctx, team, athlete)
	if err != nil {
		return "", err
	}
	if err := s.allowed(a); err != nil {
		return "", err
	}
	return s.account.InviteAthlete(ctx, team, athlete)
}

// Viewer is somebody who may see one feedback page.
type Viewer struct {
	Share   store.Share
	Athlete store.Athlete
	Sheet   workspace.Workspace
}

var gone = problem.New(problem.NotFound, "This link has ended or was taken back. Ask your coach for a new one.")

// Look lets somebody in: by a link's secret, or by the id of an attempt that was sent
// to the athlete whose account this is. Consent is asked for at every look: it may
// have been taken back.
func (s *Service) Look(ctx context.Context, key string, me store.User) (Viewer, error) {
	var v Viewer
	var err error
	if id, parse := uuid.Parse(key); parse == nil {
		if me.AthleteID == nil {
			return v, gone
		}
		if v.Share, err = s.toAccount(ctx, me, id); err != nil {
			return v, err
		}
	} else {
		v.Share, err = s.store.ShareByHash(ctx, account.HashOf(key))
		if problem.Is(err, problem.NotFound) {
			return v, gone
		}
		if err != nil {
			return v, err
		}
	}
	if v.Share.WithdrawnAt != nil || !s.now().Before(v.Share.ExpiresAt) {
		return v, gone
	}
	if v.Sheet, err = s.bench.Open(ctx, v.Share.TeamID, v.Share.AttemptID); err != nil {
		return v, err
	}
	v.Athlete = v.Sheet.Athlete
	if s.allowed(v.Athlete) != nil {
		return v, gone
	}
	return v, nil
}

// toAccount is the sending of an attempt to its athlete's account.
func (s *Service) toAccount(ctx context.Context, me store.User, attempt uuid.UUID) (store.Share, error) {
	a, err := s.store.Attempt(ctx, me.TeamID, attempt)
	if err != nil || a.AthleteID != *me.AthleteID || a.State != "sent" {
		return store.Share{}, gone
	}
	return s.store.AddShare(ctx, me.TeamID, attempt, account.HashOf(accountKey(attempt)), s.now().AddDate(1, 0, 0))
}

// SharedPage is what the athlete sees.
type SharedPage struct {
	feedback.Page
	Ends   time.Time `json:"ends" doc:"when the link ends"`
	Answer string    `json:"answer" doc:"what the athlete wrote back before"`
	Loop   [2]int    `json:"loop" doc:"frames of the short loop of the moment, first and last; equal when there is none"`
	Frames int       `json:"frames" doc:"frames in the clip"`
}

// loopReach is how much is shown about the moment of the first cause, s.
const loopReach = 0.4

// Open gives the page and notes that it was seen, unless it is a coach of the team who
// looks. What is only the coach's business is left out.
func (s *Service) Open(ctx context.Context, v Viewer, coach bool) (SharedPage, error) {
	p := SharedPage{Page: feedback.Build(v.Sheet), Ends: v.Share.ExpiresAt, Answer: v.Share.Answer}
	p.Lacks = []string{}
	p.Attempt.InjuryNote, p.Attempt.CoachFocus, p.Attempt.Note = "", "", ""
	p.Athlete.ConsentBy, p.Athlete.ConsentOn = "", nil
	if clip, ok := v.Sheet.Main(); ok && len(p.Stills) > 0 {
		p.Frames = len(clip.Stamps)
		at, reach := p.Stills[0].Frame, int(loopReach*max(clip.CaptureRate, clip.FileRate))
		if f, ok := moment(v.Sheet); ok {
			at = f
		}
		p.Loop = [2]int{max(0, at-reach), min(len(clip.Stamps)-1, at+reach)}
	}
	if coach {
		return p, nil
	}
	return p, s.store.Seen(ctx, v.Share.ID)
}

// moment is the frame in which the measure of the main cue was taken.
func moment(sh workspace.Workspace) (int, bool) {
	a, ok := sh.Work.Advice["main"]
	if !ok {
		return 0, false
	}
	r, ok := sh.Report().Reading(a.Target)
	if !ok || r.Evidence == nil || r.Clip != "" {
		return 0, false // the loop is of the main clip
	}
	return r.Evidence.Frame, true
}

// Answer keeps what the athlete writes back.
func (s *Service) Answer(ctx context.Context, v Viewer, text string) error {
	return s.store.Answered(ctx, v.Share.ID, text)
}

// Next makes the attempt into which the athlete's next clip goes.
func (s *Service) Next(ctx context.Context, v Viewer) (store.Attempt, error) {
	now := s.now()
	last := v.Sheet.Attempt
	return s.store.NextOf(ctx, v.Share, store.NewAttempt{AthleteID: v.Athlete.ID, Event: last.Event, Variant: last.Variant, DoneOn: now.Format(time.DateOnly),
		Session: "sent by " + v.Athlete.Name, Implement: last.Implement, Condition: "fresh", Setting: "practice", TakenAt: &now})
}
