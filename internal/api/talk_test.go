package api_test

import (
	"context"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/videoexport"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
)

// tone is a voice of so many seconds that is loud in its second half only, as a browser
// records it.
func tone(t *testing.T, seconds string, options ...string) []byte {
	t.Helper()
	path := filepath.Join(t.TempDir(), "voice.webm")
	args := append([]string{"-loglevel", "error", "-f", "lavfi", "-i", "sine=frequency=440:duration=" + seconds, "-af", "volume='if(lt(t," + seconds + "/2),0.001,1)':eval=frame", "-c:a", "libopus"}, options...)
	if out, err := exec.Command("ffmpeg", append(args, path)...).CombinedOutput(); err != nil {
		t.Fatal(err, string(out))
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// filmed is an attempt with a clip whose frames carry their numbers.
func filmed(t *testing.T, c *testenv.Client, n testenv.Numbered) (store.Attempt, store.Clip) {
	t.Helper()
	raw, at := numbered(t, n), c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "n.mp4", append(raw, []byte(at.ID.String())...), 1<<22))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: 60, View: "side", Direction: 1}, 200, nil)
	return at, clip
}

func of[T any](v T) *T { return &v }

// drawn waits for a film and gives its file.
func drawn(t *testing.T, c *testenv.Client, f store.Film) string {
	t.Helper()
	for end := time.Now().Add(8 * time.Minute); f.State == "waiting" || f.State == "drawing"; {
		if time.Now().After(end) {
			t.Fatalf("the film is still %s", f.State)
		}
		time.Sleep(100 * time.Millisecond)
		var list []store.Film
		c.Do("GET", "/api/attempts/"+f.AttemptID.String()+"/films", nil, 200, &list)
		for _, x := range list {
			if x.ID == f.ID {
				f = x
			}
		}
	}
	if f.State != "ready" || f.Progress != 1 {
		t.Fatalf("the film: %+v", f)
	}
	path := filepath.Join(t.TempDir(), "film.mp4")
	if err := os.WriteFile(path, c.Do("GET", "/api/films/"+f.ID.String()+"/film.mp4", nil, 200, nil), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// numbers reads the frame numbers in the pictures of a film; the clip's picture lies at
// x, y and is k times as large as the clip.
func numbers(t *testing.T, path string, w, h int, x, y, k float64) (out []int) {
	t.Helper()
	stamps, err := media.Stamps(context.Background(), path)
	if err != nil {
		t.Fatal(err)
	}
	err = media.Colours(context.Background(), path, stamps, 0, len(stamps)-1, w, h, func(p media.Picture) error {
		out = append(out, testenv.Read(func(px, py int) int { return int(p.Pix[3*((int(y)+py)*w+int(x)+px)]) }, k))
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// A talk comes back as it was recorded; it is cut, said again and drawn as a film whose
// every picture is the frame that the stage showed, with the voice on time; its chapters
// go out as subtitles; it goes with the attempt.
func TestTalk(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := filmed(t, c, testenv.Numbered{Width: 640, Height: 360, Frames: 90, Rate: 30})
	path := "/api/attempts/" + at.ID.String()
	whole := [4]float64{0, 0, 640, 360}
	first := voiceover.Recording{Name: "The whole", Voice: tone(t, "2"), Stage: []voiceover.Scene{
		{T: 0, Clip: &clip.ID, Frame: of(10), View: &whole, Over: &[]voiceover.Drawing{{Lines: [][][2]float64{{{300, 200}, {400, 300}}}, Style: "left", Label: "knee 94°"}}},
		{T: 0.5, Frame: of(40)}, {T: 1, Frame: of(12), Over: &[]voiceover.Drawing{}}, {T: 1.5, Frame: of(13)},
	}}
	var a, b voiceover.Chapter
	c.Do("POST", path+"/chapters", first, 200, &a)
	if math.Abs(a.Seconds-2) > 0.05 || a.Starts != 0 || a.Ends != a.Seconds || len(a.Scenes) != 4 || *a.Scenes[1].Frame != 40 {
		t.Fatalf("%+v", a)
	}
	c.Do("POST", path+"/chapters", voiceover.Recording{Name: "Early rise -->", Finding: "S7", Voice: tone(t, "1", "-f", "ogg"), Stage: []voiceover.Scene{{Clip: &clip.ID, Frame: of(70), View: &[4]float64{0, 0, 320, 180}}}}, 200, &b)
	if v := c.Do("GET", "/api/chapters/"+b.ID.String()+"/voice.webm", nil, 200, nil); !strings.Contains(string(v[:64]), "webm") {
		t.Errorf("the voice: %q", v[:32])
	}

	// Cut to the second half, where it is loud; a cut that leaves nothing is refused.
	c.Do("PUT", "/api/chapters/"+a.ID.String(), voiceover.Cut{Name: "The whole", Starts: 1.9, Ends: 1.95}, 422, nil)
	c.Do("PUT", "/api/chapters/"+a.ID.String(), voiceover.Cut{Name: "Second half", Starts: 0.4, Ends: 99}, 200, &a)
	if a.Starts != 0.4 || a.Ends != a.Seconds || a.Name != "Second half" {
		t.Errorf("cut: %+v", a.Chapter)
	}
	vtt := string(c.Do("GET", path+"/talk.vtt", nil, 200, nil))
	if !strings.HasPrefix(vtt, "WEBVTT\n") || !strings.Contains(vtt, "00:00:00.000 --> 00:00:01.6") || !strings.Contains(vtt, "Early rise →") || strings.Count(vtt, "-->") != 2 {
		t.Error(vtt)
	}

	var f store.Film
	c.Do("POST", path+"/films", videoexport.ExportRequest{Kind: "talk"}, 200, &f)
	file := drawn(t, c, f)
	got := numbers(t, file, 1280, 720, 0, 0, 2)
	if want := int(math.Ceil(30*(a.Ends-a.Starts))) + int(math.Ceil(30*b.Seconds)); len(got) < want-2 || len(got) > want {
		t.Errorf("%d pictures, want %d", len(got), want)
	}
	for i, n := range got[:int(30*(a.Ends-a.Starts))-1] {
		want := 10
		switch s := 0.4 + float64(i)/30; {
		case s >= 1.5:
			want = 13
		case s >= 1:
			want = 12
		case s >= 0.5:
			want = 40
		}
		if n != want {
			t.Fatalf("picture %d shows frame %d, want %d", i, n, want)
		}
	}
	// The second chapter is zoomed twice as much.
	if zoomed := numbers(t, file, 1280, 720, 0, 0, 4); zoomed[len(zoomed)-5] != 70 {
		t.Errorf("zoomed in it shows frame %d", zoomed[len(zoomed)-5])
	}
	heard, err := media.Listen(context.Background(), file, 8000)
	if err != nil {
		t.Fatal(err)
	}
	loud := func(from, to float64) (most float64) {
		for i := int((from - heard.First) * heard.Rate); i < int((to-heard.First)*heard.Rate) && i < len(heard.Samples); i++ {
			most = math.Max(most, math.Abs(heard.Samples[i]))
		}
		return most
	}
	// Loud from 1 s on, which is 0.6 s after the cut, until the chapter ends; then the
	// second is quiet for half a second.
	if loud(0.05, 0.5) > 0.01 || loud(0.7, 1.4) < 0.05 || loud(1.75, 2.0) > 0.01 || loud(2.2, 2.5) < 0.05 {
		t.Errorf("loudness %.3f, %.3f, %.3f, %.3f", loud(0.05, 0.5), loud(0.7, 1.4), loud(1.75, 2.0), loud(2.2, 2.5))
	}

	// Said again: place and name stay.
	c.Do("PUT", "/api/chapters/"+a.ID.String()+"/recording", voiceover.Recording{Name: "x", Voice: tone(t, "1.5"), Stage: []voiceover.Scene{{Clip: &clip.ID, Frame: of(5), View: &whole}}}, 200, &a)
	if a.Name != "Second half" || a.Starts != 0 || math.Abs(a.Ends-1.5) > 0.05 || len(a.Scenes) != 1 {
		t.Errorf("again: %+v", a)
	}
	var list []voiceover.Chapter
	c.Do("GET", path+"/chapters", nil, 200, &list)
	if len(list) != 2 || list[0].ID != a.ID {
		t.Errorf("chapters: %+v", list)
	}

	// Another team sees nothing of it; an athlete by a link sees all of it.
	other := h.Coach(t)
	for _, p := range []string{path + "/chapters", path + "/talk.vtt", path + "/films", "/api/chapters/" + a.ID.String() + "/voice.webm", "/api/films/" + f.ID.String() + "/film.mp4"} {
		other.Do("GET", p, nil, 404, nil)
	}
	var link struct{ Secret string }
	c.Do("POST", path+"/shares", map[string]int{"days": 3}, 200, &link)
	guest := h.Guest(t)
	var shared struct{ Chapters []voiceover.Chapter }
	guest.Do("GET", "/api/shared/"+link.Secret+"/talk", nil, 200, &shared)
	if len(shared.Chapters) != 2 {
		t.Errorf("%d chapters are shared", len(shared.Chapters))
	}
	guest.Do("GET", "/api/shared/"+link.Secret+"/voices/"+a.ID.String(), nil, 200, nil)
	stray, strayClip := filmed(t, c, testenv.Numbered{Width: 320, Height: 180, Frames: 12, Rate: 30})
	var x voiceover.Chapter
	c.Do("POST", "/api/attempts/"+stray.ID.String()+"/chapters", voiceover.Recording{Name: "another", Voice: tone(t, "1"), Stage: []voiceover.Scene{{Clip: &strayClip.ID, Frame: of(1), View: &whole}}}, 200, &x)
	guest.Do("GET", "/api/shared/"+link.Secret+"/voices/"+x.ID.String(), nil, 404, nil)

	// A film can be removed, and what is left goes with the attempt.
	c.Do("DELETE", "/api/films/"+f.ID.String(), nil, 204, nil)
	c.Do("GET", "/api/films/"+f.ID.String()+"/film.mp4", nil, 404, nil)
	c.Do("DELETE", "/api/chapters/"+b.ID.String(), nil, 204, nil)
	c.Do("POST", path+"/films", videoexport.ExportRequest{Kind: "talk"}, 200, &f)
	drawn(t, c, f)
	var gone store.Deletion
	c.Do("DELETE", path, nil, 200, &gone)
	if gone.LeftOver != 0 || gone.Files < 4 || len(h.FilesOf(f.ID)) != 0 {
		t.Errorf("deleted: %+v, left of the film: %v", gone, h.FilesOf(f.ID))
	}
	c.Do("GET", "/api/chapters/"+a.ID.String()+"/voice.webm", nil, 404, nil)
}

// What cannot have been recorded is refused with what to do, and nothing is kept.
func TestTalkRefuses(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := filmed(t, c, testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 30})
	_, foreign := filmed(t, c, testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 30})
	voice := tone(t, "1")
	view := [4]float64{0, 0, 320, 180}
	good := voiceover.Scene{Clip: &clip.ID, Frame: of(1), View: &view}
	for want, r := range map[string]voiceover.Recording{
		"needs a name":                  {Name: " ", Voice: voice, Stage: []voiceover.Scene{good}},
		"No voice was recorded":         {Name: "x", Voice: []byte("nothing that sounds"), Stage: []voiceover.Scene{good}},
		"0 changes":                     {Name: "x", Voice: voice, Stage: []voiceover.Scene{}},
		"does not begin with a picture": {Name: "x", Voice: voice, Stage: []voiceover.Scene{{Frame: of(1)}}},
		"a clip of another attempt":     {Name: "x", Voice: voice, Stage: []voiceover.Scene{{Clip: &foreign.ID, Frame: of(1), View: &view}}},
		"frame 20 lies outside":         {Name: "x", Voice: voice, Stage: []voiceover.Scene{good, {T: 1, Frame: of(20)}}},
		"time runs back":                {Name: "x", Voice: voice, Stage: []voiceover.Scene{{T: 1, Clip: &clip.ID, Frame: of(1), View: &view}, {T: 0.5, Frame: of(2)}}},
		"no part of the picture":        {Name: "x", Voice: voice, Stage: []voiceover.Scene{{Clip: &clip.ID, Frame: of(1), View: &[4]float64{0, 0, 0, 10}}}},
	} {
		if p := said(t, c.Do("POST", "/api/attempts/"+at.ID.String()+"/chapters", r, 422, nil)); !strings.Contains(p.Says, want) {
			t.Errorf("want %q: %s", want, p.Says)
		}
	}
	var list []voiceover.Chapter
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/chapters", nil, 200, &list)
	if len(list) != 0 {
		t.Errorf("%d chapters are kept", len(list))
	}
	if p := said(t, c.Do("POST", "/api/attempts/"+at.ID.String()+"/films", videoexport.ExportRequest{Kind: "talk"}, 422, nil)); !strings.Contains(p.Says, "press Z") && !strings.Contains(p.Says, "Press Z") {
		t.Error(p.Says)
	}
}

// Two attempts side by side become a film: both pictures are the frames that belong
// together, it halts at each shared position, and the second can be turned round.
func TestFilmSideBySide(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	one, clipA := filmed(t, c, testenv.Numbered{Width: 640, Height: 360, Frames: 90, Rate: 30})
	two, clipB := filmed(t, c, testenv.Numbered{Width: 640, Height: 360, Frames: 120, Rate: 30})
	flag := func(at store.Attempt, clip store.Clip, set, clear int) {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{
			{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(set)}, {Kind: "flag", Clip: &clip.ID, Key: "clear", Value: workspace.Value(clear)}}}, 200, nil)
	}
	order := videoexport.ExportRequest{Kind: "beside", Other: two.ID, ClipA: clipA.ID, ClipB: clipB.ID, Speed: 0.5}
	path := "/api/attempts/" + one.ID.String() + "/films"
	var f store.Film
	c.Do("POST", path, order, 200, &f)
	for f.State == "waiting" || f.State == "drawing" {
		time.Sleep(50 * time.Millisecond)
		var list []store.Film
		c.Do("GET", path, nil, 200, &list)
		f = list[0]
	}
	if f.State != "failed" || !strings.Contains(f.Problem, "share no key position") {
		t.Fatalf("without a position in common: %+v", f)
	}
	flag(one, clipA, 20, 60)
	flag(two, clipB, 30, 110)
	c.Do("POST", path, order, 200, &f)
	file := drawn(t, c, f)
	left, right := numbers(t, file, 1280, 440, 0, 40, 638.0/640), numbers(t, file, 1280, 440, 642, 40, 638.0/640)
	halts := map[int]int{}
	for i, n := range left {
		halts[n]++
		// Each phase of the second is stretched to that of the first: 80 frames on 40.
		want := 30 + 2*(n-20)
		if n >= 20 && n <= 60 && right[i] != want {
			t.Fatalf("picture %d: frame %d beside %d, want %d", i, n, right[i], want)
		}
		if i > 0 && n < left[i-1] {
			t.Fatalf("picture %d goes back to frame %d", i, n)
		}
	}
	if halts[20] < 30 || halts[60] < 30 || halts[40] > 5 {
		t.Errorf("it stands for %d, %d pictures at the positions and %d between", halts[20], halts[60], halts[40])
	}
	order.Mirror = true
	c.Do("POST", path, order, 200, &f)
	turned := drawn(t, c, f)
	stamps, err := media.Stamps(context.Background(), turned)
	if err != nil {
		t.Fatal(err)
	}
	p, err := media.Colour(context.Background(), turned, stamps, len(stamps)/2, 1280, 440)
	if err != nil {
		t.Fatal(err)
	}
	n := testenv.Read(func(px, py int) int { return int(p.Pix[3*((40+py)*1280+1279-px)]) }, 638.0/640)
	if n < 30 || n > 110 {
		t.Errorf("turned round, the second shows frame %d", n)
	}
	c.Do("POST", path, videoexport.ExportRequest{Kind: "beside", Other: uuid.New()}, 404, nil)
}
