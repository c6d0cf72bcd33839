package inference

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// onnxModel is a graph in ONNX form with the names by which it is run.
type onnxModel struct {
	raw     []byte
	input   string
	outputs []string
}

// converter walks a graph from its outputs back to what they need. TensorFlow lays
// pictures out by row, column and channel, ONNX's convolutions by channel, row and
// column: each tensor is kept in the layout in which it was made and turned only where
// an operation needs the other.
type converter struct {
	nodes     map[string]*node
	constants map[string]constant
	visited   map[string]bool
	rows      map[string]string // tensor of the graph -> ONNX tensor laid out by rows
	channels  map[string]string // the same, by channels
	types     map[string]element
	written   map[string]bool
	weights   []message
	steps     []message
	names     int
}

// convert turns a TensorFlow.js graph model into ONNX, as far as the outputs need it.
// The input becomes the bytes of a picture; where the graph wants numbers, they are from
// 0 to 1.
func convert(modelJSON, bin []byte, outputs ...string) (m onnxModel, err error) {
	defer func() {
		if r := recover(); r != nil {
			m, err = onnxModel{}, fmt.Errorf("a model could not be read: %v", r)
		}
	}()
	var g graph
	if err := json.Unmarshal(modelJSON, &g); err != nil {
		return m, err
	}
	c := &converter{nodes: map[string]*node{}, visited: map[string]bool{}, rows: map[string]string{}, channels: map[string]string{}, types: map[string]element{}, written: map[string]bool{}}
	for _, n := range g.Topology.Nodes {
		c.nodes[n.Name] = n
	}
	if c.constants, err = g.constants(bin); err != nil {
		return m, err
	}
	var whole message
	input, encoded := c.input(g.Topology.Nodes)
	m.input = input
	var last []message
	for _, o := range outputs {
		from := c.asRows(o)
		name := o + "/out"
		c.emit("Identity", []string{from}, []string{name}, c.types[from])
		last = append(last, encodeValue(name, c.types[from], nil))
		m.outputs = append(m.outputs, name)
	}
	for _, s := range c.steps {
		whole.bytes(1, s)
	}
	whole.text(2, "graph")
	for _, w := range c.weights {
		whole.bytes(5, w)
	}
	whole.bytes(11, encoded)
	for _, o := range last {
		whole.bytes(12, o)
	}
	m.raw = encodeModel(whole)
	return m, nil
}

func elementOf(name string) element {
	switch name {
	case "DT_FLOAT", "":
		return float32s
	case "DT_INT32", "DT_INT64": // indices are small
		return int32s
	case "DT_BOOL":
		return bools
	case "DT_UINT8":
		return bytes8
	}
	panic("elements " + name)
}

// input makes the one placeholder of a graph the bytes of a picture.
func (c *converter) input(nodes []*node) (name string, encoded message) {
	i := slices.IndexFunc(nodes, func(n *node) bool { return n.Op == "Placeholder" })
	if i < 0 {
		panic("no input")
	}
	n := nodes[i]
	shape := []int64{1}
	for _, d := range n.Attr["shape"].Shape.Dim[1:] {
		shape = append(shape, whole(d.Size))
	}
	c.types[n.Name] = bytes8
	wanted := elementOf(n.Attr["dtype"].Type)
	x := c.cast(n.Name, wanted)
	if wanted == float32s {
		x = c.step("Mul", n.Name, float32s, []string{x, c.float(1.0 / 255)})
	}
	c.rows[n.Name], c.visited[n.Name] = x, true
	return n.Name, encodeValue(n.Name, bytes8, shape)
}

// emit writes an operation with the names of its results.
func (c *converter) emit(op string, in, out []string, e element, attributes ...attribute) {
	c.steps = append(c.steps, encodeNode(op, out[0], in, out, attributes))
	for _, o := range out {
		c.types[o] = e
	}
}

// name makes a name that nothing has yet.
func (c *converter) name(base string) string {
	c.names++
	return fmt.Sprintf("%s/t%d", base, c.names)
}

// step writes an operation with one result and gives its name.
func (c *converter) step(op, base string, e element, in []string, attributes ...attribute) string {
	out := c.name(base)
	c.emit(op, in, []string{out}, e, attributes...)
	return out
}

func (c *converter) cast(tensor string, to element) string {
	if c.types[tensor] == to {
		return tensor
	}
	return c.step("Cast", tensor, to, []string{tensor}, attribute{"to", to})
}

// weight writes a constant once and gives its name.
func (c *converter) weight(name string, e element, shape []int64, raw []byte) string {
	if !c.written[name] {
		c.written[name] = true
		c.weights = append(c.weights, encodeTensor(name, e, shape, raw))
		c.types[name] = e
	}
	return name
}

