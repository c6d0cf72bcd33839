package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image/jpeg"
	"io"
	"math"
	"net"
	"net/http"
	"net/url"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/annotate"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/track"
	"neokinema/internal/api"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/workspace"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// words asks for a stream and gives its lines.
func words(c *testenv.Client, path string, body any) (out []api.Word) {
	c.T.Helper()
	raw := c.Do("POST", path, body, 200, nil)
	for _, l := range bytes.Split(bytes.TrimSpace(raw), []byte("\n")) {
		var w api.Word
		if err := json.Unmarshal(l, &w); err != nil {
			c.T.Fatalf("%v in %s", err, l)
		}
		out = append(out, w)
	}
	return out
}

// shippedAt uploads a clip of the demo to a new attempt at its event.
func shippedAt(t *testing.T, c *testenv.Client, name string) (store.Attempt, store.Clip, simcam.Truth) {
	t.Helper()
	raw, truth, err := demo.Shipped(name)
	if err != nil {
		t.Fatal(err)
	}
	at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, 1<<20))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: 1}, 200, &clip)
	return at, clip, truth
}

// A draft as the model leaves it, through the whole server: the picture takes the
// trembling out, tells how the camera turned and where feet stand.
func TestRefineAPanningRun(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip, truth := shippedAt(t, c, "yusra easy.mp4")
	path := "/api/clips/" + clip.ID.String()
	if p := said(t, c.Do("POST", path+"/refine", nil, 422, nil)); !strings.Contains(p.Says, "no draft") {
		t.Errorf("without a draft: %+v", p)
	}
	var edits []workspace.Edit
	rough := points.All(truth, 2.5, 3)
	for id, p := range rough {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip.ID, Key: id, Value: workspace.Value(p)})
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: edits}, 200, nil)
	list := words(c, path+"/refine", nil)
	end := list[len(list)-1]
	if !end.End || end.Error != nil || len(list) < 5 || len(end.Tracks) < 18 {
		t.Fatalf("%d lines, %d tracks, %+v", len(list), len(end.Tracks), end.Error)
	}
	// Trembling of an ankle against the truth, before and after.
	tremble := func(t *track.Track) (sum float64) {
		var before [2]float64
		for f := range truth.Frames {
			p, _ := t.At(f)
			w := truth.Frames[f].Landmarks["right_ankle"].Image
			d := [2]float64{p.X - w[0], p.Y - w[1]}
			if f > 0 {
				sum += math.Hypot(d[0]-before[0], d[1]-before[1]) / float64(len(truth.Frames))
			}
			before = d
		}
		return sum
	}
	if a, b := tremble(rough["right_ankle"]), tremble(end.Tracks["right_ankle"]); b > a/4 {
		t.Errorf("the ankle trembles by %.2f px a frame, before by %.2f", b, a)
	}
	if end.Clip == nil || end.Clip.Camera == nil || len(end.Clip.Camera.Turns) != len(truth.Frames) || end.Clip.Camera.Problem != "" {
		t.Fatalf("no camera: %+v", end.Clip)
	}
	if f := end.Clip.Camera.Focal / truth.Focal; f < 0.9 || f > 1.1 {
		t.Errorf("focal length %.0f, true %.0f", end.Clip.Camera.Focal, truth.Focal)
	}
	edits = nil
	for id, p := range end.Tracks {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip.ID, Key: id, Value: workspace.Value(p)})
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: 1, Edits: edits, MergeWithPrevious: true}, 200, nil)
	sh := sheetOf(c, at.ID)
	if s := points.Contacts(truth, sh.Report()); s.All < 8 || s.Within < s.All-2 {
		t.Errorf("contacts within a frame: %d of %d", s.Within, s.All)
	}
	// Both changes were one draft: undone together.
	var back workspace.Replayed
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/undo", map[string]int{"base": 2}, 200, &back)
	if left := sheetOf(c, at.ID).Work; len(left.Clips[clip.ID].Points) != 0 || len(back.Edits) < 40 || left.CanUndo {
		t.Errorf("after undo: %d tracks left, %d edits", len(left.Clips[clip.ID].Points), len(back.Edits))
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/redo", map[string]int{"base": back.Revision}, 200, nil)
	if again := sheetOf(c, at.ID).Work; len(again.Clips[clip.ID].Points) < 20 || again.CanRedo {
		t.Errorf("after redo: %d tracks", len(again.Clips[clip.ID].Points))
	}
	// The strip of the run, with two foot prints.
	res, err := c.HTTP.Get(c.URL + path + "/strip.jpg?frames=20,90")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	pic, err := jpeg.Decode(res.Body)
	if err != nil || res.Header.Get("X-Strip") == "" || pic.Bounds().Dx() < 2*pic.Bounds().Dy() {
		t.Errorf("strip: %v, header %q", err, res.Header.Get("X-Strip"))
	}
	c.Do("GET", path+"/strip.jpg?frames=1,x", nil, 422, nil)
	c.Do("GET", path+"/strip.jpg?frames=99999", nil, 422, nil)
	// Phases and positions for any player.
	vtt := string(c.Do("GET", path+"/score.vtt", nil, 200, nil))
	if !strings.HasPrefix(vtt, "WEBVTT\n") || strings.Count(vtt, " --> ") < 15 || !strings.Contains(vtt, "Touchdown, step 2 (found)") {
		t.Errorf("WebVTT: %.300s", vtt)
	}
	last := ""
	for _, l := range strings.Split(vtt, "\n") {
		if from, to, ok := strings.Cut(l, " --> "); ok {
			if from < last || to <= from {
				t.Errorf("cue %s after %s", l, last)
			}
			last = from
		}
	}
}

