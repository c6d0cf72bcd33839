package figures

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"time"

	"github.com/go-rod/rod"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/signal"
	"neokinema/core/track"
	"neokinema/core/vision"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// digitised is what the whole way from a clip to its contacts and angles gives:
// drafted in the browser, made better by the picture, corrected as in two minutes.
type digitised struct {
	contacts, start, running, poor points.Score
	draft, corrected               []float64            // degrees at key positions
	joints                         map[string][]float64 // the same by joint
}

// corrections is how many joints a coach places in two minutes, one in 2.5 s.
const corrections = 48

func (l *Lab) digitise() (digitised, error) {
	if l.digital != nil {
		return *l.digital, nil
	}
	out := digitised{joints: map[string][]float64{}}
	b, err := l.Browser()
	if err != nil {
		return out, err
	}
	h := l.House()
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		for _, q := range []struct {
			name string
			poor bool
		}{{"renholm start 3.mp4", false}, {"yusra easy.mp4", false}, {"tavi flying 30.mp4", false}, {"wren jump.mp4", true}} {
			sh, truth := drafted(h, c, b, q.name)
			report := sh.Report()
			clip, _ := sh.Main()
			con := points.Contacts(truth, report)
			if q.poor {
				con = points.Stands(truth, clip.Contacts)
			}
			pos, off := points.Positions(sh.Model, truth, report)
			fmt.Fprintf(os.Stderr, "  %s: contacts %d of %d, positions %d of %d %v\n", q.name, con.Within, con.All, pos.Within, pos.All, off)
			add := func(to *points.Score, s points.Score) { to.Within, to.All = to.Within+s.Within, to.All+s.All }
			if q.poor {
				add(&out.poor, con)
				continue
			}
			add(&out.contacts, con)
			if truth.Event == "running" {
				add(&out.running, pos)
			} else {
				add(&out.start, pos)
			}
			before := angleError(sh, truth)
			for id, list := range before {
				out.draft = append(out.draft, list...)
				out.joints[id] = append(out.joints[id], list...)
			}
			correct(&sh, truth)
			for _, list := range angleError(sh, truth) {
				out.corrected = append(out.corrected, list...)
			}
		}
	})
	if err != nil {
		return out, err
	}
	ids := make([]string, 0, len(out.joints))
	for id := range out.joints {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		fmt.Fprintf(os.Stderr, "  draft alone, %-15s %5.1f deg\n", id, middle(out.joints[id]))
	}
	l.digital = &out
	return out, nil
}

func middle(v []float64) float64 {
	if len(v) == 0 {
		return math.NaN()
	}
	s := append([]float64(nil), v...)
	sort.Float64s(s)
	return s[len(s)/2]
}

// drafted uploads a clip of the demo, drafts it on the Bench as a coach does, and
// gives the sheet.
func drafted(h *testenv.House, c *testenv.Client, b *rod.Browser, name string) (workspace.Workspace, simcam.Truth) {
	raw, truth, err := demo.Shipped(name)
	if err != nil {
		bare{}.Fatal(err)
	}
	at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	view := truth.Spec.View()
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: view, Direction: truth.Spec.Direction}, http.StatusOK, nil)
	s := h.Screen(bare{}, b, c)
	defer s.Close()
	s.Bench(h, at.ID)
	if err := s.DraftAll(15 * time.Minute); err != nil {
		bare{}.Fatal(err)
	}
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, http.StatusOK, &sh)
	return sh, truth
}

// looked are the joints whose angle is compared: part, and the parts beside it.
var looked = [][3]string{{"hip", "knee", "ankle"}, {"shoulder", "hip", "knee"}, {"shoulder", "elbow", "wrist"}}

// keyFrames are the frames of the true key positions inside the clip.
func keyFrames(m model.Model, truth simcam.Truth) (out []int) {
	for _, p := range m.Positions {
		if f, ok := truth.Positions[p.ID]; ok && p.Find != nil {
			out = append(out, f)
		}
	}
	return out
}

