package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"neokinema/core/body"
	"neokinema/internal/demo"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// catalogue is the part of the help that lists events, faults and cameras.
func catalogue() string {
	var b strings.Builder
	b.WriteString("\nEvents, variants and faults (name: faultless, range):\n")
	for _, e := range move.Events() {
		fmt.Fprintf(&b, "\n  %s: %s\n", e.ID, e.Says)
		for i, v := range e.Variants {
			usual := ""
			if i == 0 {
				usual = " (usual)"
			}
			fmt.Fprintf(&b, "    --variant %-14s %s%s\n", v.ID, v.Says, usual)
		}
		for _, d := range e.Faults {
			only := ""
			if len(d.Variants) > 0 {
				only = " [" + strings.Join(d.Variants, ", ") + "]"
			}
			fmt.Fprintf(&b, "    --fault %-15s %s: %g, %g to %g%s\n", d.Name, d.Says, d.Clean, d.Min, d.Max, only)
		}
	}
	fmt.Fprintf(&b, "\nCameras: %s; each with --pan, --shake, --net, --post.\n", strings.Join(simcam.Places(), ", "))
	return b.String()
}

func runSimulate(ctx context.Context, args []string) error {
	flags := flag.NewFlagSet("simulate", flag.ContinueOnError)
	spec := simcam.Spec{Faults: map[string]float64{}}
	out := flags.String("out", ".", "folder for the clip and its truth")
	sheet := flags.Int("sheet", 0, "instead of a clip write a contact sheet (PNG) of so many frames")
	sex := flags.String("sex", "male", "female or male, for proportions")
	sides := map[string]*string{
		"front-leg": flags.String("front-leg", "left", "leg in the front block, left or right"),
		"hand":      flags.String("hand", "right", "throwing hand, left or right"),
		"takeoff":   flags.String("takeoff", "left", "take-off leg, left or right"),
	}
	flags.StringVar(&spec.Event, "event", "sprint-start", "see the list below")
	flags.StringVar(&spec.Variant, "variant", "", "of the event; the usual one when empty")
	flags.Float64Var(&spec.Speed, "speed", 0, "running: m/s, 3 to 9")
	flags.IntVar(&spec.Turns, "turns", 0, "hammer and weight: 3 or 4")
	flags.IntVar(&spec.Winds, "winds", 0, "hammer: 1 or 2")
	flags.Float64Var(&spec.Athlete.Height, "height", 1.80, "standing height, m")
	flags.Float64Var(&spec.Athlete.Mass, "mass", 0, "body mass, kg, for the girth")
	flags.Float64Var(&spec.Direction, "direction", 1, "1 moves to the right of a side camera, -1 to the left")
	c := &spec.Camera
	flags.StringVar(&c.Place, "camera", "side", strings.Join(simcam.Places(), ", "))
	flags.Float64Var(&c.Distance, "distance", 0, "camera to action, m; the event's own when 0")
	flags.Float64Var(&c.Above, "above", 0, "height of the lens, m; 1.3 when 0")
	flags.Float64Var(&c.Zoom, "zoom", 0, "focal length against the one that fits the action")
	flags.Float64Var(&c.Distortion, "distortion", 0, "radial, -0.3 to 0.3")
	flags.BoolVar(&c.Pan, "pan", false, "the camera follows the athlete")
	flags.Float64Var(&c.Shake, "shake", 0, "of the hand, px")
	flags.Float64Var(&c.Exposure, "exposure", 0, "s; a 1000th when 0")
	flags.Float64Var(&c.Noise, "noise", 0, "standard deviation of a pixel, of 255")
	flags.Float64Var(&c.Dim, "light", 0, "against full sun, 0.1 to 1.5")
	flags.IntVar(&c.Compression, "compression", 0, "CRF, 18 fine to 40 coarse")
	flags.BoolVar(&c.Net, "net", false, "a net between camera and athlete")
	flags.BoolVar(&c.Post, "post", false, "a post between camera and athlete")
	flags.Float64Var(&c.Late, "late", 0, "this camera starts so much later, s")
	flags.Float64Var(&c.Early, "early", 0, "and stops so much earlier, s")
	flags.Float64Var(&spec.CaptureRate, "capture-rate", 240, "frames per second of the camera")
	flags.Float64Var(&spec.FileRate, "file-rate", 30, "frames per second at which the file plays")
	flags.BoolVar(&spec.TagRate, "tag", true, "note the capture rate in the file")
	flags.IntVar(&spec.Width, "width", 1280, "px")
	flags.IntVar(&spec.Height, "picture-height", 720, "px")
	flags.IntVar(&spec.Kit, "kit", 0, "clothing, 0 to 4")
	flags.Uint64Var(&spec.Seed, "seed", 0, "of noise and shake; the same seed gives the same clip")
	flags.Func("fault", "name=size, may be given more than once", func(v string) error {
		name, size, ok := strings.Cut(v, "=")
		n, err := strconv.ParseFloat(size, 64)
		if !ok || err != nil {
			return errors.New("a fault is name=size")
		}
		spec.Faults[name] = n
		return nil
	})
	flags.Usage = func() {
		fmt.Fprintln(flags.Output(), "neokinema simulate: draw a clip of the simulated athlete with its truth")
		flags.PrintDefaults()
		fmt.Fprint(flags.Output(), catalogue())
	}
	if err := flags.Parse(args); err != nil {
		return err
	}
	if flags.NArg() > 0 {
		return fmt.Errorf("%q is not a flag; see neokinema simulate --help", flags.Arg(0))
	}
	for name, v := range sides {
		if *v != "left" && *v != "right" {
			return fmt.Errorf("--%s is left or right, not %q", name, *v)
		}
	}
	if *sex != "male" && *sex != "female" {
		return fmt.Errorf("--sex is female or male, not %q", *sex)
	}
	spec.Athlete.Sex, spec.Athlete.FrontLeg = body.Sex(*sex), body.Side(*sides["front-leg"])
	spec.Hand, spec.Leg = body.Side(*sides["hand"]), body.Side(*sides["takeoff"])
	scene, err := simcam.New(spec)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(*out, 0o755); err != nil {
		return err
	}
	path := filepath.Join(*out, spec.Event)
	if *sheet == 0 {
		if err := scene.WriteClip(ctx, path+".mp4"); err != nil {
			return err
		}
		fmt.Printf("%s.mp4: %d frames\n", path, len(scene.Truth.Frames))
		return nil
	}
	f, err := os.Create(path + ".png")
	if err != nil {
		return err
	}
	var frames []int
	for i := range *sheet {
		frames = append(frames, i*(len(scene.Truth.Frames)-1)/max(1, *sheet-1))
	}
	return errors.Join(scene.WriteSheet(f, frames, 5, 3), f.Close())
}

// runClips draws the demo's clips into the repository.
func runClips(ctx context.Context, args []string) error {
	flags := flag.NewFlagSet("clips", flag.ContinueOnError)
	out := flags.String("out", "internal/demo/clips", "folder of the demo's clips")
	if err := flags.Parse(args); err != nil {
		return err
	}
	return demo.Draw(ctx, *out, flags.Args(), os.Stdout)
}
