package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"sort"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
	"neokinema/core/optic"
	"neokinema/internal/bench"
	"neokinema/internal/media"
)

func TestExpFlow(t *testing.T) {
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
	for _, half := range []int{6, 9} {
		var before optic.Pyramid
		errs := map[string][]float64{}
		okc, all := map[string]int{}, map[string]int{}
		media.Grays(context.Background(), path, stamps, 0, len(stamps)-1, 1280, 720, func(p media.Picture) error {
			now := optic.NewPyramid(optic.FromBytes(p.Width, p.Height, p.Pix), 3)
			if f := p.Frame - 1; f >= 0 {
				for _, id := range []string{"right_toe", "right_heel", "right_ankle", "right_knee", "left_toe"} {
					a, _ := cw.Points.At(id, f)
					b, _ := cw.Points.At(id, f+1)
					wa, wb := truth.Frames[f].Landmarks[id].Image, truth.Frames[f+1].Landmarks[id].Image
					fl := optic.FlowAt(before, now, r2.Vec{X: a.X, Y: a.Y}, r2.Vec{X: b.X, Y: b.Y}, half)
					key := id + " air"
					for _, s := range truth.Frames[f].Contacts {
						if s == id[:len(s)] {
							key = id + " down"
						}
					}
					all[key]++
					if fl.OK {
						okc[key]++
						errs[key] = append(errs[key], math.Hypot(fl.By.X-(wb[0]-wa[0]), fl.By.Y-(wb[1]-wa[1])))
					}
				}
			}
			before = now
			return nil
		})
		for k, v := range errs {
			sort.Float64s(v)
			fmt.Printf("half %d %-18s ok %d/%d  err med %.2f p90 %.2f\n", half, k, okc[k], all[k], v[len(v)/2], v[len(v)*9/10])
		}
	}
}