// angleError is how far joint angles of the tracks are from the true ones at key
// positions, near side, as seen in the picture: degrees by joint.
func angleError(sh workspace.Workspace, truth simcam.Truth) map[string][]float64 {
	out := map[string][]float64{}
	clip, _ := sh.Main()
	in := sh.Input(clip)
	m := kinematics.New(in.Points, kinematics.Film{Rate: clip.CaptureRate, View: angles.View{Direction: clip.Direction}, Camera: in.Camera}, nil)
	side := string(body.NearSide(clip.Direction))
	for _, f := range keyFrames(sh.Model, truth) {
		for _, j := range looked {
			var got, want [3]r2.Vec
			ok := true
			for i, part := range j {
				id := side + "_" + part
				q, there := m.Where(id, f)
				if p, placed := in.Points.At(id, f); placed && p.Source == track.Hand.String() {
					q = m.ToReference(f, r2.Vec{X: p.X, Y: p.Y})
				}
				ok = ok && there
				w := truth.Frames[f].Landmarks[id].Image
				got[i], want[i] = q, m.ToReference(f, r2.Vec{X: w[0], Y: w[1]})
			}
			if ok {
				id := j[1]
				out[id] = append(out[id], math.Abs(angles.Included(got[0], got[1], got[2])-angles.Included(want[0], want[1], want[2])))
			}
		}
	}
	return out
}

// correct places joints by hand at key positions, the worst first, as many as two
// minutes allow, each with the scatter of a hand; neighbours come along.
func correct(sh *workspace.Workspace, truth simcam.Truth) {
	clip, _ := sh.Main()
	tracks := sh.Work.Clips[clip.ID].Points
	r := rand.New(rand.NewPCG(1, 8470))
	side := string(body.NearSide(clip.Direction))
	type miss struct {
		id    string
		frame int
		off   float64
	}
	var list []miss
	for _, f := range keyFrames(sh.Model, truth) {
		for _, part := range []string{"shoulder", "elbow", "wrist", "hip", "knee", "ankle"} {
			id := side + "_" + part
			if p, ok := tracks.At(id, f); ok {
				w := truth.Frames[f].Landmarks[id].Image
				list = append(list, miss{id, f, math.Hypot(p.X-w[0], p.Y-w[1])})
			}
		}
	}
	sort.Slice(list, func(i, j int) bool { return list[i].off > list[j].off })
	for _, q := range list[:min(corrections, len(list))] {
		w := truth.Frames[q.frame].Landmarks[q.id].Image
		change, err := tracks[q.id].Bend(q.frame, track.Point{X: w[0] + evaluate.HandSigma*r.NormFloat64()/math.Sqrt2, Y: w[1] + evaluate.HandSigma*r.NormFloat64()/math.Sqrt2, Source: "hand", Confidence: 1}, 6)
		if err == nil {
			tracks[q.id].Apply(change, false)
		}
	}
}

// FootDrift is how far a foot that stands seems to move in the common frame of a
// panning clip, per cent of standing height: the worst over the contacts of clear
// panning clips, found from the pictures as the application does.
func FootDrift() (float64, error) {
	worst := 0.0
	for _, name := range []string{"yusra easy.mp4", "nadja javelin side.mp4"} {
		raw, truth, err := demo.Shipped(name)
		if err != nil {
			return 0, err
		}
		dir, err := os.MkdirTemp("", "neokinema-pan-")
		if err != nil {
			return 0, err
		}
		defer os.RemoveAll(dir)
		path := filepath.Join(dir, "clip.mp4")
		if err := os.WriteFile(path, raw, 0o644); err != nil {
			return 0, err
		}
		stamps, err := media.Stamps(context.Background(), path)
		if err != nil {
			return 0, err
		}
		e := vision.NewEstimator(0.5)
		err = media.Grays(context.Background(), path, stamps, 0, len(stamps)-1, truth.Spec.Width/2, truth.Spec.Height/2, media.Shrink, func(p media.Picture) error {
			x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
			for _, m := range truth.Frames[p.Frame].Landmarks {
				x0, y0, x1, y1 = math.Min(x0, m.Image[0]/2), math.Min(y0, m.Image[1]/2), math.Max(x1, m.Image[0]/2), math.Max(y1, m.Image[1]/2)
			}
			e.Add(vision.FromBytes(p.Width, p.Height, p.Pix), func(x, y float64) bool { return x > x0-15 && x < x1+15 && y > y0-15 && y < y1+15 })
			return nil
		})
		if err != nil {
			return 0, err
		}
		cam := e.Camera()
		if cam.Problem != "" {
			return 0, errors.New(name + ": " + cam.Problem)
		}
		in := points.Input(truth, points.All(truth, 0, 1))
		m := kinematics.New(in.Points, kinematics.Film{Rate: truth.Spec.CaptureRate, View: angles.View{Direction: 1}, Camera: cam}, nil)
		tall := (m.Length("left_hip", "left_knee") + m.Length("left_knee", "left_ankle")) / (body.Length(truth.Spec.Athlete, "thigh") + body.Length(truth.Spec.Athlete, "shank")) * truth.Spec.Athlete.Height
		for _, side := range []body.Side{body.Left, body.Right} {
			var first r2.Vec
			standing := false
			for f, fr := range truth.Frames {
				heel := false
				for _, s := range fr.OnHeel {
					heel = heel || s == string(side)
				}
				if !points.Down(truth, side, f) || heel {
					standing = false
					continue
				}
				p := fr.Landmarks[string(side)+"_toe"].Image
				q := cam.ToReference(f, r2.Vec{X: p[0], Y: p[1]})
				if !standing {
					first, standing = q, true
				}
				worst = math.Max(worst, 100*r2.Norm(r2.Sub(q, first))/tall)
			}
		}
	}
	return worst, nil
}

