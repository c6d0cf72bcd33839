package figures

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"

	"neokinema/core/pose"
	"neokinema/internal/inference"
	"neokinema/internal/media"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/simcam"
	"neokinema/web"
)

// walkingPeople is the sample clip of OpenCV, of people who walk across a square and past
// each other: vtest.avi of Debian's package opencv-doc, 768 x 576, 10 pictures a second.
const walkingPeople = "/usr/share/doc/opencv-doc/examples/data/vtest.avi"

// peopleFrom and peopleTo bound the part of it that is looked at.
const peopleFrom, peopleTo = 0, 466

// somebodyElse is how far the middle of the body may lie from where it was marked, px: half
// of a person's height there, and less than the distance at which they pass each other.
const somebodyElse = 35.0

// walkers are people of the clip: the middle of each one's body, by frame, px. Marked by eye,
// to some 10 px. The first six walk in the first half; the follower was built on them. The
// others were marked in the second half afterwards, and nothing was changed since.
var walkers = []map[int][2]float64{
	{120: {705, 257}, 135: {579, 237}, 165: {334, 205}, 180: {213, 195}, 195: {119, 187}, 210: {40, 176}},
	{135: {740, 299}, 150: {605, 270}, 165: {479, 265}, 180: {376, 250}, 195: {260, 234}, 210: {166, 218}, 225: {79, 215}},
	{150: {452, 237}, 165: {510, 249}, 180: {605, 262}, 195: {698, 292}},
	{120: {385, 220}, 135: {392, 221}, 150: {402, 237}, 165: {460, 250}, 180: {516, 266}, 195: {603, 302}, 210: {674, 347}},
	{60: {633, 289}, 80: {582, 236}, 100: {603, 192}, 120: {661, 160}, 135: {703, 149}},
	{0: {665, 279}, 20: {456, 270}},

	{360: {386, 202}, 375: {320, 199}, 390: {271, 218}, 405: {308, 237}, 420: {308, 238}, 435: {308, 233}, 450: {324, 238}, 465: {394, 248}},
	{360: {454, 206}, 375: {523, 194}, 390: {583, 175}, 405: {586, 161}, 420: {562, 170}, 435: {523, 190}, 450: {499, 213}, 465: {540, 248}},
	{360: {449, 278}, 375: {549, 297}, 390: {650, 324}},
	{360: {550, 228}, 375: {643, 243}, 390: {740, 260}},
	{435: {672, 302}, 450: {578, 274}, 465: {499, 250}},
}

// people follows each walker from where he was first marked, as the draft of a clip does
// after one click, and counts the marks at which it follows somebody else.
func people() (exchanged float64, err error) {
	if _, err := os.Stat(walkingPeople); err != nil {
		return 0, fmt.Errorf("this figure takes the clip of Debian's package opencv-doc: %w", err)
	}
	networks, err := inference.Open(testenv.Library(), web.Files())
	if err != nil {
		return 0, err
	}
	worker, err := networks.Worker()
	if err != nil {
		return 0, err
	}
	defer worker.Close()
	dir, err := os.MkdirTemp("", "neokinema-people-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	ctx, cut, proxy := context.Background(), filepath.Join(dir, "cut.mp4"), filepath.Join(dir, "proxy.mp4")
	if err := media.Remake(ctx, walkingPeople, cut, "-vf", fmt.Sprintf("trim=start_frame=%d:end_frame=%d,setpts=PTS-STARTPTS", peopleFrom, peopleTo), "-c:v", "libx264", "-crf", "16"); err != nil {
		return 0, err
	}
	info, err := media.Probe(ctx, cut)
	if err != nil {
		return 0, err
	}
	p, err := media.MakeProxy(ctx, cut, proxy, info, func(int) {})
	if err != nil {
		return 0, err
	}
	clip := store.Clip{Width: info.Width, Height: info.Height, ProxyScale: p.Scale, Stamps: p.Stamps, FileRate: info.FileRate}
	for i, marks := range walkers {
		first, last := peopleTo, 0
		for f := range marks {
			first, last = min(first, f), max(last, f)
		}
		at := marks[first]
		box := &pose.Box{Frame: first - peopleFrom, X: at[0] - 22, Y: at[1] - 46, Width: 44, Height: 92}
		pts, err := lookedAt(ctx, proxy, p, clip, box, pose.Wish{From: box.Frame, To: last - peopleFrom, Step: 1}, worker)
		if err != nil {
			return 0, err
		}
		for f, want := range marks {
			var x, y, n float64
			for _, id := range []string{"left_shoulder", "right_shoulder", "left_hip", "right_hip"} {
				if q, ok := pts.At(id, f-peopleFrom); ok {
					x, y, n = x+q.X, y+q.Y, n+1
				}
			}
			off := math.Hypot(x/n-want[0], y/n-want[1])
			if os.Getenv("NEO_TELL") != "" {
				fmt.Fprintf(os.Stderr, "    walker %d frame %d: %.0f points, %.0f px from the mark\n", i+1, f, n, off)
			}
			if n > 0 && off > somebodyElse {
				exchanged++
			}
		}
	}
	return exchanged, nil
}

// scorePerson counts a clip in which somebody else is taken for the athlete: his hips are
// half a height away in more than a few frames.
func (x *hardClip) scorePerson(out *hardness) {
	far := 0
	for f := range x.film.Truth.Frames {
		l, ok := x.input.Points.At("left_hip", f)
		r, ok2 := x.input.Points.At("right_hip", f)
		if w := x.film.Truth.Frames[f].Landmarks["left_hip"].Image; ok && ok2 && math.Hypot((l.X+r.X)/2-w[0], (l.Y+r.Y)/2-w[1]) > x.tall/2 && inside(x.film.Truth, w) {
			far++
		}
	}
	if far > fewFrames {
		out.exchanged++
		if os.Getenv("NEO_TELL") != "" {
			fmt.Fprintf(os.Stderr, "    %s: somebody else in %d frames\n", x.film.Name, far)
		}
	}
}

// fewFrames may go wrong at the rim of the picture.
const fewFrames = 3

func inside(t simcam.Truth, at [2]float64) bool {
	return at[0] > 0 && at[1] > 0 && at[0] < float64(t.Spec.Width) && at[1] < float64(t.Spec.Height)
}
