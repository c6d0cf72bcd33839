package figures

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"sort"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/archive"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
)

// crowded is how a server with 10,000 clips of 200 athletes answers.
type crowded struct {
	list, open float64
	coach      *testenv.Client
}

// fill makes 200 athletes with 50 attempts and clips each, of one coach, by SQL; a
// fifth of the attempts has points, flags and a cue, copied from one that was drafted.
const fill = `
WITH people AS (
	INSERT INTO athletes (team_id, name, born, sex, height, mass, front_leg, throwing_hand, takeoff_leg)
	SELECT $1, 'Athlete ' || n, 1990 + n % 20, 'female', 1.7, 60, 'left', 'right', 'left' FROM generate_series(1, 200) n RETURNING id),
tries AS (
	INSERT INTO attempts (team_id, athlete_id, event, done_on, session, place, mark, implement, condition, setting, coach_focus, injury_note, revision, created_at)
	SELECT $1, p.id, 'sprint-start', current_date - n, 'Session', '', '10 m ' || to_char(2 + random() / 5, 'FM9.00') || ' s', '', 'fresh', 'practice', '', '', CASE WHEN n % 5 = 0 THEN 1 ELSE 0 END, now() - n * interval '1 day'
	FROM people p, generate_series(1, 50) n RETURNING id, revision),
films AS (
	INSERT INTO clips (id, team_id, attempt_id, name, bytes, state, width, height, codec, file_rate, capture_rate, rate_from, stamps, view, direction)
	SELECT gen_random_uuid(), $1, t.id, c.name, c.bytes, 'ready', c.width, c.height, c.codec, c.file_rate, c.capture_rate, 'coach', c.stamps, 'side', 1
	FROM tries t, clips c WHERE c.id = $2 RETURNING id, attempt_id),
points AS (
	INSERT INTO tracks (team_id, clip_id, landmark, points)
	SELECT $1, f.id, k.landmark, k.points FROM films f JOIN tries t ON t.id = f.attempt_id AND t.revision > 0, tracks k WHERE k.clip_id = $2 RETURNING 1)
INSERT INTO work_items (team_id, attempt_id, clip_id, kind, key, value)
SELECT $1, f.attempt_id, CASE WHEN w.clip_id IS NULL THEN NULL ELSE f.id END, w.kind, w.key, w.value
FROM films f JOIN tries t ON t.id = f.attempt_id AND t.revision > 0, work_items w WHERE w.attempt_id = $3`

// asked is how often each screen is asked for.
const asked = 40

func (l *Lab) crowd() (crowded, error) {
	if l.crowded != nil {
		return *l.crowded, nil
	}
	var out crowded
	h := l.House()
	err := bare{}.try(func() {
		c := h.Coach(bare{})
		told := store.Advice{Fault: "S2", Focus: "outward", Words: "Reset the front pedal", Target: "front_knee_set"}
		at, clip, _ := l.start(c, workspace.Edit{Kind: "advice", Key: "main", Value: workspace.Value(told)})
		if _, err := h.Store.DB.Exec(fill, c.User.TeamID, clip, at); err != nil {
			bare{}.Fatal(err)
		}
		if _, err := h.Store.DB.Exec("ANALYZE"); err != nil {
			bare{}.Fatal(err)
		}
		var people, tries []uuid.UUID
		if err := h.Store.DB.Select(&people, `SELECT id FROM athletes WHERE team_id = $1 ORDER BY random() LIMIT $2`, c.User.TeamID, asked); err != nil {
			bare{}.Fatal(err)
		}
		if err := h.Store.DB.Select(&tries, `SELECT id FROM attempts WHERE team_id = $1 AND revision > 0 ORDER BY random() LIMIT $2`, c.User.TeamID, asked); err != nil {
			bare{}.Fatal(err)
		}
		// A log that was never opened computes its attempts first; here it is opened again.
		for _, id := range people {
			c.Do("GET", "/api/athletes/"+id.String()+"/log", nil, http.StatusOK, nil)
		}
		var lists, opens []float64
		clock := func(into *[]float64, path string) {
			began := time.Now()
			c.Do("GET", path, nil, http.StatusOK, nil)
			*into = append(*into, float64(time.Since(began).Microseconds())/1000)
		}
		for i := range asked {
			clock(&lists, "/api/queue")
			clock(&lists, "/api/athletes")
			clock(&opens, "/api/athletes/"+people[i].String()+"/log")
			clock(&opens, "/api/attempts/"+tries[i].String()+"/workspace")
		}
		out.list, out.open, out.coach = p95(lists), p95(opens), c
	})
	if err != nil {
		return out, err
	}
	l.crowded = &out
	return out, nil
}