// textured is a film of a smooth random texture whose every point moves as told.
func textured(w, h, n int, shift func(i int) r2.Vec) [][]byte {
	r := rand.New(rand.NewPCG(5, 8470))
	type wave struct{ x, y, phase, high float64 }
	var waves []wave
	for range 24 {
		f, a := 0.05+0.45*r.Float64(), 2*math.Pi*r.Float64()
		waves = append(waves, wave{f * math.Cos(a), f * math.Sin(a), 2 * math.Pi * r.Float64(), 6 + 8*r.Float64()})
	}
	var out [][]byte
	for i := range n {
		d := shift(i)
		pic := make([]byte, w*h)
		for y := range h {
			for x := range w {
				v := 128.0
				for _, q := range waves {
					v += q.high * math.Sin(q.x*(float64(x)-d.X)+q.y*(float64(y)-d.Y)+q.phase)
				}
				pic[y*w+x] = byte(math.Max(0, math.Min(255, math.Round(v))))
			}
		}
		out = append(out, pic)
	}
	return out
}

type followed struct{ px, errors, time float64 }

// follow measures the point tracker on synthetic motion, and against OpenCV's on
// the same frames with the same window.
func (l *Lab) follow() (followed, error) {
	if l.followed != nil {
		return *l.followed, nil
	}
	const w, h, n = 640, 360, 60
	shift := func(i int) r2.Vec {
		s := float64(i) / 12
		return r2.Vec{X: 40 * math.Sin(s), Y: 26 * math.Sin(1.6*s+1)}
	}
	film := textured(w, h, n, shift)
	var starts []r2.Vec
	for y := 100; y <= 260; y += 40 {
		for x := 120; x <= 520; x += 50 {
			starts = append(starts, r2.Vec{X: float64(x) + 0.3, Y: float64(y) + 0.6})
		}
	}
	off := func(i int, p, start r2.Vec) float64 {
		return r2.Norm(r2.Sub(p, r2.Add(start, r2.Sub(shift(i), shift(0)))))
	}
	var out followed
	// Plain following from picture to picture, as OpenCV does it.
	var mine float64
	at := append([]r2.Vec(nil), starts...)
	began := time.Now()
	prev := vision.NewPyramid(vision.FromBytes(w, h, film[0]), 3)
	for i := 1; i < n; i++ {
		now := vision.NewPyramid(vision.FromBytes(w, h, film[i]), 3)
		for k := range at {
			if q, _, ok := vision.Follow(prev, now, at[k], at[k]); ok {
				at[k] = q
			}
		}
		prev = now
	}
	took := time.Since(began).Seconds()
	for k := range at {
		mine += off(n-1, at[k], starts[k]) / float64(len(at))
	}
	// The tracker with its drift control.
	var sum float64
	var count int
	for _, s := range starts[:9] {
		t, err := vision.NewTracker(vision.FromBytes(w, h, film[0]), s, vision.Options{})
		if err != nil {
			return out, err
		}
		for i := 1; i < n; i++ {
			step := t.Next(vision.FromBytes(w, h, film[i]))
			if step.Lost != "" {
				return out, errors.New("the tracker lost a clear point: " + step.Lost)
			}
			sum, count = sum+off(i, step.At, s), count+1
		}
	}
	out.px = sum / float64(count)
	dir, err := os.MkdirTemp("", "neokinema-follow-")
	if err != nil {
		return out, err
	}
	defer os.RemoveAll(dir)
	var pts [][2]float64
	for _, s := range starts {
		pts = append(pts, [2]float64{s.X, s.Y})
	}
	ask, err := json.Marshal(map[string]any{"width": w, "height": h, "frames": n, "points": pts})
	if err != nil {
		return out, err
	}
	if err := errors.Join(os.WriteFile(filepath.Join(dir, "frames.raw"), bytes.Join(film, nil), 0o644), os.WriteFile(filepath.Join(dir, "ask.json"), ask, 0o644)); err != nil {
		return out, err
	}
	raw, err := reference("opencv_follow.py", nil, dir)
	if err != nil {
		return out, err
	}
	var theirs struct {
		Paths   [][][2]float64
		Seconds float64
	}
	if err := json.Unmarshal(raw, &theirs); err != nil {
		return out, err
	}
	var them float64
	for k, p := range theirs.Paths[n-1] {
		them += off(n-1, r2.Vec{X: p[0], Y: p[1]}, starts[k]) / float64(len(starts))
	}
	fmt.Fprintf(os.Stderr, "  after %d frames: ours %.4f px, OpenCV %.4f px; %.0f ms and %.0f ms for %d points\n", n, mine, them, 1000*took, 1000*theirs.Seconds, len(starts))
	out.errors, out.time = mine/them, took/theirs.Seconds
	l.followed = &out
	return out, nil
}

