package demo

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"sort"
	"testing"

	"neokinema/core/body"
	"neokinema/core/technique"
	"neokinema/internal/bench"
)

func TestExpDraft(t *testing.T) {
	raw, err := os.ReadFile(os.Getenv("DRAFT"))
	if err != nil {
		t.Skip()
	}
	var sh bench.Sheet
	if err := json.Unmarshal(raw, &sh); err != nil {
		t.Fatal(err)
	}
	_, truth, err := Shipped(os.Getenv("CLIP"))
	if err != nil {
		t.Fatal(err)
	}
	var cw bench.ClipWork
	for _, c := range sh.Work.Clips {
		cw = c
	}
	for _, id := range body.Landmarks() {
		tr := cw.Points[id]
		if tr == nil {
			continue
		}
		var dx, dy, conf []float64
		var step []float64
		for f := tr.From; f < tr.End(); f++ {
			p, ok := tr.At(f)
			if !ok || f >= len(truth.Frames) {
				continue
			}
			w := truth.Frames[f].Landmarks[id].Image
			dx, dy, conf = append(dx, p.X-w[0]), append(dy, p.Y-w[1]), append(conf, p.Confidence)
			if n := len(dx); n > 1 {
				step = append(step, math.Hypot(dx[n-1]-dx[n-2], dy[n-1]-dy[n-2]))
			}
		}
		med := func(v []float64) float64 { s := append([]float64{}, v...); sort.Float64s(s); return s[len(s)/2] }
		abs := []float64{}
		for i := range dx {
			abs = append(abs, math.Hypot(dx[i], dy[i]))
		}
		fmt.Printf("%-15s n=%d bias %.1f %.1f  |err| med %.1f p90 %.1f  jitter %.1f conf %.2f\n", id, len(dx), med(dx), med(dy), med(abs), func() float64 { sort.Float64s(abs); return abs[len(abs)*9/10] }(), med(step), med(conf))
	}
	rep := sh.Report()
	for _, b := range rep.Bars {
		fmt.Printf("%s %d-%d  ", b.Foot, b.From, b.To)
	}
	fmt.Println()
	for _, s := range []string{"left", "right"} {
		on := -1
		for f := range truth.Frames {
			down := false
			for _, q := range truth.Frames[f].Contacts {
				down = down || q == s
			}
			if down && on < 0 {
				on = f
			}
			if !down && on >= 0 {
				fmt.Printf("truth %s %d-%d  ", s, on, f)
				on = -1
			}
		}
	}
	fmt.Println()
	c, _ := sh.Main()
	in := sh.Input(c)
	why := map[string]int{}
	for _, d := range technique.Doubts(sh.Model, in, nil) {
		why[d.Landmark+" "+d.Why]++
	}
	fmt.Println(why)
}