func p95(v []float64) float64 {
	sort.Float64s(v)
	return v[len(v)*95/100]
}

// start is an attempt at a start with its clip and the points of a careful coach.
func (l *Lab) start(c *testenv.Client, advice ...workspace.Edit) (attempt, clip uuid.UUID, truth simcam.Truth) {
	loader := &demo.Loader{Clips: testenv.Drawn(), Log: slog.New(slog.DiscardHandler)}
	scene, file, err := loader.Clip(context.Background(), simcam.Spec{Athlete: testenv.Athlete("x").Body(), Faults: map[string]float64{"front-knee": 118, "early-rise": 11}, Direction: 1, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720})
	if err != nil {
		bare{}.Fatal(err)
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		bare{}.Fatal(err)
	}
	at := c.Attempt()
	got := c.Imported(c.Upload(at.ID, "start.mp4", raw, len(raw)))
	c.Do("PUT", "/api/clips/"+got.ID.String(), intake.ClipAnswers{CaptureRate: 240, View: "side", Direction: 1}, http.StatusOK, nil)
	c.Drafted(at.ID, append(demo.ByHand(scene.Truth, got.ID, 0.5), advice...))
	return at.ID, got.ID, scene.Truth
}

// Breakdown counts key presses and clicks from the queue to the link that was sent.
func (l *Lab) Breakdown() (acts float64, err error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h := l.House()
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		at, _, _ := l.start(c)
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		n, _ := s.Breakdown(h, at, "S2")
		acts = float64(n)
	})
	return acts, err
}

// ArchiveDifferences takes the demo's club out and into an empty team, and out again.
func (l *Lab) ArchiveDifferences() (n float64, err error) {
	h, end := testenv.Open("")
	defer end()
	err = bare{}.try(func() {
		loader := &demo.Loader{Store: h.Store, Account: h.Account, Intake: h.Intake, Bench: h.Bench, Watch: h.Watch, Logbook: h.Logbook, Clips: filepath.Join(h.Dir, "drawn"), Log: slog.New(slog.DiscardHandler)}
		if err := loader.Load(context.Background()); err != nil {
			bare{}.Fatal(err)
		}
		u, err := h.Store.UserByEmail(context.Background(), demo.Email)
		if err != nil {
			bare{}.Fatal(err)
		}
		var out bytes.Buffer
		if err := h.Archive.Write(context.Background(), &out, u, time.Now()); err != nil {
			bare{}.Fatal(err)
		}
		empty := h.Coach(bare{})
		empty.Do("POST", "/api/team/import", out.Bytes(), http.StatusOK, nil)
		again := empty.Do("GET", "/api/team/export.zip", nil, http.StatusOK, nil)
		list, err := archive.Differences(bytes.NewReader(out.Bytes()), int64(out.Len()), bytes.NewReader(again), int64(len(again)))
		if err != nil {
			bare{}.Fatal(err)
		}
		for _, d := range list {
			fmt.Fprintln(os.Stderr, "  "+d)
		}
		fmt.Fprintf(os.Stderr, "  the archive of the demo has %.1f MB\n", float64(out.Len())/1e6)
		n = float64(len(list))
	})
	return n, err
}

type access struct{ checked, leaks int }

func (l *Lab) doors() (access, error) {
	if l.access != nil {
		return *l.access, nil
	}
	var out access
	err := bare{}.try(func() {
		n, leaks := l.House().Access(bare{})
		for _, q := range leaks {
			fmt.Fprintln(os.Stderr, "  answered: "+q)
		}
		out = access{n, len(leaks)}
	})
	if err != nil {
		return out, err
	}
	l.access = &out
	return out, nil
}