// reference runs a script beside the reference libraries of Debian's Python.
func reference(script string, input []byte, args ...string) ([]byte, error) {
	cmd := exec.Command("/usr/bin/python3", append([]string{filepath.Join(Root(), "figures", "reference", script)}, args...)...)
	cmd.Stdin = bytes.NewReader(input)
	var said strings.Builder
	cmd.Stderr = &said
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %s", script, err, said.String())
	}
	return out, nil
}

// SmoothDiff is the largest difference to SciPy's filter over random series.
func SmoothDiff() (float64, error) {
	type one struct {
		Rate   float64   `json:"rate"`
		Cutoff float64   `json:"cutoff"`
		X      []float64 `json:"x"`
	}
	r := rand.New(rand.NewPCG(11, 8470))
	var cases []one
	for _, c := range [][3]float64{{240, 6, 400}, {240, 18, 100}, {120, 9, 250}, {60, 7, 80}, {30, 5, 30}} {
		x := make([]float64, int(c[2]))
		for i := 1; i < len(x); i++ {
			x[i] = x[i-1] + 4*r.NormFloat64()
		}
		cases = append(cases, one{c[0], c[1], x})
	}
	raw, err := json.Marshal(cases)
	if err != nil {
		return 0, err
	}
	if raw, err = reference("scipy_smooth.py", raw); err != nil {
		return 0, err
	}
	var want [][]float64
	if err := json.Unmarshal(raw, &want); err != nil {
		return 0, err
	}
	worst := 0.0
	for i, c := range cases {
		got, _, err := signal.LowPass(c.X, c.X, c.Rate, c.Cutoff)
		if err != nil {
			return 0, err
		}
		for k, v := range got {
			worst = math.Max(worst, math.Abs(v-want[i][k]))
		}
	}
	return worst, nil
}

// HomographyDiff is the largest distance between where our homography and
// OpenCV's put the marks, px, over templates seen with scatter.
func HomographyDiff() (float64, error) {
	type one struct {
		From [][2]float64 `json:"from"`
		To   [][2]float64 `json:"to"`
	}
	truth := [9]float64{62, -14, 500, 3, 21, 420, 0.004, -0.03, 1}
	r := rand.New(rand.NewPCG(12, 8470))
	var cases []one
	for _, t := range ground.Templates() {
		var c one
		for _, p := range t.Places {
			if p.Line || p.Bar {
				continue // its place is not known, or not on the ground
			}
			w := truth[6]*p.Along + truth[7]*p.Right + truth[8]
			c.From = append(c.From, [2]float64{p.Along, p.Right})
			c.To = append(c.To, [2]float64{(truth[0]*p.Along+truth[1]*p.Right+truth[2])/w + r.NormFloat64(), (truth[3]*p.Along+truth[4]*p.Right+truth[5])/w + r.NormFloat64()})
		}
		if len(c.From) >= 4 {
			cases = append(cases, c)
		}
	}
	raw, err := json.Marshal(cases)
	if err != nil {
		return 0, err
	}
	if raw, err = reference("opencv_homography.py", raw); err != nil {
		return 0, err
	}
	var want [][9]float64
	if err := json.Unmarshal(raw, &want); err != nil {
		return 0, err
	}
	worst := 0.0
	for i, c := range cases {
		vec := func(list [][2]float64) (out []r2.Vec) {
			for _, p := range list {
				out = append(out, r2.Vec{X: p[0], Y: p[1]})
			}
			return out
		}
		h, err := ground.Homography(vec(c.From), vec(c.To))
		if err != nil {
			return 0, err
		}
		a, b := ground.Plane{ToPicture: h}, ground.Plane{ToPicture: want[i]}
		for _, p := range vec(c.From) {
			worst = math.Max(worst, r2.Norm(r2.Sub(a.Picture(p), b.Picture(p))))
		}
	}
	return worst, nil
}

