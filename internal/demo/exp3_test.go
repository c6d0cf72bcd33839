package demo

import (
	"context"
	"encoding/json"
	"image"
	"image/color"
	"image/png"
	"os"
	"testing"

	"neokinema/internal/bench"
	"neokinema/internal/media"
)

func TestExpCrop(t *testing.T) {
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
	img := image.NewRGBA(image.Rect(0, 0, 4*330, 2*260))
	for n, f := range []int{8, 14, 20, 28, 40, 55, 66, 78} {
		p, err := media.Colour(context.Background(), path, stamps, f, 1280, 720)
		if err != nil {
			t.Fatal(err)
		}
		a := truth.Frames[f].Landmarks["right_ankle"].Image
		if n > 3 {
			a = truth.Frames[f].Landmarks["left_ankle"].Image
		}
		ox, oy := int(a[0])-50, int(a[1])-40
		put := func(x, y float64, c color.RGBA) {
			for dy := -2; dy <= 2; dy++ {
				for dx := -2; dx <= 2; dx++ {
					img.Set((n%4)*330+int((x-float64(ox))*3)+dx, (n/4)*260+int((y-float64(oy))*3)+dy, c)
				}
			}
		}
		for y := 0; y < 260; y++ {
			for x := 0; x < 330; x++ {
				sx, sy := ox+x/3, oy+y/3
				if sx >= 0 && sy >= 0 && sx < 1280 && sy < 720 {
					i := 3 * (sy*1280 + sx)
					img.Set((n%4)*330+x, (n/4)*260+y, color.RGBA{p.Pix[i], p.Pix[i+1], p.Pix[i+2], 255})
				}
			}
		}
		side := "right_"
		if n > 3 {
			side = "left_"
		}
		for _, part := range []string{"ankle", "heel", "toe"} {
			w := truth.Frames[f].Landmarks[side+part].Image
			put(w[0], w[1], color.RGBA{255, 255, 255, 255})
			if q, ok := cw.Points.At(side+part, f); ok {
				put(q.X, q.Y, map[string]color.RGBA{"ankle": {255, 220, 0, 255}, "heel": {0, 255, 0, 255}, "toe": {255, 0, 255, 255}}[part])
			}
		}
	}
	out, _ := os.Create("/tmp/look/crop.png")
	png.Encode(out, img)
	out.Close()
}
