// Package lesson is exercises for the eye: short clips of the simulated athlete, each with one fault of
// a known size or none, and what is true of them. The size is what package audit reads off the finished
// movement, not what was dialled.
package lesson

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
	"neokinema/simcam/points"

	"gonum.org/v1/gonum/spatial/r2"
)

// Of the pictures: px, pictures a second of the movement, and s before and after the moment.
const (
	Width, Height = 360, 270
	Columns       = 8
	Rate          = 50
	before, after = 0.487, 0.32 // the moment never falls on the edge between two pictures
	quality       = 62          // of the JPEG
)

// auditRate is the rate at which signs are read.
const auditRate = 240

// Sort is what a clip is for.
type Sort string

// Sorts of clips.
const (
	Sized Sort = "sized" // one fault of a size; none where the size is below 0
	Two   Sort = "two"   // two faults, of which the first is the cause
	Dark  Sort = "dark"  // nobody can say
)

// Clip is one of the bank, without its pictures.
type Clip struct {
	ID      string         `json:"id"`
	Sort    Sort           `json:"sort" enum:"sized,two,dark"`
	Event   string         `json:"event"`
	Variant string         `json:"variant"`
	Fault   string         `json:"fault" doc:"of the event's model"`
	Second  string         `json:"second" doc:"the later fault of two"`
	Third   string         `json:"third" doc:"one that is not there, of two"`
	View    string         `json:"view"`
	Watch   string         `json:"watch" doc:"where and when to look"`
	Size    float64        `json:"size" doc:"0 at the edge of the band, 1 where it shows plainly, below 0 inside of the band"`
	Sign    string         `json:"sign" doc:"what was read"`
	Value   float64        `json:"value"`
	Unit    string         `json:"unit"`
	Edge    float64        `json:"edge" doc:"of the band, on the side of the fault"`
	Above   bool           `json:"above" doc:"the fault lies above the edge"`
	Frames  int            `json:"frames"`
	At      int            `json:"at" doc:"frame of the moment at which it shows"`
	Moments map[string]int `json:"moments" doc:"key positions in the clip"`
	Joint   string         `json:"joint" doc:"whose angle it is"`
	Angle   float64        `json:"angle" doc:"in the picture at the moment, degrees"`
	Lines   [3][2]float64  `json:"lines" doc:"px, the corner of the angle in the middle"`
	Marks   []Mark         `json:"marks" doc:"px at the moment, landmarks of the whole body"`
	Twin    string         `json:"twin" doc:"the faultless clip of the same athlete and camera"`
	Why     string         `json:"why" doc:"nobody can say"`
	spec    simcam.Spec
}

// Mark is a landmark in the picture.
type Mark struct {
	ID string  `json:"id"`
	X  float64 `json:"x"`
	Y  float64 `json:"y"`
}

// slot is what one scene of the bank is about.
type slot struct {
	sight Sight
	sort  Sort
	take  int
}

// slots are all scenes in the order in which they are drawn: every event has something soon.
func slots() (out []slot) {
	byEvent := map[string][]Sight{}
	for _, s := range sights {
		byEvent[s.Event] = append(byEvent[s.Event], s)
	}
	for take := range 2 {
		for k := range 12 {
			for _, e := range move.Events() {
				if k < len(byEvent[e.ID]) {
					out = append(out, slot{byEvent[e.ID][k], Sized, take})
				}
			}
		}
	}
	for take := range 3 {
		for _, e := range move.Events() {
			list := byEvent[e.ID]
			out = append(out, slot{list[take], Two, take}, slot{list[len(list)-1-take], Dark, take})
		}
	}
	return out
}

// targets are the sizes that two scenes of a fault are drawn at, beside none at all.
var targets = [2][3]float64{{0.2, 0.55, 1}, {0.35, 0.75, 1.3}}

// seedOf is the seed of a slot, by its name alone, so that one more slot changes no other.
func seedOf(name string) uint64 {
	h := uint64(14695981039346656037)
	for _, c := range []byte(name) {
		h = (h ^ uint64(c)) * 1099511628211
	}
	return h
}

