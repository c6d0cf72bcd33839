package inference

import (
	"errors"
	"math"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"neokinema/core/pose"
)

// weights are those that the browser gets, library what runs them; ./neo puts both there.
const (
	weights = "../../web/public"
	library = "../../build/" + Library
)

func networks(t *testing.T) *Networks {
	t.Helper()
	n, err := Open(library, os.DirFS(weights))
	if err != nil {
		t.Fatal(err)
	}
	return n
}

// A made-up square: waves that no network has seen.
func square() []byte {
	b := make([]byte, 3*256*256)
	for i := range b {
		x, y := float64(i/3%256), float64(i/3/256)
		b[i] = byte(128 + 90*math.Sin(x/(9+float64(i%3)))*math.Cos(y/13))
	}
	return b
}

// Several goroutines run the networks at once and get what one gets alone.
func TestNetworksAreSharedByWorkers(t *testing.T) {
	n := networks(t)
	if again := networks(t); again != n {
		t.Error("the networks were opened twice")
	}
	in := square()
	want := map[pose.Network][]float32{}
	first, err := n.Worker()
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range pose.Specs() {
		out, err := first.Run(s.Network, in)
		if err != nil {
			t.Fatal(err)
		}
		size := int64(1)
		for _, d := range s.Shape {
			size *= d
		}
		if int64(len(out)) != size {
			t.Errorf("%s answers %d numbers, not %d", s.Network, len(out), size)
		}
		want[s.Network] = append([]float32(nil), out...)
	}
	first.Close()
	var wg sync.WaitGroup
	for range 3 {
		wg.Go(func() {
			w, err := n.Worker()
			if err != nil {
				t.Error(err)
				return
			}
			defer w.Close()
			for range 2 {
				for name, list := range want {
					out, err := w.Run(name, in)
					if err != nil {
						t.Error(err)
						return
					}
					for i := range list {
						if out[i] != list[i] {
							t.Errorf("%s: number %d is %g, alone %g", name, i, out[i], list[i])
							return
						}
					}
				}
			}
		})
	}
	wg.Wait()
	w, err := n.Worker()
	if err != nil {
		t.Fatal(err)
	}
	defer w.Close()
	if _, err := w.Run("shoes", in); err == nil {
		t.Error("a network that there is not")
	}
	if _, err := w.Run(pose.Joints, in[:10]); err == nil {
		t.Error("a square that is too small")
	}
}

// What cannot be opened says so before any clip is touched.
func TestWhatIsNotThere(t *testing.T) {
	if err := Check(filepath.Join(t.TempDir(), Library)); err == nil {
		t.Error("no library")
	}
	if Check("") == nil {
		t.Error("no name")
	}
	if err := Check(library); err != nil {
		t.Error(err)
	}
	if errors.Is(Check(library), ErrNotBuilt) {
		t.Error("built without C")
	}
}

// Damaged models are refused with words, whatever is wrong with them.
func TestDamagedModels(t *testing.T) {
	graph, err := os.ReadFile(weights + "/pose/movenet-thunder.json")
	if err != nil {
		t.Fatal(err)
	}
	bin, err := os.ReadFile(weights + "/pose/movenet-thunder.bin")
	if err != nil {
		t.Fatal(err)
	}
	for what, q := range map[string]struct {
		graph, bin []byte
		output     string
	}{
		"cut weights":     {graph, bin[:len(bin)/2], "Identity"},
		"too many":        {graph, append([]byte{1}, bin...), "Identity"},
		"cut graph":       {graph[:len(graph)/2], bin, "Identity"},
		"no such output":  {graph, bin, "Identity_9"},
		"nothing":         {nil, nil, "Identity"},
		"an empty graph":  {[]byte(`{}`), nil, "Identity"},
		"an odd op":       {[]byte(`{"modelTopology":{"node":[{"name":"x","op":"Placeholder","attr":{"dtype":{"type":"DT_FLOAT"},"shape":{"shape":{"dim":[{"size":"1"},{"size":"4"}]}}}},{"name":"y","op":"Odd","input":["x"]}]}}`), nil, "y"},
		"without a shape": {[]byte(`{"modelTopology":{"node":[{"name":"x","op":"Placeholder"}]}}`), nil, "x"},
	} {
		if _, err := convert(q.graph, q.bin, q.output); err == nil {
			t.Errorf("%s: no error", what)
		}
	}
}

// Numbers of 16 bits against values of IEEE 754-2008, binary16.
func TestHalf(t *testing.T) {
	for bits, want := range map[uint16]float64{
		0x0000: 0, 0x3c00: 1, 0xc000: -2, 0x7bff: 65504, 0x0400: math.Pow(2, -14), 0x0001: math.Pow(2, -24), 0x3555: 0.333251953125, 0x7c00: math.Inf(1), 0xfc00: math.Inf(-1),
	} {
		if got := float64(half(bits)); got != want {
			t.Errorf("%04x is %g, not %g", bits, got, want)
		}
	}
	if !math.Signbit(float64(half(0x8000))) {
		t.Error("the negative zero")
	}
}
