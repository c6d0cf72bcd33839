package planning

import (
	"context"
	"slices"
	"strconv"

	"github.com/google/uuid"

	"neokinema/core/followup"
	"neokinema/core/performance"
	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/core/trackside"
)

// Track is what a phone takes to the track: all that is needed there without a network.
type Track struct {
	Day    season.Day       `json:"day" format:"date"`
	People []TrackAthlete   `json:"people" doc:"those with a session today first, by name"`
	Notes  []trackside.Note `json:"notes" doc:"of the day, of all phones"`
	Joined trackside.Joined `json:"joined" doc:"what these notes tell"`
	Safety []string         `json:"safety" doc:"to be looked at before the first try"`
}

// TrackAthlete is somebody who may be there.
type TrackAthlete struct {
	ID       uuid.UUID        `json:"id"`
	Name     string           `json:"name"`
	Film     bool             `json:"film" doc:"may be filmed: grown up, or a guardian has agreed"`
	Events   []string         `json:"events" doc:"the one of today first"`
	Sessions []season.Session `json:"sessions" doc:"of today"`
	Cues     []TrackCue       `json:"cues" doc:"open ones, that of today first"`
	Pain     string           `json:"pain"`
	Records  []TrackRecord    `json:"records" doc:"of events whose competition is a series of attempts"`
	Ways     []string         `json:"foul_reasons" doc:"why attempts of this athlete did not count, the most frequent first"`
}

// TrackRecord is how attempts of the last year ended.
type TrackRecord struct {
	Event string `json:"event"`
	performance.Record
}

// TrackCue is a cue that is worked on, with the ways to say it.
type TrackCue struct {
	AttemptID uuid.UUID          `json:"attempt_id"`
	Event     string             `json:"event"`
	Drill     string             `json:"drill"`
	Dose      string             `json:"dose"`
	Rest      int                `json:"rest" doc:"s between tries; 0 when nobody has said"`
	Feel      string             `json:"feel"`
	Wordings  []followup.Wording `json:"wordings" doc:"the one to say first; the cue's own words are among them"`
	Done      int                `json:"done" doc:"repetitions so far"`
	Needs     int                `json:"needs"`
}

// Track reads what a phone takes to the track.
func (s *Service) Track(ctx context.Context, team uuid.UUID, l Look) (Track, error) {
	out := Track{Day: l.Today, People: []TrackAthlete{}, Safety: []string{}}
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return out, err
	}
	rules, _, err := s.Rules(ctx, team)
	if err != nil {
		return out, err
	}
	all, err := s.gather(ctx, team, uuid.Nil, l.Today)
	if err != nil {
		return out, err
	}
	spoken, err := s.store.WordsSaid(ctx, team)
	if err != nil {
		return out, err
	}
	fouls, err := s.store.FoulReasons(ctx, team)
	if err != nil {
		return out, err
	}
	records, err := s.store.Records(ctx, team, l.Today.String())
	if err != nil {
		return out, err
	}
	ways, err := s.log.Ways(ctx, team)
	if err != nil {
		return out, err
	}
	year, _ := strconv.Atoi(l.Today.String()[:4])
	places := map[sport.Place]bool{}
	for _, a := range people {
		one := all.of(a, l)
		p := TrackAthlete{ID: a.ID, Name: a.Name, Film: !a.Minor(year) || a.ConsentOn != nil, Events: []string{}, Sessions: []season.Session{}, Cues: []TrackCue{}, Pain: all.pains[a.ID], Records: []TrackRecord{}, Ways: fouls[a.ID]}
		for _, r := range records {
			if r.AthleteID == a.ID && sport.Of(r.Event).Series {
				p.Records = append(p.Records, TrackRecord{r.Event, performance.Record{Valid: r.Valid, Fouls: r.Fouls}})
			}
		}
		if p.Ways == nil {
			p.Ways = []string{}
		}
		if plan, err := season.Plan(one.outline, one.who, l.Today, rules); err == nil {
			if w, ok := plan.Week(l.Today); ok {
				for _, x := range w.Sessions {
					if x.Day == l.Today {
						p.Sessions = append(p.Sessions, x)
					}
				}
			}
		}
		add := func(e string) {
			if e != "" && !slices.Contains(p.Events, e) {
				p.Events = append(p.Events, e)
			}
		}
		for _, x := range p.Sessions {
			add(x.Event)
		}
		for _, e := range one.outline.Events {
			add(e)
		}
		add(all.events[a.ID])
		for _, e := range p.Events {
			places[sport.Of(e).Place] = true
		}
		today := func(c season.Change) int {
			if slices.ContainsFunc(p.Sessions, func(x season.Session) bool { return x.Change == c.ID }) {
				return 0
			}
			return 1
		}
		slices.SortStableFunc(one.who.Changes, func(x, y season.Change) int { return today(x) - today(y) })
		for _, c := range one.who.Changes {
			if c.Paused {
				continue
			}
			id, err := uuid.Parse(c.ID)
			if err != nil {
				return out, err
			}
			var said []followup.Said
			list := append([]string{c.Words}, ways[id]...)
			for _, w := range spoken {
				if w.Event != c.Event {
					continue
				}
				said = append(said, followup.Said{Athlete: w.AthleteID.String(), Words: w.Words, Kept: w.Kept})
				if w.AthleteID == a.ID && !slices.Contains(list, w.Words) {
					list = append(list, w.Words) // the coach's own, typed at the track
				}
			}
			for i := range list {
				list[i] = named(list[i], a, l)
			}
			cue := TrackCue{AttemptID: id, Event: c.Event, Drill: c.Drill.Name, Rest: c.Drill.Dose.Rest, Feel: c.Drill.Feel, Wordings: followup.Wordings(a.ID.String(), list, said), Done: c.Done, Needs: rules.Needs(c)}
			if c.Drill.Name != "" {
				cue.Dose = c.Drill.Dose.Session(1)
			}
			p.Cues = append(p.Cues, cue)
		}
		out.People = append(out.People, p)
	}
	slices.SortStableFunc(out.People, func(a, b TrackAthlete) int { return min(1, len(b.Sessions)) - min(1, len(a.Sessions)) })
	for _, p := range sport.Places {
		if places[p] && sport.Safety(p) != "" {
			out.Safety = append(out.Safety, sport.Safety(p))
		}
	}
	if out.Notes, err = s.store.TrackNotes(ctx, team, l.Today.String()); err != nil {
		return out, err
	}
	out.Joined = trackside.Join(out.Notes)
	return out, nil
}