// idOf names a clip of a scene; nothing can be read off it, since exercises are named after their clips.
func idOf(name string, level int) string {
	return fmt.Sprintf("%016x", seedOf(fmt.Sprintf("%s-%d", name, level)))
}

// Scenes is how many scenes the bank has.
func Scenes() int { return len(slots()) }

// Scene works out the clips of one scene; their pictures are drawn by [Clip.Draw].
func Scene(n int) ([]Clip, error) {
	s := slots()[n]
	name := fmt.Sprintf("%s-%s-%s-%s-%d", s.sight.Event, s.sight.Variant, s.sight.Dial, s.sort, s.take)
	r := rand.New(rand.NewPCG(seedOf(name), 23))
	e, err := move.Find(s.sight.Event)
	if err != nil {
		return nil, err
	}
	const attempts = 12
	for range attempts {
		spec := specOf(e, s.sight, r)
		var clips []Clip
		var ok bool
		switch s.sort {
		case Sized:
			clips, ok, err = sized(name, e, s, spec)
		case Two:
			clips, ok, err = two(name, e, s, spec)
		case Dark:
			clips, ok, err = dark(name, e, s, spec)
		}
		if err != nil || ok {
			return clips, err
		}
	}
	return nil, fmt.Errorf("no athlete of %d shows %s as it should be", attempts, name)
}

// follows are the events whose camera follows the athlete.
var follows = []string{"running", "javelin", "long-jump", "high-jump", "pole-vault"}

// specOf is an athlete, a way of moving and a camera by chance.
func specOf(e move.Event, s Sight, r *rand.Rand) simcam.Spec {
	between := func(lo, hi float64) float64 { return lo + (hi-lo)*r.Float64() }
	side := func() body.Side { return []body.Side{body.Left, body.Right}[r.IntN(2)] }
	a := body.Person{Sex: []body.Sex{body.Female, body.Male}[r.IntN(2)], Height: math.Round(100*between(1.5, 1.98)) / 100, FrontLeg: side(), ThrowingHand: side(), TakeoffLeg: side()}
	a.Mass = math.Round(between(19, 25) * a.Height * a.Height)
	variant := s.Variant
	if variant == "" {
		var fits []string
		for _, v := range e.Variants {
			for _, sign := range audit.SignsOf(e.ID, v.ID) {
				if sign.Fault == s.Dial {
					fits = append(fits, v.ID)
				}
			}
		}
		variant = fits[r.IntN(len(fits))]
	}
	out := simcam.Spec{
		Event: e.ID, Variant: variant, Athlete: a, Hand: a.ThrowingHand, Leg: a.TakeoffLeg, Faults: map[string]float64{},
		Direction: []float64{1, -1}[r.IntN(2)], CaptureRate: auditRate, FileRate: Rate, Width: Width, Height: Height, Style: 1 + r.Uint64N(1<<40), Seed: r.Uint64N(1 << 30), Kit: r.IntN(8),
		Camera: simcam.Camera{Place: s.Place, Zoom: 0.9, Above: math.Round(10*between(1, 1.8)) / 10, Turned: math.Round(between(-8, 8)), Pan: slices.Contains(follows, e.ID) && s.Place == "side"},
	}
	if e.ID == "running" {
		out.Speed = math.Round(10*between(3.6, 6.5)) / 10
	}
	// One clip in three is as poor as phones make them.
	if r.IntN(3) == 0 {
		out.Camera.Noise, out.Camera.Dim, out.Camera.Shake = between(3, 9), between(0.65, 0.95), between(0, 2)
	}
	return out
}