// Long is an attempt of 1,000 frames and 33 tracks, as the core gets it: a run
// filmed fast, and copies of tracks where the body has fewer landmarks.
func Long() (model.Model, evaluate.Input, error) {
	s := simcam.Spec{Event: "running", Speed: 4, CaptureRate: 480, FileRate: 30, Width: 1280, Height: 720, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 75}}
	sc, err := simcam.New(s)
	if err != nil {
		return model.Model{}, evaluate.Input{}, err
	}
	t := sc.Truth
	for len(t.Frames) < 1000 {
		t.Frames = append(t.Frames, t.Frames[len(t.Frames)-1-len(t.Frames)%500])
	}
	t.Frames = t.Frames[:1000]
	in := points.Input(t, points.All(t, 1, 4))
	for i := 0; len(in.Points) < 33; i++ {
		in.Points[fmt.Sprintf("extra_%d", i)] = in.Points["left_knee"].Clone()
	}
	m, err := models.Load("running")
	return m, in, err
}

// Recompute is the time of a full recomputation of an attempt with two views, ms.
func Recompute() (float64, error) {
	m, in, err := Long()
	if err != nil {
		return 0, err
	}
	var took []float64
	for range 9 {
		began := time.Now()
		evaluate.Attempt(m, in)
		evaluate.Attempt(m, in)
		took = append(took, 1000*time.Since(began).Seconds())
	}
	return middle(took), nil
}

type kept struct{ save, size, fps float64 }

// keep measures the saving of a whole draft (20 landmarks, 500 frames) through
// the API, its size in the database, and the score's pictures a second while it
// zooms over a long clip.
func (l *Lab) keep() (kept, error) {
	if l.kept != nil {
		return *l.kept, nil
	}
	b, err := l.Browser()
	if err != nil {
		return kept{}, err
	}
	h := l.House()
	var out kept
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		spec := simcam.Spec{Event: "running", Speed: 4, CaptureRate: 600, FileRate: 30, TagRate: true, Width: 640, Height: 360, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 75}}
		scene, err := simcam.New(spec)
		if err != nil {
			bare{}.Fatal(err)
		}
		path := filepath.Join(h.Dir, "long.mp4")
		n := testenv.Numbered{Width: 640, Height: 360, Frames: 2000, Rate: 30}
		if err := n.Make(path); err != nil {
			bare{}.Fatal(err)
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			bare{}.Fatal(err)
		}
		at := c.AttemptAt("running", spec.Athlete)
		clip := c.Imported(c.Upload(at.ID, "long.mp4", raw, len(raw)))
		c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: 600, View: "side", Direction: 1}, http.StatusOK, nil)
		all := points.All(scene.Truth, 1, 4)
		edits := func(from, frames int) (out []workspace.Edit) {
			for _, id := range body.Landmarks() {
				t := track.New(frames)
				for f := range frames {
					p, _ := all.At(id, (from+f)%len(scene.Truth.Frames))
					_ = t.Set(from+f, &p)
				}
				out = append(out, workspace.Edit{Kind: "track", Clip: &clip.ID, Key: id, Value: workspace.Value(t)})
			}
			return out
		}
		var took []float64
		for i := range 4 {
			body := workspace.Edits{Base: i, Edits: edits(500*i, 500)}
			began := time.Now()
			c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", body, http.StatusOK, nil)
			took = append(took, 1000*time.Since(began).Seconds())
		}
		out.save = middle(took)
		if err := h.Store.DB.Get(&out.size, `SELECT sum(pg_column_size(points))/1000.0 FROM tracks WHERE clip_id = $1`, clip.ID); err != nil {
			bare{}.Fatal(err)
		}
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		s.MustEvalOnNewDocument(`localStorage.setItem("neo.staves", '["angle:left_knee","height:mid_hip","speed:left_toe"]')`)
		s.Bench(h, at.ID)
		s.See("[data-lane='angle:left_knee']")
		time.Sleep(2 * time.Second)
		out.fps = s.MustEval(`async () => {
			const score = window.neokinema.score.current;
			let n = 0;
			const began = performance.now();
			await new Promise(done => {
				const tick = now => {
					n++;
					score.zoom(n % 60 < 30 ? 1.12 : 1 / 1.12);
					now - began < 3000 ? requestAnimationFrame(tick) : done();
				};
				requestAnimationFrame(tick);
			});
			return 1000 * n / (performance.now() - began);
		}`).Num()
	})
	if err == nil {
		fmt.Fprintf(os.Stderr, "  2,000 frames of 20 landmarks take %.0f kB in the database\n", out.size)
		l.kept = &out
	}
	return out, err
}