func TestFollowAPoint(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	_, clip, truth := shippedAt(t, c, "pim shot.mp4")
	path := "/api/clips/" + clip.ID.String() + "/follow"
	// The white sock of a standing foot: an ankle that hardly moves.
	at := truth.Frames[30].Landmarks["right_ankle"].Image
	list := words(c, path, videoanalysis.FollowRequest{Frame: 30, To: 55, X: at[0], Y: at[1], Radius: 8})
	end := list[len(list)-1]
	if !end.End || len(list) < 8 {
		t.Fatalf("%d lines, %+v", len(list), end)
	}
	for _, w := range list[:len(list)-1] {
		want := truth.Frames[w.Found.Frame].Landmarks["right_ankle"].Image
		if d := math.Hypot(w.Found.X-want[0], w.Found.Y-want[1]); d > 5 {
			t.Errorf("frame %d: %.1f px off, confidence %.2f", w.Found.Frame, d, w.Found.Confidence)
		}
	}
	back := words(c, path, videoanalysis.FollowRequest{Frame: 30, To: 20, X: at[0], Y: at[1], Radius: 8})
	if len(back) < 4 || back[0].Found == nil || back[0].Found.Frame != 29 {
		t.Errorf("backwards: %+v", back[0])
	}
	// The sky has nothing to follow: it asks instead of guessing.
	sky := words(c, path, videoanalysis.FollowRequest{Frame: 0, To: 40, X: 640, Y: 12, Radius: 5})
	if last := sky[len(sky)-1]; last.Lost == "" {
		t.Errorf("the sky was followed: %+v", last)
	}
	for name, ask := range map[string]videoanalysis.FollowRequest{"outside": {Frame: 0, To: 5, X: -4, Y: 4}, "no way": {Frame: 3, To: 3, X: 4, Y: 4}, "no frame": {Frame: 0, To: 99999, X: 4, Y: 4}, "absurd": {Frame: 0, To: 5, X: 4, Y: 4, Radius: 900}} {
		if p := said(t, c.Do("POST", path, ask, 422, nil)); p.Kind != problem.Invalid || p.Says == "" {
			t.Errorf("%s: %+v", name, p)
		}
	}
	c.Do("POST", path, "{", 422, nil)
}

func TestStillCameraAndUnknownClip(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	list := words(c, "/api/clips/"+clip.ID.String()+"/camera", nil)
	if end := list[len(list)-1]; !end.End || end.Clip == nil || end.Clip.Camera == nil {
		t.Errorf("%+v", end)
	}
	c.Do("POST", "/api/clips/"+uuid.NewString()+"/camera", nil, 404, nil)
	broken := c.Imported(c.Upload(at.ID, "broken.mp4", []byte(strings.Repeat("no film ", 400)), 1<<20))
	if raw, status := c.Try("POST", "/api/clips/"+broken.ID.String()+"/camera", nil); status != http.StatusNotFound {
		t.Errorf("a clip that failed: %d %s", status, raw)
	}
}