// sized are clips of one athlete without the fault and with three sizes of it.
func sized(name string, e move.Event, s slot, spec simcam.Spec) ([]Clip, bool, error) {
	d, sign, err := of(e, spec.Variant, s.sight.Dial)
	if err != nil {
		return nil, false, err
	}
	read := func(share float64) (float64, error) {
		dialled := spec
		dialled.Faults = map[string]float64{d.Name: turned(d, share)}
		sc, err := simcam.New(dialled)
		if err != nil {
			return 0, err
		}
		return sign.Of(audit.Of(sc.Truth)), nil
	}
	shares := []float64{0, 0.35, 0.7, 1, 1.4}
	values := make([]float64, len(shares))
	for i, u := range shares {
		if values[i], err = read(u); err != nil {
			return nil, false, err
		}
	}
	edge := sign.High
	if values[3] < values[0] {
		edge = sign.Low
	}
	full := values[3] - edge
	size := func(v float64) float64 { return (v - edge) / full }
	// Faultless inside of the band, and a fault that shows outside of it; anything else says little.
	if math.IsNaN(full) || math.IsInf(full, 0) || values[0] < sign.Low || values[0] > sign.High || size(values[0]) > -margin || math.Abs(full) < 0.25*math.Abs(values[3]-values[0]) {
		return nil, false, nil
	}
	out := []Clip{}
	for level, target := range append([]float64{math.Inf(-1)}, targets[s.take][:]...) {
		share := 0.0
		if level > 0 {
			if share = dialFor(shares, values, edge+target*full); share == 0 {
				continue // further than the dial goes
			}
		}
		v, err := read(share)
		if err != nil {
			return nil, false, err
		}
		if z := size(v); math.IsNaN(z) || (level > 0) != (z > 0) || math.Abs(z) < margin/2 {
			return nil, false, nil
		}
		dialled := spec
		dialled.Faults = map[string]float64{d.Name: turned(d, share)}
		c, ok, err := cut(idOf(name, level), s.sight, dialled)
		if err != nil || !ok {
			return nil, false, err
		}
		c.Sort, c.Size, c.Sign, c.Value, c.Unit, c.Edge, c.Above, c.Twin = Sized, size(v), sign.Says, v, sign.Unit, edge, full > 0, idOf(name, 0)
		out = append(out, c)
	}
	return out, len(out) > 2, nil
}

// margin is how far inside of its band, in sizes, a faultless clip lies.
const margin = 0.1

// dialFor is the share of a dial at which a value is expected, between those that were read; 0 when
// there is none.
func dialFor(shares, values []float64, want float64) float64 {
	for i := 1; i < len(shares); i++ {
		a, b := values[i-1], values[i]
		if a != b && (want-a)*(want-b) <= 0 {
			return shares[i-1] + (shares[i]-shares[i-1])*(want-a)/(b-a)
		}
	}
	return 0
}

// turned is a dial so far from faultless to what shows plainly.
func turned(d move.Dial, share float64) float64 {
	return min(max(d.Clean+share*(d.Shown-d.Clean), d.Min), d.Max)
}

// of finds the dial and the sign of a fault.
func of(e move.Event, variant, dial string) (move.Dial, audit.Sign, error) {
	for _, d := range e.Faults {
		if d.Name != dial || len(d.Variants) > 0 && !slices.Contains(d.Variants, variant) {
			continue
		}
		for _, s := range audit.SignsOf(e.ID, variant) {
			if s.Fault == dial {
				return d, s, nil
			}
		}
	}
	return move.Dial{}, audit.Sign{}, fmt.Errorf("%s %s has no fault %q with a sign", e.ID, variant, dial)
}

