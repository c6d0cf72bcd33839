package audiosync_test

import (
	"encoding/binary"
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/audiosync"
	"neokinema/core/body"
	"neokinema/simcam"
)

// heard is what a simulated camera's microphone takes of a throw.
func heard(t *testing.T, event, place string, rate, late float64, seed uint64) []float64 {
	t.Helper()
	s := simcam.Spec{Event: event, Camera: simcam.Camera{Place: place, Late: late, Sound: true}, Direction: 1, CaptureRate: rate, FileRate: 30, Width: 640, Height: 360, Seed: seed, Athlete: body.Person{Sex: body.Male, Height: 1.84}}
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	wav := sc.Sound()
	samples := make([]float64, (len(wav)-44)/2)
	for i := range samples {
		samples[i] = float64(int16(binary.LittleEndian.Uint16(wav[44+2*i:]))) / 32768
	}
	return audiosync.Listen(samples, float64(binary.LittleEndian.Uint32(wav[24:])), 0).Onsets(rate / 30)
}

// Two cameras at unlike rates, one started later: the lag of the sound is that of the
// start, to half a frame at 240/s, once the way of the sound is taken off.
func TestLagOfTwoCameras(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, event := range []string{"hammer", "discus", "shot", "javelin"} {
		for i, late := range []float64{0.1037, 0.35, 0.0123} {
			a, b := heard(t, event, "back", 240, 0, uint64(i+1)), heard(t, event, "back", 120, late, uint64(i+20))
			got, err := audiosync.Lag(a, b)
			if err != nil || math.Abs(got+late) > 0.5/240 {
				t.Errorf("%s, %g s later: lag %.4f, %v", event, late, got, err)
			}
			back, err := audiosync.Lag(b, a)
			if err != nil || math.Abs(back+got) > 1e-6 {
				t.Errorf("%s: the other way round %.4f, %v", event, back, err)
			}
		}
	}
}

// Another attempt's sound, silence and hiss are refused.
func TestLagRefuses(t *testing.T) {
	a := heard(t, "hammer", "back", 240, 0, 1)
	if v, err := audiosync.Lag(a, make([]float64, 900)); !errors.Is(err, audiosync.ErrSilent) {
		t.Errorf("silence: %g, %v", v, err)
	}
	r := rand.New(rand.NewPCG(1, 1))
	hiss := make([]float64, 20000)
	for i := range hiss {
		hiss[i] = r.NormFloat64()
	}
	if v, err := audiosync.Lag(a, audiosync.Listen(hiss, 8000, 0).Onsets(1)); !errors.Is(err, audiosync.ErrUnlike) {
		t.Errorf("hiss: %g, %v", v, err)
	}
	if len(audiosync.Listen(nil, 8000, 0).Onsets(1)) != 1 || len(audiosync.Listen(make([]float64, 80), 8000, -1).Onsets(1)) != 0 || (audiosync.Loudness{1}).Onsets(0) != nil {
		t.Error("onsets of nothing")
	}
}

// A click is where it is: in the step of its time, with the delay of the first sample
// counted.
func TestOnsets(t *testing.T) {
	for _, first := range []float64{0, 0.25, -0.02} {
		s := make([]float64, 4000)
		for i := 2000; i < 2100; i++ {
			s[i] = 0.5
		}
		on := audiosync.Listen(s, 8000, first).Onsets(1)
		best := 0
		for i, v := range on {
			if v > on[best] {
				best = i
			}
		}
		if want := first + 0.25; math.Abs(float64(best)*0.001-want) > 0.003 {
			t.Errorf("first sample at %g s: onset at %d ms", first, best)
		}
	}
}

func BenchmarkLag(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 1))
	long := make([]float64, 60000)
	for i := range long {
		long[i] = math.Abs(r.NormFloat64())
	}
	for b.Loop() {
		_, _ = audiosync.Lag(long, long[:40000])
	}
}
