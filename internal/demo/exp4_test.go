package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/optic"
	"neokinema/core/plane"
	"neokinema/internal/bench"
	"neokinema/internal/media"
)

func TestExpStand(t *testing.T) {
	raw, err := os.ReadFile(os.Getenv("DRAFT"))
	if err != nil {
		t.Skip()
	}
	var sh bench.Sheet
	json.Unmarshal(raw, &sh)
	video, truth, _ := Shipped(os.Getenv("CLIP"))
	path := t.TempDir() + "/c.mp4"
	os.WriteFile(path, video, 0o644)
	stamps, _ := media.Stamps(context.Background(), path)
	var cw bench.ClipWork
	for _, c := range sh.Work.Clips {
		cw = c
	}
	c := sh.Clips[0]
	rate := c.CaptureRate
	m := kinematics.New(cw.Points, rate, plane.View{Direction: c.Direction}, c.Camera, nil)
	tall := 0.0
	for _, s := range []string{"left", "right"} {
		tall = math.Max(tall, (m.Length(s+"_hip", s+"_knee")+m.Length(s+"_knee", s+"_ankle"))/0.487)
	}
	var feet []contact.Foot
	feet = append(feet, contact.Foot{Side: "left", Ankle: m.Paths["left_ankle"]}, contact.Foot{Side: "right", Ankle: m.Paths["right_ankle"]})
	rough := contact.Rough(feet, rate, tall)
	fmt.Println("tall", tall, rough)
	for _, r := range rough {
		room := int(0.09 * rate)
		lo, hi := max(0, r.From-room), min(len(stamps)-1, r.To+room)
		mid := (r.From + r.To) / 2
		ankle, _ := m.Where(string(r.Foot)+"_ankle", mid)
		pics := make([]optic.Pyramid, hi-lo+1)
		media.Grays(context.Background(), path, stamps, lo, hi, 1280, 720, func(p media.Picture) error {
			pics[p.Frame-lo] = optic.NewPyramid(optic.FromBytes(p.Width, p.Height, p.Pix), 1)
			return nil
		})
		on, off := -1, -1
		for f := max(1, lo); f <= hi; f++ {
			is, was := false, false
			for _, s := range truth.Frames[f].Contacts {
				is = is || s == string(r.Foot)
			}
			for _, s := range truth.Frames[f-1].Contacts {
				was = was || s == string(r.Foot)
			}
			if is && !was {
				on = f
			}
			if was && !is {
				off = f
			}
		}
		var looks [][]contact.Look
		for _, sole := range []r2.Vec{{X: 0.08, Y: -0.046}, {X: -0.03, Y: -0.045}} {
			place := r2.Add(ankle, r2.Scale(tall, sole))
			a, ok := optic.NewAnchor(pics[mid-lo], m.Picture(mid, place), 9)
			var list []contact.Look
			for f := lo; f <= hi; f++ {
				l := contact.Look{Off: 1e9}
				if q, like, found := a.Find(pics[f-lo], m.Picture(f, place)); ok && found {
					l = contact.Look{Off: r2.Norm(r2.Sub(m.Common(f, q), place)), Like: like}
				}
				list = append(list, l)
			}
			looks = append(looks, list)
		}
		toe := r2.Add(ankle, r2.Scale(tall, r2.Vec{X: 0.105, Y: -0.05}))
		found, pivot := contact.FromPicture(r, lo, mid, looks, m.Paths[string(r.Foot)+"_ankle"], toe, tall, rate)
		w := truth.Frames[mid].Landmarks[string(r.Foot)+"_toe"].Image
		tt := m.Common(mid, r2.Vec{X: w[0], Y: w[1]})
		fmt.Printf("%s found %d-%d (sd %.1f %.1f) truth %d-%d | pivot off %.1f px\n", r.Foot, found.From, found.To, found.FromSD, found.ToSD, on, off, r2.Norm(r2.Sub(pivot, tt)))
	}
}