// two is a clip with two faults, of which the one that comes first is the cause, and its faultless twin.
func two(name string, e move.Event, s slot, spec simcam.Spec) ([]Clip, bool, error) {
	signs := audit.SignsOf(e.ID, spec.Variant)
	at := slices.IndexFunc(signs, func(x audit.Sign) bool { return x.Fault == s.sight.Dial })
	if at < 0 || len(signs) < 3 {
		return nil, false, nil
	}
	later, absent := signs[(at+1+s.take)%len(signs)], signs[(at+2+s.take)%len(signs)]
	first := signs[at]
	if slices.IndexFunc(signs, func(x audit.Sign) bool { return x.Fault == later.Fault }) < at {
		first, later = later, first
	}
	if first.Fault == later.Fault || absent.Fault == first.Fault || absent.Fault == later.Fault {
		return nil, false, nil
	}
	faults := map[string]float64{}
	for _, f := range []string{first.Fault, later.Fault} {
		d, _, err := of(e, spec.Variant, f)
		if err != nil {
			return nil, false, err
		}
		faults[f] = turned(d, 1)
	}
	both := spec
	both.Faults = faults
	sc, err := simcam.New(both)
	if err != nil {
		return nil, false, err
	}
	seen := audit.Of(sc.Truth)
	if first.Met(seen) || later.Met(seen) || !absent.Met(seen) || earlier(signs, first, seen) {
		return nil, false, nil
	}
	look := slices.IndexFunc(sights, func(x Sight) bool {
		return x.Event == e.ID && x.Dial == first.Fault && (x.Variant == "" || x.Variant == spec.Variant)
	})
	var out []Clip
	for level, dialled := range []simcam.Spec{spec, both} {
		c, ok, err := cut(idOf(name, level), sights[look], dialled)
		if err != nil || !ok {
			return nil, false, err
		}
		c.Sort, c.Twin, c.Sign = Two, idOf(name, 0), first.Says
		for i, f := range []string{later.Fault, absent.Fault} {
			id, ok := faultOf(c, f)
			if !ok {
				return nil, false, nil
			}
			*[]*string{&c.Second, &c.Third}[i] = id
		}
		if level == 1 {
			c.Size = 1
		} else {
			c.Size = -1
		}
		out = append(out, c)
	}
	return out, true, nil
}

// earlier tells whether something shows before a sign.
func earlier(signs []audit.Sign, first audit.Sign, seen audit.Clip) bool {
	for _, s := range signs {
		if s.Fault == first.Fault {
			return false
		}
		if !s.Met(seen) {
			return true
		}
	}
	return false
}

// dark is a clip from which nobody can say: it ends before the moment.
func dark(name string, e move.Event, s slot, spec simcam.Spec) ([]Clip, bool, error) {
	d, _, err := of(e, spec.Variant, s.sight.Dial)
	if err != nil {
		return nil, false, err
	}
	spec.Faults = map[string]float64{d.Name: turned(d, float64(s.take%2))}
	c, ok, err := cutAt(idOf(name, 0), s.sight, spec, -early)
	c.Sort, c.Why = Dark, "The clip ends before the moment comes."
	return []Clip{c}, ok, err
}

// early is how long before the moment a clip ends from which nobody can say, s.
const early = 0.16

// highest is the key position at which a jumper is highest.
const highest = "top"

// until is how long after the moment a clip goes on: a high jump to beyond its highest point.
func until(event string) float64 {
	if event == "high-jump" {
		return 0.85
	}
	return after
}

// cut takes a clip about the moment of a sight.
func cut(id string, s Sight, spec simcam.Spec) (Clip, bool, error) {
	return cutAt(id, s, spec, until(s.Event))
}

func cutAt(id string, s Sight, spec simcam.Spec, on float64) (Clip, bool, error) {
	m, err := move.New(spec.Athlete, move.Wish{Event: spec.Event, Variant: spec.Variant, Faults: spec.Faults, Speed: spec.Speed, Style: spec.Style})
	if err != nil {
		return Clip{}, false, err
	}
	moment, ok := m.Times[s.At]
	if !ok {
		return Clip{}, false, nil
	}
	spec.CaptureRate = Rate
	// What ends early begins earlier by as much, so that its length tells nothing.
	from := max(0, moment-m.First-before-(until(s.Event)-on))
	spec.Camera.Late, spec.Camera.Early = min(5, from), max(0, m.Last-moment-on)
	if spec.Camera.Early > 5 {
		return Clip{}, false, nil
	}
	sc, err := simcam.New(spec)
	if err != nil {
		return Clip{}, false, nil //nolint:nilerr // nothing is left of so short a movement: another athlete
	}
	t := sc.Truth
	c := Clip{ID: id, Event: spec.Event, Variant: spec.Variant, View: spec.View(), Watch: s.Watch, Frames: len(t.Frames), Moments: sharp(t), spec: spec}
	if c.Fault, ok = faultOf(c, s.Dial); !ok {
		return Clip{}, false, nil
	}
	c.At, ok = t.Positions[s.At]
	if on < 0 {
		return c, !ok, nil
	}
	if !ok {
		return Clip{}, false, nil
	}
	_, c.Joint, _ = strings.Cut(s.Joint[1], "_")
	f := t.Frames[c.At]
	for i, part := range s.Joint {
		if spec.Mirrored() {
			part = other(part)
		}
		c.Lines[i] = f.Landmarks[part].Image
	}
	p := func(i int) r2.Vec { return r2.Vec{X: c.Lines[i][0], Y: c.Lines[i][1]} }
	c.Angle = angles.Included(p(0), p(1), p(2))
	for _, id := range body.Landmarks() {
		l := f.Landmarks[id].Image
		c.Marks = append(c.Marks, Mark{id, math.Round(10*l[0]) / 10, math.Round(10*l[1]) / 10})
	}
	return c, true, nil
}

