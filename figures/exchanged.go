package figures

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"time"

	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/kinematics"
	"neokinema/simcam/study"
)

// inC3D is by how much coordinates in a C3D file may differ, px: numbers of 32 bits there.
const inC3D = 1e-3

// exchangeDifferences writes the points of an attempt at every event as COCO keypoints and as
// C3D, with contacts and positions, reads them again and counts what differs.
func exchangeDifferences() (float64, error) {
	list, err := study.Draw(lot(), 1, 1)
	if err != nil {
		return 0, err
	}
	n := 0
	differ := func(format string, v ...any) {
		n++
		fmt.Fprintf(os.Stderr, "    "+format+"\n", v...)
	}
	same := func(what string, a, b kinematics.Points, ids []string, frames int) {
		for _, id := range ids {
			for f := range frames {
				p, okP := a.At(id, f)
				q, okQ := b.At(id, f)
				if okP != okQ || okP && math.Hypot(p.X-q.X, p.Y-q.Y) > inC3D {
					differ("%s: %s in frame %d: %v and %v", what, id, f, p, q)
				}
			}
		}
	}
	for _, a := range list {
		in := a.Input(study.Drafts, true)
		frames := len(in.Clip.Stamps)
		var body, all []string
		for id := range in.Points {
			all = append(all, id)
			if strings.HasPrefix(id, "left_") || strings.HasPrefix(id, "right_") {
				body = append(body, id)
			}
		}
		raw, err := exchange.WriteCOCO(in.Points, exchange.Picture{Width: in.Clip.Width, Height: in.Clip.Height, Frames: frames})
		if err != nil {
			return 0, err
		}
		back, of, err := exchange.ReadCOCO(raw)
		if err != nil {
			return 0, err
		}
		if of != (exchange.Picture{Width: in.Clip.Width, Height: in.Clip.Height, Frames: frames}) {
			differ("%s, COCO: the picture is %+v", a.Name, of)
		}
		same(a.Name+", COCO", in.Points, back, body, frames)
		r := evaluate.Attempt(a.Model, in)
		out := exchange.TakeOf(in.Points, frames, in.Clip.CaptureRate, r.Contacts, in.Flags)
		file, err := exchange.WriteC3D(out)
		if err != nil {
			return 0, err
		}
		take, err := exchange.ReadC3D(file)
		if err != nil {
			return 0, err
		}
		points, flags, err := take.Points()
		if err != nil {
			return 0, err
		}
		same(a.Name+", C3D", in.Points, points, all, frames)
		for id, f := range in.Flags {
			if got, ok := flags[id]; f >= 0 && (!ok || got != f) {
				differ("%s, C3D: %s at %d is at %d", a.Name, id, f, got)
			}
		}
		if take.Rate != in.Clip.CaptureRate || len(take.Events) != len(out.Events) {
			differ("%s, C3D: %g/s and %d events, of %g/s and %d", a.Name, take.Rate, len(take.Events), in.Clip.CaptureRate, len(out.Events))
			continue
		}
		for i, e := range out.Events {
			if got := take.Events[i]; got.Label != e.Label || got.Context != e.Context || math.Abs(got.Time-e.Time)*in.Clip.CaptureRate > 0.01 {
				differ("%s, C3D: %+v is %+v", a.Name, e, got)
			}
		}
	}
	return float64(n), nil
}

// fuzzTargets are the targets of the core that take what users give, package and name.
var fuzzTargets = [][2]string{
	{"core/evaluate", "FuzzAttempt"}, {"core/evaluate", "FuzzExtraCheckpoint"}, {"core/wasmapi", "FuzzDo"}, {"core/track", "FuzzUnmarshal"}, {"core/track", "FuzzTrack"},
	{"core/exchange", "FuzzReadC3D"}, {"core/exchange", "FuzzReadCOCO"}, {"core/flight", "FuzzFly"}, {"core/mark", "FuzzParse"}, {"models", "FuzzParse"},
}

// fuzzTime is how long each is tried: ten minutes in all.
const fuzzTime = 60 * time.Second

// fuzzBroke is what is written of an input that breaks; fuzzCut of a run whose time was up
// in the middle of an input, which breaks nothing.
var (
	fuzzBroke = regexp.MustCompile(`Failing input written to|panic:|hung or terminated`)
	fuzzCut   = []byte("context deadline exceeded")
)

// fuzzPanics tries inputs that nobody thought of on each of them, and counts those that break.
func fuzzPanics() (float64, error) {
	n := 0.0
	for _, x := range fuzzTargets {
		out, err := exec.Command("go", "test", "-run", "^$", "-fuzz", "^"+x[1]+"$", "-fuzztime", fuzzTime.String(), "-fuzzminimizetime", "5x", "./"+x[0]).CombinedOutput()
		last := bytes.TrimSpace(out)
		fmt.Fprintf(os.Stderr, "    %s %s: %s\n", x[0], x[1], last[max(0, len(last)-160):])
		switch {
		case err == nil:
		case fuzzBroke.Match(out):
			n++
		case bytes.Contains(out, fuzzCut):
		default:
			return n, fmt.Errorf("%s %s: %w", x[0], x[1], err)
		}
	}
	return n, nil
}

// withdrawn are the readings that the truth gives at least so often and that are never, or
// hardly ever, stated of a draft whose moments are known.
const (
	oftenTrue   = 8
	hardlyShare = 0.1
)

// withdrawn lists them: event and checkpoint.
func (n *numbers) withdrawn() (out []string) {
	for k, s := range n.stated {
		if s.all >= oftenTrue && s.percent() <= 100*hardlyShare {
			out = append(out, k)
		}
	}
	slices.Sort(out)
	return out
}
