// Package exchange reads and writes points in open formats, so that anybody can hold what was
// read here against a laboratory's or another program's: COCO keypoints as JSON, and C3D.
//
// Both are written from memory of their public descriptions.
package exchange

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/track"
)

// Limits of what is read: a clip has no more frames, a file no more points a frame.
const (
	mostFrames = 200_000
	mostPoints = 512
)

// Errors of files that cannot be read; they say what to do.
var (
	ErrCOCO   = errors.New("this is no file of COCO keypoints: it takes images, annotations and categories with the names of keypoints")
	ErrNobody = errors.New("no keypoint of this file is one that is used here; names such as left_knee or left_ankle are")
	ErrLong   = fmt.Errorf("more than %d frames cannot be read", mostFrames)
)

// coco is the file: pictures, people in them, and the names of their keypoints.
type coco struct {
	Info        map[string]any   `json:"info,omitempty"`
	Images      []cocoImage      `json:"images"`
	Annotations []cocoAnnotation `json:"annotations"`
	Categories  []cocoCategory   `json:"categories"`
}

type cocoImage struct {
	ID     int64  `json:"id"`
	File   string `json:"file_name"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

type cocoAnnotation struct {
	ID        int64      `json:"id"`
	Image     int64      `json:"image_id"`
	Category  int64      `json:"category_id"`
	Keypoints []float64  `json:"keypoints"` // x, y, v of each: 0 not there, 1 hidden, 2 seen
	Number    int        `json:"num_keypoints"`
	Box       [4]float64 `json:"bbox"`
	Area      float64    `json:"area"`
	Crowd     int        `json:"iscrowd"`
	Score     float64    `json:"score,omitempty"`
	Scores    []float64  `json:"keypoint_scores,omitempty"` // beside the format: how sure each is
}

type cocoCategory struct {
	ID        int64    `json:"id"`
	Name      string   `json:"name"`
	Keypoints []string `json:"keypoints,omitempty"`
	Skeleton  [][2]int `json:"skeleton,omitempty"`
}

// cocoNames are the 17 keypoints of the format, in its order.
var cocoNames = []string{"nose", "left_eye", "right_eye", "left_ear", "right_ear", "left_shoulder", "right_shoulder", "left_elbow", "right_elbow", "left_wrist", "right_wrist", "left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle"}

// otherNames are those of feet and hands in larger sets.
var otherNames = map[string]string{"left_big_toe": "left_toe", "right_big_toe": "right_toe", "left_foot_index": "left_toe", "right_foot_index": "right_toe", "left_index": "left_hand", "right_index": "right_hand"}

// Picture is what a file of keypoints says of the clip.
type Picture struct{ Width, Height, Frames int }

// WriteCOCO writes points as COCO keypoints: the 17 of the format first, then what is more.
func WriteCOCO(p kinematics.Points, of Picture) ([]byte, error) {
	names := slices.Clone(cocoNames)
	for _, id := range body.Landmarks() {
		if !slices.Contains(names, id) {
			names = append(names, id)
		}
	}
	out := coco{Categories: []cocoCategory{{ID: 1, Name: "person", Keypoints: names}}}
	place := map[string]int{}
	for i, n := range names {
		place[n] = i + 1
	}
	for _, side := range []string{"left_", "right_"} {
		for _, bone := range [][2]string{{"shoulder", "elbow"}, {"elbow", "wrist"}, {"shoulder", "hip"}, {"hip", "knee"}, {"knee", "ankle"}, {"heel", "toe"}} {
			out.Categories[0].Skeleton = append(out.Categories[0].Skeleton, [2]int{place[side+bone[0]], place[side+bone[1]]})
		}
	}
	for f := range of.Frames {
		out.Images = append(out.Images, cocoImage{ID: int64(f), File: fmt.Sprintf("frame_%06d.png", f), Width: of.Width, Height: of.Height})
		a := cocoAnnotation{ID: int64(f), Image: int64(f), Category: 1, Keypoints: make([]float64, 3*len(names)), Scores: make([]float64, len(names))}
		lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
		for i, id := range names {
			q, ok := p.At(id, f)
			if !ok {
				continue
			}
			seen := 2.0
			if q.Hidden {
				seen = 1
			}
			a.Keypoints[3*i], a.Keypoints[3*i+1], a.Keypoints[3*i+2] = q.X, q.Y, seen
			a.Scores[i] = q.Confidence
			a.Number++
			lo = [2]float64{math.Min(lo[0], q.X), math.Min(lo[1], q.Y)}
			hi = [2]float64{math.Max(hi[0], q.X), math.Max(hi[1], q.Y)}
		}
		if a.Number == 0 {
			continue
		}
		a.Box = [4]float64{lo[0], lo[1], hi[0] - lo[0], hi[1] - lo[1]}
		a.Area = a.Box[2] * a.Box[3]
		out.Annotations = append(out.Annotations, a)
	}
	return json.Marshal(out)
}

// ReadCOCO reads points from COCO keypoints. Frames are those of the pictures' numbers where
// they have some, else their order; of several people in a picture the surest, then the
// largest is taken. Points come as a draft, since nobody here has placed them.
func ReadCOCO(raw []byte) (kinematics.Points, Picture, error) {
	var in coco
	var of Picture
	if err := json.Unmarshal(raw, &in); err != nil || len(in.Images) == 0 {
		return nil, of, ErrCOCO
	}
	if len(in.Images) > mostFrames {
		return nil, of, ErrLong
	}
	sort.SliceStable(in.Images, func(i, j int) bool { return in.Images[i].ID < in.Images[j].ID })
	frames := numbered(in.Images)
	frameOf := map[int64]int{}
	for i, m := range in.Images {
		frameOf[m.ID] = frames[i]
		of.Frames = max(of.Frames, frames[i]+1)
		of.Width, of.Height = max(of.Width, m.Width), max(of.Height, m.Height)
	}
	names := map[int64][]string{}
	for _, c := range in.Categories {
		if names[c.ID] = c.Keypoints; len(c.Keypoints) == 0 {
			names[c.ID] = cocoNames
		}
		if len(names[c.ID]) > mostPoints {
			return nil, of, ErrCOCO
		}
	}
	best := map[int]cocoAnnotation{}
	for _, a := range in.Annotations {
		f, ok := frameOf[a.Image]
		if was, there := best[f]; ok && len(a.Keypoints) > 0 && (!there || a.Score > was.Score || a.Score == was.Score && a.Area > was.Area) {
			best[f] = a
		}
	}
	out := kinematics.Points{}
	for f := range of.Frames {
		a, ok := best[f]
		if !ok {
			continue
		}
		list, known := names[a.Category]
		if !known {
			list = cocoNames
		}
		for i, name := range list {
			if other, ok := otherNames[name]; ok {
				name = other
			}
			if 3*i+2 >= len(a.Keypoints) || a.Keypoints[3*i+2] <= 0 || !body.Known(name) {
				continue
			}
			q := track.Point{X: a.Keypoints[3*i], Y: a.Keypoints[3*i+1], Source: track.Draft.String(), Confidence: 0.9, Hidden: a.Keypoints[3*i+2] == 1}
			if i < len(a.Scores) && a.Scores[i] > 0 && a.Scores[i] <= 1 {
				q.Confidence = a.Scores[i]
			}
			if out[name] == nil {
				out[name] = track.New(of.Frames)
			}
			if err := out[name].Set(f, &q); err != nil {
				return nil, of, fmt.Errorf("frame %d, %s: %w", f, name, err)
			}
		}
	}
	if len(out) == 0 {
		return nil, of, ErrNobody
	}
	return out, of, nil
}

// numbered is the frame of each picture: the digits at the end of its name where all differ,
// else the order of their numbers.
func numbered(images []cocoImage) []int {
	out := make([]int, len(images))
	seen := map[int]bool{}
	for i, m := range images {
		name := m.File
		if dot := strings.LastIndexByte(name, '.'); dot >= 0 {
			name = name[:dot]
		}
		end := strings.TrimRight(name, "0123456789")
		n, err := strconv.Atoi(name[len(end):])
		if err != nil || n >= mostFrames || seen[n] {
			for k := range out {
				out[k] = k
			}
			return out
		}
		out[i], seen[n] = n, true
	}
	return out
}