func (c *converter) float(v float32) string {
	return c.weight(fmt.Sprintf("float/%v", v), float32s, []int64{1}, rawFloats([]float32{v}))
}

func (c *converter) longs(v ...int64) string {
	return c.weight("longs/"+strings.Trim(strings.ReplaceAll(fmt.Sprint(v), " ", "_"), "[]"), int64s, []int64{int64(len(v))}, rawLongs(v))
}

// plain is a tensor's name without the number of a first result.
func plain(t string) string { return strings.TrimSuffix(t, ":0") }

// constant is the value of a tensor that is known beforehand.
func (c *converter) constant(t string) (constant, bool) {
	t = plain(t)
	for c.nodes[t] != nil && c.nodes[t].Op == "Identity" {
		t = plain(c.nodes[t].Inputs[0])
	}
	k, ok := c.constants[t]
	return k, ok
}

// ints are the whole numbers of a tensor that must be known beforehand.
func (c *converter) ints(t string) (out []int64) {
	k, ok := c.constant(t)
	if !ok || k.ints == nil {
		panic(t + " is not known beforehand")
	}
	for _, v := range k.ints {
		out = append(out, int64(v))
	}
	return out
}

// asRows is the ONNX tensor of a graph's tensor, laid out as TensorFlow has it.
func (c *converter) asRows(t string) string {
	t = plain(t)
	if k, ok := c.constant(t); ok {
		switch {
		case k.floats != nil:
			return c.weight("rows/"+t, float32s, k.shape, rawFloats(k.floats))
		case k.truths:
			raw := make([]byte, len(k.ints))
			for i, v := range k.ints {
				raw[i] = byte(v)
			}
			return c.weight("rows/"+t, bools, k.shape, raw)
		}
		return c.weight("rows/"+t, int32s, k.shape, rawInts(k.ints))
	}
	c.visit(t)
	if _, ok := c.rows[t]; !ok {
		from, ok := c.channels[t]
		if !ok {
			panic("no tensor " + t)
		}
		c.rows[t] = c.step("Transpose", t, c.types[from], []string{from}, attribute{"perm", []int64{0, 2, 3, 1}})
	}
	return c.rows[t]
}

// asChannels is the same tensor, which has four dimensions, laid out by channels.
func (c *converter) asChannels(t string) string {
	t = plain(t)
	if k, ok := c.constant(t); ok {
		switch {
		case len(k.shape) == 0:
			return c.asRows(t)
		case len(k.shape) == 1 && k.floats != nil:
			return c.weight("channels/"+t, float32s, []int64{k.shape[0], 1, 1}, rawFloats(k.floats))
		case len(k.shape) == 4 && k.floats != nil:
			return c.weight("channels/"+t, float32s, []int64{k.shape[0], k.shape[3], k.shape[1], k.shape[2]}, rawFloats(permuted(k.floats, k.shape, 0, 3, 1, 2)))
		}
		panic("the shape of " + t)
	}
	c.visit(t)
	if _, ok := c.channels[t]; !ok {
		from, ok := c.rows[t]
		if !ok {
			panic("no tensor " + t)
		}
		c.channels[t] = c.step("Transpose", t, c.types[from], []string{from}, attribute{"perm", []int64{0, 3, 1, 2}})
	}
	return c.channels[t]
}

// byChannels tells whether a tensor was made in the layout by channels, or needs no
// turning to be in it.
func (c *converter) byChannels(t string) bool {
	t = plain(t)
	if _, ok := c.constant(t); ok {
		return false
	}
	c.visit(t)
	_, ok := c.channels[t]
	return ok
}

// permuted is a tensor with its dimensions in another order.
func permuted(list []float32, shape []int64, order ...int) []float32 {
	stride := make([]int64, len(shape))
	s := int64(1)
	for i := len(shape) - 1; i >= 0; i-- {
		stride[i] = s
		s *= shape[i]
	}
	out := make([]float32, 0, len(list))
	index := make([]int64, len(shape))
	for range list {
		var at int64
		for d, p := range order {
			at += index[d] * stride[p]
		}
		out = append(out, list[at])
		for d := len(order) - 1; d >= 0; d-- {
			if index[d]++; index[d] < shape[order[d]] {
				break
			}
			index[d] = 0
		}
	}
	return out
}

// visit converts the operation that makes a tensor, once.
func (c *converter) visit(t string) {
	name, _, _ := strings.Cut(t, ":")
	if c.visited[name] {
		return
	}
	n := c.nodes[name]
	if n == nil {
		panic("no operation " + name)
	}
	c.visited[name] = true
	var in []string
	for _, s := range n.Inputs {
		if !strings.HasPrefix(s, "^") { // only order, no value
			in = append(in, plain(s))
		}
	}
	c.operation(n, in)
}
