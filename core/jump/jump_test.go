package jump_test

import (
	"errors"
	"math"
	"testing"

	"neokinema/core/jump"
	"neokinema/core/uncertainty"
)

func exact(v float64) uncertainty.Estimate     { return uncertainty.Normal(v, 0) }
func about(v, sd float64) uncertainty.Estimate { return uncertainty.Normal(v, sd) }

const deg = math.Pi / 180

// 7.0 m/s on a radius of 9 m is a lean of 29.0 degrees, and back; half the doubt of the speed
// counts double.
func TestLean(t *testing.T) {
	lean := jump.Lean(about(7, 0.1), exact(9))
	if math.Abs(lean.Value/deg-29.04) > 0.05 {
		t.Errorf("%.2f degrees", lean.Value/deg)
	}
	// d(lean)/dv = 2 sin cos / v
	if want := 2 * math.Sin(lean.Value) * math.Cos(lean.Value) / 7 * 0.1; math.Abs(lean.SD-want) > 0.02*want {
		t.Errorf("doubt %.4f, by hand %.4f", lean.SD, want)
	}
	if r := jump.Radius(exact(7), lean); math.Abs(r.Value-9) > 1e-9 {
		t.Errorf("back: %.3f m", r.Value)
	}
}

// A centre of mass at 1.30 m that leaves at 4.2 m/s rises 0.90 m: 2.20 m, 5 cm over a bar of
// 2.15 m.
func TestHighParts(t *testing.T) {
	p := jump.HighParts(about(1.30, 0.02), about(4.2, 0.1), 2.15)
	if math.Abs(p.Rise.Value-0.8994) > 1e-3 || math.Abs(p.Clearance.Value-0.0494) > 1e-3 {
		t.Errorf("%+v", p)
	}
	// 0.1 m/s is vz/g * 0.1 = 4.3 cm.
	if want := math.Hypot(0.02, 4.2/9.80665*0.1); math.Abs(p.Clearance.SD-want) > 0.001 {
		t.Errorf("doubt %.3f, by hand %.3f", p.Clearance.SD, want)
	}
}

// A take-off of 8.5 m/s at 20 degrees, from 1.25 m down to 0.65 m: the flight by the closed
// form, with 5 cm lost before the board, 0.35 m ahead and heels 0.55 m on.
func TestLongParts(t *testing.T) {
	to := jump.TakeOff{Toe: exact(0.05), Ahead: exact(0.35), Speed: about(8.5, 0.1), Angle: exact(20 * deg), Height: exact(1.25), Landing: exact(0.65), Heels: exact(0.55)}
	p, err := to.Parts()
	if err != nil {
		t.Fatal(err)
	}
	s, c := math.Sincos(20 * deg)
	flown := 8.5 * c / 9.80665 * (8.5*s + math.Sqrt(8.5*8.5*s*s+2*9.80665*0.6))
	if math.Abs(p.Flown.Value-flown) > 1e-9 || math.Abs(p.Total.Value-(0.30+flown+0.55)) > 1e-9 {
		t.Errorf("%+v, flown %.4f", p, flown)
	}
	if math.Abs(p.Air.Value-flown/(8.5*c)) > 1e-9 {
		t.Errorf("in the air %.3f s", p.Air.Value)
	}
	faster, err := to.Worth(func(t *jump.TakeOff) { t.Speed.Value += 0.1 })
	if err != nil || faster < 0.1 || faster > 0.16 {
		t.Errorf("0.1 m/s is worth %.3f m (%v)", faster, err)
	}
	to.Height, to.Angle = exact(0.1), exact(-20*deg)
	to.Landing = exact(3)
	if _, err := to.Parts(); !errors.Is(err, jump.ErrNoFlight) {
		t.Errorf("a jump that never lands: %v", err)
	}
}

// 9.5 m/s lifts a centre of mass from 1.0 m to 5.60 m.
func TestVaultBound(t *testing.T) {
	if h := jump.VaultBound(exact(1), exact(9.5)); math.Abs(h.Value-5.6015) > 1e-3 {
		t.Errorf("%.3f m", h.Value)
	}
}
