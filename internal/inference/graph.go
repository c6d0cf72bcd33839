package inference

import (
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// graph is a TensorFlow.js graph model as it comes in model.json.
type graph struct {
	Topology struct {
		Nodes []*node `json:"node"`
	} `json:"modelTopology"`
	Manifest []struct {
		Weights []struct {
			Name  string  `json:"name"`
			Shape []int64 `json:"shape"`
			Type  string  `json:"dtype"`
			Quant *struct {
				Type string `json:"dtype"`
			} `json:"quantization"`
		} `json:"weights"`
	} `json:"weightsManifest"`
}

// node is one operation.
type node struct {
	Name   string           `json:"name"`
	Op     string           `json:"op"`
	Inputs []string         `json:"input"`
	Attr   map[string]value `json:"attr"`
}

// value is an attribute; whole numbers come as text, texts as base 64.
type value struct {
	S     *string         `json:"s"`
	I     json.RawMessage `json:"i"`
	B     *bool           `json:"b"`
	Type  string          `json:"type"`
	Shape *struct {
		Dim []struct {
			Size json.RawMessage `json:"size"`
		} `json:"dim"`
	} `json:"shape"`
	List *struct {
		S []string          `json:"s"`
		I []json.RawMessage `json:"i"`
	} `json:"list"`
}

func whole(raw json.RawMessage) int64 {
	n, err := strconv.ParseInt(strings.Trim(string(raw), `"`), 10, 64)
	if err != nil {
		panic("a number reads " + string(raw))
	}
	return n
}

func decoded(s string) string {
	if b, err := base64.StdEncoding.DecodeString(s); err == nil {
		return string(b)
	}
	return s
}

func (n *node) text(key string) string {
	if v, ok := n.Attr[key]; ok && v.S != nil {
		return decoded(*v.S)
	}
	return ""
}

func (n *node) int(key string) int64 {
	if v, ok := n.Attr[key]; ok && v.I != nil {
		return whole(v.I)
	}
	return 0
}

func (n *node) is(key string) bool {
	v, ok := n.Attr[key]
	return ok && v.B != nil && *v.B
}

func (n *node) ints(key string) (out []int64) {
	if v, ok := n.Attr[key]; ok && v.List != nil {
		for _, raw := range v.List.I {
			out = append(out, whole(raw))
		}
	}
	return out
}

func (n *node) texts(key string) (out []string) {
	if v, ok := n.Attr[key]; ok && v.List != nil {
		for _, s := range v.List.S {
			out = append(out, decoded(s))
		}
	}
	return out
}

// constant is a tensor of weights: floats, or whole numbers, which may be truths.
type constant struct {
	shape  []int64
	floats []float32
	ints   []int32
	truths bool
}

// constants reads the weights in the order of the manifest.
func (g *graph) constants(bin []byte) (map[string]constant, error) {
	out := map[string]constant{}
	at := 0
	take := func(n int) []byte {
		if n < 0 || at+n > len(bin) {
			panic("the weights end too early")
		}
		at += n
		return bin[at-n : at]
	}
	for _, group := range g.Manifest {
		for _, w := range group.Weights {
			c := constant{shape: w.Shape}
			size := 1
			for _, d := range w.Shape {
				size *= int(d)
			}
			kind := w.Type
			if w.Quant != nil {
				kind += " as " + w.Quant.Type
			}
			switch kind {
			case "float32 as float16":
				c.floats = make([]float32, size)
				for i := range c.floats {
					c.floats[i] = half(binary.LittleEndian.Uint16(take(2)))
				}
			case "float32":
				c.floats = make([]float32, size)
				for i := range c.floats {
					c.floats[i] = math.Float32frombits(binary.LittleEndian.Uint32(take(4)))
				}
			case "int32":
				c.ints = make([]int32, size)
				for i := range c.ints {
					c.ints[i] = int32(binary.LittleEndian.Uint32(take(4)))
				}
			case "bool":
				c.ints, c.truths = make([]int32, size), true
				for i := range c.ints {
					c.ints[i] = int32(take(1)[0])
				}
			default:
				return nil, fmt.Errorf("weights %s are %s", w.Name, kind)
			}
			out[w.Name] = c
		}
	}
	if at != len(bin) {
		return nil, fmt.Errorf("%d bytes of weights were read of %d", at, len(bin))
	}
	return out, nil
}

// half is a number of 16 bits (IEEE 754 binary16).
func half(h uint16) float32 {
	sign, exponent, fraction := uint32(h>>15)<<31, uint32(h>>10)&31, uint32(h&1023)
	switch exponent {
	case 0:
		v := float32(fraction) / (1 << 24)
		return math.Float32frombits(math.Float32bits(v) | sign)
	case 31:
		return math.Float32frombits(sign | 0x7f800000 | fraction<<13)
	}
	return math.Float32frombits(sign | (exponent+112)<<23 | fraction<<13)
}