// What a track, a ground, a box and a mark may be, and what is said otherwise.
func TestEditsOfWholeClips(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	path := "/api/attempts/" + at.ID.String() + "/edits"
	n := len(clip.Stamps)
	run := func(from, count int) *track.Track {
		t := track.New(count)
		for f := range count {
			_ = t.Set(from+f, &track.Point{X: 10, Y: 20, Source: "draft", Confidence: 0.5})
		}
		return t
	}
	base := 0
	save := func(status int, e workspace.Edit) []byte {
		e.Clip = &clip.ID
		raw := c.Do("POST", path, workspace.Edits{Base: base, Edits: []workspace.Edit{e}}, status, nil)
		if status == 200 {
			base++
		}
		return raw
	}
	hand := track.Point{X: 33, Y: 44, Source: "hand", Confidence: 1}
	save(200, workspace.Edit{Kind: "point", Key: body.Breastbone, Frame: 2, Value: workspace.Value(hand)})
	save(200, workspace.Edit{Kind: "track", Key: body.Breastbone, Value: workspace.Value(run(0, n))})
	if p, _ := sheetOf(c, at.ID).Work.Clips[clip.ID].Points.At(body.Breastbone, 2); p != hand {
		t.Errorf("a draft went over the hand's point: %+v", p)
	}
	save(200, workspace.Edit{Kind: "track", Key: body.Breastbone, Value: workspace.Value(track.Clear(0, n-1)), Override: true})
	if left := sheetOf(c, at.ID).Work.Clips[clip.ID].Points; len(left) != 0 {
		t.Errorf("after deleting a stretch: %v", left)
	}
	save(200, workspace.Edit{Kind: "flag", Key: "set", Value: workspace.Value(evaluate.NotThere)})
	save(200, workspace.Edit{Kind: "box", Key: "subject", Value: workspace.Value(workspace.Box{Frame: 1, X: 4, Y: 4, Width: 60, Height: 40})})
	save(200, workspace.Edit{Kind: "annotation", Key: "a", Value: workspace.Value(annotate.Annotation{Kind: "pin", Frame: 1, Landmark: "left_knee"})})
	for what, e := range map[string]workspace.Edit{
		"beyond the clip":    {Kind: "track", Key: "ball", Value: workspace.Value(run(n-1, 4))},
		"no landmark":        {Kind: "track", Key: "left_wing", Value: workspace.Value(run(0, 2))},
		"no track":           {Kind: "track", Key: "ball"},
		"odd arrays":         {Kind: "track", Key: "ball", Value: workspace.Value(map[string]any{"from": 0, "x": []int{1}, "y": []int{}, "source": "d", "confidence": []int{9}})},
		"odd letter":         {Kind: "track", Key: "ball", Value: workspace.Value(map[string]any{"from": 0, "x": []int{1}, "y": []int{1}, "source": "z", "confidence": []int{9}})},
		"tiny box":           {Kind: "box", Key: "subject", Value: workspace.Value(workspace.Box{X: 4, Y: 4, Width: 3, Height: 3})},
		"box outside":        {Kind: "box", Key: "subject", Value: workspace.Value(workspace.Box{X: 4, Y: 4, Width: 9999, Height: 30})},
		"odd mark":           {Kind: "annotation", Key: "b", Value: workspace.Value(annotate.Annotation{Kind: "arrow", Landmark: "left_knee"})},
		"mark on nothing":    {Kind: "annotation", Key: "b", Value: workspace.Value(annotate.Annotation{Kind: "pin", Landmark: "tail_fin"})},
		"mark too late":      {Kind: "annotation", Key: "b", Value: workspace.Value(annotate.Annotation{Kind: "pin", Frame: n, Landmark: "left_knee"})},
		"line of one":        {Kind: "annotation", Key: "b", Value: workspace.Value(annotate.Annotation{Kind: "line", Landmark: "left_knee", Other: "left_knee"})},
		"ground far away":    {Kind: "ground", Key: "points", Value: workspace.Value(map[string]any{"template": "free", "points": []map[string]any{{"name": "moon", "along": 400000, "right": 0, "frame": 0, "x": 1, "y": 1}}})},
		"scale of no length": {Kind: "scale", Key: "line", Value: workspace.Value(map[string]float64{"ax": 5, "ay": 5, "bx": 5, "by": 5, "metres": 1})},
	} {
		if p := said(t, save(422, e)); p.Kind != problem.Invalid || p.Says == "" {
			t.Errorf("%s: %+v", what, p)
		}
	}
}

// Four places on one line make no ground: the report says so and goes on.
func TestGroundOnALineIsExplained(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip, _ := shippedAt(t, c, "pim shot.mp4")
	var pts []map[string]any
	for i := range 4 {
		pts = append(pts, map[string]any{"name": fmt.Sprint("place ", i), "along": i, "right": 0, "frame": 0, "x": 100 + 50*i, "y": 600})
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "ground", Clip: &clip.ID, Key: "points", Value: workspace.Value(map[string]any{"template": "free", "points": pts})}}}, 200, nil)
	r := sheetOf(c, at.ID).Report()
	if r.Ground != nil || len(r.Problems) == 0 || !strings.Contains(r.Problems[0], "one line") {
		t.Errorf("ground %v, problems %v", r.Ground, r.Problems)
	}
}