// sharp keeps moments that a picture shows: a foot that comes down or leaves, an implement that leaves, the
// highest point of a jump. Who throws from the stand has feet down that a turn would bring down.
func sharp(t simcam.Truth) map[string]int {
	out := map[string]int{}
	for id, f := range t.Positions {
		if f == 0 {
			continue
		}
		before, now := len(t.Frames[f-1].Contacts), len(t.Frames[f].Contacts)
		if Lands(id) && now > before || Leaves(id) && now < before || id == "release" || id == highest && spotted(t, f) {
			out[id] = f
		}
	}
	return out
}

// Asked are the moments of a clip that can be asked for without leaving open which is meant.
func (c Clip) Asked() []string {
	var out []string
	for _, id := range slices.Sorted(maps.Keys(c.Moments)) {
		alike := 0
		for other := range c.Moments {
			if Lands(id) == Lands(other) && Leaves(id) == Leaves(other) {
				alike++
			}
		}
		if alike == 1 {
			out = append(out, id)
		}
	}
	return out
}

// spotted tells whether the highest point lies well inside of a clip.
func spotted(t simcam.Truth, f int) bool { return f > 2 && f < len(t.Frames)-5 }

// numbered tells whether an id is a word and a number, such as td2.
func numbered(id, word string) bool {
	rest, ok := strings.CutPrefix(id, word)
	return ok && len(rest) == 1 && rest[0] >= '1' && rest[0] <= '9'
}

// Lands tells whether a foot comes down at a key position.
func Lands(id string) bool {
	return numbered(id, "td") || numbered(id, "catch") || slices.Contains([]string{"td", "td_before", "pen", "plant", "pre", "centre", "front", "last", "block"}, id)
}

// Leaves tells whether a foot leaves the ground at a key position.
func Leaves(id string) bool {
	return numbered(id, "to") || numbered(id, "lift") || strings.HasSuffix(id, "_off") && id != "push_off" || slices.Contains([]string{"to", "clear"}, id)
}

func other(part string) string {
	if rest, ok := strings.CutPrefix(part, "left_"); ok {
		return "right_" + rest
	}
	rest, _ := strings.CutPrefix(part, "right_")
	return "left_" + rest
}

// faultOf is the fault of the model that a dial stands for.
func faultOf(c Clip, dial string) (string, bool) {
	return points.FaultOf(c.Event, c.Variant, dial, c.spec.Mirrored())
}

// Draw draws a clip's pictures beside and below each other into one JPEG; each asks first whether to go
// on.
func (c Clip) Draw(goOn func() error) ([]byte, error) {
	sc, err := simcam.New(c.spec)
	if err != nil {
		return nil, err
	}
	draw := sc.Pictures()
	rows := (c.Frames + Columns - 1) / Columns
	sheet := image.NewRGBA(image.Rect(0, 0, Columns*Width, rows*Height))
	for n := range c.Frames {
		if err := goOn(); err != nil {
			return nil, err
		}
		pic := draw(n)
		x0, y0 := n%Columns*Width, n/Columns*Height
		for y := range Height {
			o := sheet.PixOffset(x0, y0+y)
			for x := range Width {
				q := 3 * (y*Width + x)
				sheet.Pix[o+4*x], sheet.Pix[o+4*x+1], sheet.Pix[o+4*x+2], sheet.Pix[o+4*x+3] = pic[q], pic[q+1], pic[q+2], 255
			}
		}
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, sheet, &jpeg.Options{Quality: quality})
	return out.Bytes(), err
}