// BenchmarkSaveDraft saves a whole draft over HTTP into the database.
func BenchmarkSaveDraft(b *testing.B) {
	c := h.Coach(b)
	raw, truth, err := demo.Shipped("yusra easy.mp4")
	if err != nil {
		b.Fatal(err)
	}
	at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, 1<<20))
	all := points.All(truth, 2.5, 3)
	var edits []workspace.Edit
	for _, id := range body.Landmarks() {
		t := &track.Track{}
		for f := range len(clip.Stamps) {
			p, _ := all.At(id, f)
			_ = t.Set(f, &p)
		}
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip.ID, Key: id, Value: workspace.Value(t)})
	}
	base := 0
	for b.Loop() {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: base, Edits: edits}, 200, nil)
		base++
	}
	b.ReportMetric(float64(len(clip.Stamps)), "frames")
}

// pipes is a listener whose connections hold nothing between both ends.
type pipes struct {
	next chan net.Conn
	end  chan struct{}
}

func (p *pipes) Accept() (net.Conn, error) {
	select {
	case c := <-p.next:
		return c, nil
	case <-p.end:
		return nil, net.ErrClosed
	}
}

func (p *pipes) Close() error   { close(p.end); return nil }
func (p *pipes) Addr() net.Addr { return &net.TCPAddr{IP: net.IPv4(127, 0, 0, 1)} }

// Clients that ask for a look and do not read do not hold its place.
func TestStalledLooksEnd(t *testing.T) {
	t.Parallel()
	own, end := testenv.Start(func(c *app.Config) { c.BodyTime = 300 * time.Millisecond })
	defer end()
	c := own.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "n.mp4", numbered(t, testenv.Numbered{Width: 640, Height: 360, Frames: 40, Rate: 60}), 1<<20))
	l := &pipes{make(chan net.Conn), make(chan struct{})}
	server := &http.Server{Handler: own.Handler}
	go func() { _ = server.Serve(l) }()
	defer server.Close()
	u, err := url.Parse(c.URL)
	if err != nil {
		t.Fatal(err)
	}
	for range 2 * runtime.NumCPU() {
		near, far := net.Pipe()
		defer near.Close()
		l.next <- far
		var cookies []string
		for _, k := range c.HTTP.Jar.Cookies(u) {
			cookies = append(cookies, k.Name+"="+k.Value)
		}
		if _, err := fmt.Fprintf(near, "POST /api/clips/%s/camera HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nContent-Length: 0\r\n\r\n", clip.ID, u.Host, strings.Join(cookies, "; ")); err != nil {
			t.Fatal(err)
		}
		head := make([]byte, len("HTTP/1.1 200"))
		if _, err := io.ReadFull(near, head); err != nil || string(head) != "HTTP/1.1 200" {
			t.Fatalf("%q %v", head, err)
		}
	}
	if list := words(c, "/api/clips/"+clip.ID.String()+"/camera", nil); len(list) < 5 || !list[len(list)-1].End {
		t.Errorf("%d lines for one who reads", len(list))
	}
}

// A throwing circle is found about the feet of the athlete, with the ends of its diameters
// where they are; before a draft, or in another event, there is nothing to find.
func TestTheCircleIsSeen(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip, truth := shippedAt(t, c, "haldane hammer back.mp4")
	path := "/api/clips/" + clip.ID.String()
	var seen videoanalysis.CircleSeen
	c.Do("GET", path+"/circle", nil, 200, &seen)
	if seen.Marks != nil {
		t.Fatalf("found without a draft: %+v", seen)
	}
	var edits []workspace.Edit
	for id, p := range points.All(truth, 2, 1) {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip.ID, Key: id, Value: workspace.Value(p)})
	}
	c.Drafted(at.ID, edits)
	c.Do("GET", path+"/circle", nil, 200, &seen)
	if seen.Marks == nil || seen.Marks.Template != "shot-circle" || len(seen.Outline) < 20 {
		t.Fatalf("seen: %+v", seen)
	}
	for i, id := range []string{"circle_left", "circle_right", "circle_back", "circle_front"} {
		p, want := seen.Marks.Points[i], truth.Ground[id].Image
		if d := math.Hypot(p.X-want[0], p.Y-want[1]); d > 6 {
			t.Errorf("%s: %s is %.1f px off", id, p.Name, d)
		}
	}
}
