package inference

import (
	"fmt"
	"math"
)

// Operations that work on each element: TensorFlow's name to ONNX's. A zero element
// means that of the inputs.
var elementwise = map[string]struct {
	op     string
	result element
}{
	"Relu": {"Relu", 0}, "Sigmoid": {"Sigmoid", 0}, "Abs": {"Abs", 0}, "Exp": {"Exp", 0}, "Sqrt": {"Sqrt", 0}, "Reciprocal": {"Reciprocal", 0}, "Identity": {"Identity", 0}, "Neg": {"Neg", 0},
	"AddV2": {"Add", 0}, "Add": {"Add", 0}, "Sub": {"Sub", 0}, "Mul": {"Mul", 0}, "RealDiv": {"Div", 0}, "Maximum": {"Max", 0}, "Minimum": {"Min", 0},
	"Less": {"Less", bools}, "Greater": {"Greater", bools}, "GreaterEqual": {"GreaterOrEqual", bools}, "LessEqual": {"LessOrEqual", bools}, "Equal": {"Equal", bools}, "LogicalAnd": {"And", bools}, "LogicalOr": {"Or", bools},
}

// operation converts one operation of a graph.
func (c *converter) operation(n *node, in []string) {
	if e, ok := elementwise[n.Op]; ok {
		c.each(n, e.op, e.result, in)
		return
	}
	set := func(tensor string) { c.rows[n.Name] = tensor }
	switch n.Op {
	case "_FusedConv2D", "Conv2D":
		c.convolution(n, in, false)
	case "FusedDepthwiseConv2dNative", "DepthwiseConv2dNative":
		c.convolution(n, in, true)
	case "Conv2DBackpropInput":
		c.transposedConvolution(n, in)
	case "MaxPool":
		c.channels[n.Name] = c.step("MaxPool", n.Name, float32s, []string{c.asChannels(in[0])},
			append(padding(n), attribute{"strides", n.ints("strides")[1:3]}, attribute{"kernel_shape", n.ints("ksize")[1:3]})...)
	case "Relu6":
		get, put := c.layout(c.byChannels(in[0]))
		put[n.Name] = c.step("Clip", n.Name, float32s, []string{get(in[0]), c.float(0), c.float(6)})
	case "ResizeBilinear":
		c.resize(n, in)
	case "DepthToSpace":
		c.channels[n.Name] = c.step("DepthToSpace", n.Name, float32s, []string{c.asChannels(in[0])}, attribute{"blocksize", n.int("block_size")}, attribute{"mode", "DCR"})
	case "Pad":
		c.pad(n, in)
	case "Cast":
		set(c.cast(c.asRows(in[0]), elementOf(n.Attr["DstT"].Type)))
	case "AddN":
		sum := c.asRows(in[0])
		for _, t := range in[1:] {
			sum = c.step("Add", n.Name, c.types[sum], []string{sum, c.asRows(t)})
		}
		set(sum)
	case "SquaredDifference":
		x := c.asRows(in[0])
		d := c.step("Sub", n.Name, c.types[x], []string{x, c.asRows(in[1])})
		set(c.step("Mul", n.Name, c.types[x], []string{d, d}))
	case "FloorDiv":
		x := c.asRows(in[0])
		d := c.step("Div", n.Name, c.types[x], []string{x, c.asRows(in[1])})
		if c.types[x] == float32s {
			d = c.step("Floor", n.Name, float32s, []string{d})
		}
		set(d)
	case "Unpack":
		c.split(n, c.asRows(in[0]), n.int("axis"), n.int("num"), true)
	case "Split":
		c.split(n, c.asRows(in[1]), c.ints(in[0])[0], n.int("num_split"), false)
	case "ExpandDims":
		x := c.asRows(in[0])
		set(c.step("Unsqueeze", n.Name, c.types[x], []string{x, c.longs(c.ints(in[1])...)}))
	case "Squeeze":
		x := c.asRows(in[0])
		args := []string{x}
		if d := n.ints("squeeze_dims"); len(d) > 0 {
			args = append(args, c.longs(d...))
		}
		set(c.step("Squeeze", n.Name, c.types[x], args))
	case "Reshape":
		x := c.asRows(in[0])
		set(c.step("Reshape", n.Name, c.types[x], []string{x, c.sizes(in[1])}))
	case "ArgMax":
		set(c.cast(c.step("ArgMax", n.Name, int64s, []string{c.asRows(in[0])}, attribute{"axis", c.ints(in[1])[0]}, attribute{"keepdims", int64(0)}), int32s))
	case "Pack":
		var parts []string
		for _, t := range in {
			x := c.asRows(t)
			parts = append(parts, c.step("Unsqueeze", n.Name, c.types[x], []string{x, c.longs(n.int("axis"))}))
		}
		set(c.step("Concat", n.Name, c.types[parts[0]], parts, attribute{"axis", n.int("axis")}))
	case "ConcatV2":
		c.concat(n, in)
	case "GatherNd":
		x := c.asRows(in[0])
		set(c.step("GatherND", n.Name, c.types[x], []string{x, c.cast(c.asRows(in[1]), int64s)}))
	case "Shape", "Size":
		set(c.cast(c.step(n.Op, n.Name, int64s, []string{c.asRows(in[0])}), int32s))
	case "StridedSlice":
		c.slice(n, in)
	case "Tile":
		x := c.asRows(in[0])
		set(c.step("Tile", n.Name, c.types[x], []string{x, c.cast(c.asRows(in[1]), int64s)}))
	case "Fill":
		v := c.asRows(in[1])
		set(c.step("Expand", n.Name, c.types[v], []string{v, c.sizes(in[0])}))
	case "Range":
		a := c.asRows(in[0])
		set(c.step("Range", n.Name, c.types[a], []string{a, c.asRows(in[1]), c.asRows(in[2])}))
	case "Select", "SelectV2":
		x := c.asRows(in[1])
		set(c.step("Where", n.Name, c.types[x], []string{c.asRows(in[0]), x, c.asRows(in[2])}))
	case "Max", "Sum":
		x := c.asRows(in[0])
		keep := int64(0)
		if n.is("keep_dims") {
			keep = 1
		}
		set(c.step("Reduce"+n.Op, n.Name, c.types[x], []string{x, c.longs(c.ints(in[1])...)}, attribute{"keepdims", keep}))
	case "TopKV2":
		x := c.asRows(in[0])
		values, indices := c.name(n.Name), c.name(n.Name)
		c.emit("TopK", []string{x, c.longs(c.ints(in[1])...)}, []string{values, indices}, c.types[x], attribute{"axis", int64(-1)}, attribute{"sorted", int64(1)})
		c.types[indices] = int64s
		c.rows[n.Name], c.rows[n.Name+":1"] = values, c.cast(indices, int32s)
	default:
		panic(fmt.Sprintf("an operation %s (%s)", n.Op, n.Name))
	}
}

// layout gives how to read and where to put tensors of one of the two layouts.
func (c *converter) layout(channels bool) (get func(string) string, put map[string]string) {
	if channels {
		return c.asChannels, c.channels
	}
	return c.asRows, c.rows
}

// sizes is a tensor of sizes as ONNX wants it.
func (c *converter) sizes(t string) string {
	if k, ok := c.constant(t); ok && k.ints != nil {
		return c.longs(c.ints(t)...)
	}
	return c.cast(c.asRows(t), int64s)
}

// each converts an operation on elements, by channels where its inputs are laid out so
// and its constants spread the same way in both.
func (c *converter) each(n *node, op string, result element, in []string) {
	some, all := false, true
	for _, t := range in {
		if c.byChannels(t) {
			some = true
		} else if k, ok := c.constant(t); ok {
			all = all && (len(k.shape) == 0 || k.floats != nil && (len(k.shape) == 1 || len(k.shape) == 4))
		} else {
			all = false
		}
	}
	get, put := c.layout(some && all)
	var args []string
	for _, t := range in {
		args = append(args, get(t))
	}
	if result == 0 {
		result = c.types[args[len(args)-1]]
	}
	put[n.Name] = c.step(op, n.Name, result, args)
}

func padding(n *node) []attribute {
	switch p := n.text("padding"); p {
	case "SAME":
		return []attribute{{"auto_pad", "SAME_UPPER"}}
	case "VALID":
		return []attribute{{"auto_pad", "VALID"}}
	case "EXPLICIT":
		e := n.ints("explicit_paddings")
		return []attribute{{"pads", []int64{e[2], e[4], e[3], e[5]}}}
	default:
		panic("padding " + p)
	}
}

// kernel is the weights of a convolution, which must be known beforehand.
func (c *converter) kernel(t string) constant {
	k, ok := c.constant(t)
	if !ok || len(k.shape) != 4 {
		panic("a kernel " + t)
	}
	return k
}

func (c *converter) convolution(n *node, in []string, depthwise bool) {
	k := c.kernel(in[1])
	s := k.shape
	order, shape, groups := []int{3, 2, 0, 1}, []int64{s[3], s[2], s[0], s[1]}, int64(1)
	if depthwise {
		order, shape, groups = []int{2, 3, 0, 1}, []int64{s[2] * s[3], 1, s[0], s[1]}, s[2]
	}
	args := []string{c.asChannels(in[0]), c.weight("kernel/"+in[1], float32s, shape, rawFloats(permuted(k.floats, s, order...)))}
	after := n.texts("fused_ops")
	if len(after) > 0 && after[0] == "BiasAdd" {
		b, ok := c.constant(in[2])
		if !ok {
			panic("a bias " + in[2])
		}
		args = append(args, c.weight("bias/"+in[2], float32s, []int64{int64(len(b.floats))}, rawFloats(b.floats)))
		after = after[1:]
	}
	attributes := append(padding(n), attribute{"strides", n.ints("strides")[1:3]}, attribute{"kernel_shape", s[:2]}, attribute{"group", groups})
	if d := n.ints("dilations"); len(d) == 4 {
		attributes = append(attributes, attribute{"dilations", d[1:3]})
	}
	y := c.step("Conv", n.Name, float32s, args, attributes...)
	for _, a := range after {
		switch a {
		case "Relu", "Sigmoid", "Elu":
			y = c.step(a, n.Name, float32s, []string{y})
		case "Relu6":
			y = c.step("Clip", n.Name, float32s, []string{y, c.float(0), c.float(6)})
		default:
			panic("after a convolution " + a)
		}
	}
	c.channels[n.Name] = y
}

func (c *converter) transposedConvolution(n *node, in []string) {
	k := c.kernel(in[1])
	if n.text("padding") != "SAME" {
		panic("padding of " + n.Name)
	}
	strides, pads := n.ints("strides")[1:3], make([]int64, 4)
	for i, stride := range strides {
		total := max(k.shape[i]-stride, 0)
		pads[i], pads[i+2] = total/2, total-total/2
	}
	w := c.weight("kernel/"+in[1], float32s, []int64{k.shape[3], k.shape[2], k.shape[0], k.shape[1]}, rawFloats(permuted(k.floats, k.shape, 3, 2, 0, 1)))
	c.channels[n.Name] = c.step("ConvTranspose", n.Name, float32s, []string{c.asChannels(in[2]), w},
		attribute{"strides", strides}, attribute{"kernel_shape", k.shape[:2]}, attribute{"pads", pads})
}

func (c *converter) resize(n *node, in []string) {
	mode := "asymmetric"
	if n.is("half_pixel_centers") {
		mode = "half_pixel"
	} else if n.is("align_corners") {
		mode = "align_corners"
	}
	c.channels[n.Name] = c.step("Resize", n.Name, float32s, []string{c.asChannels(in[0]), "", "", c.sizes(in[1])},
		attribute{"mode", "linear"}, attribute{"coordinate_transformation_mode", mode}, attribute{"axes", []int64{2, 3}})
}

func (c *converter) pad(n *node, in []string) {
	p := c.ints(in[1])
	rank := len(p) / 2
	channels := rank == 4 && c.byChannels(in[0])
	get, put := c.layout(channels)
	pads := make([]int64, 2*rank)
	for i := range rank {
		from := i
		if channels {
			from = []int{0, 3, 1, 2}[i]
		}
		pads[i], pads[i+rank] = p[2*from], p[2*from+1]
	}
	put[n.Name] = c.step("Pad", n.Name, float32s, []string{get(in[0]), c.longs(pads...)})
}

func (c *converter) concat(n *node, in []string) {
	axis := c.ints(in[len(in)-1])[0]
	in = in[:len(in)-1]
	channels := axis == 3 || axis == -1
	for _, t := range in {
		channels = channels && c.byChannels(t)
	}
	if channels {
		axis = 1
	}
	get, put := c.layout(channels)
	var parts []string
	for _, t := range in {
		parts = append(parts, get(t))
	}
	put[n.Name] = c.step("Concat", n.Name, c.types[parts[0]], parts, attribute{"axis", axis})
}

// split gives the parts of a tensor along an axis, the axis itself gone when squeezed.
func (c *converter) split(n *node, x string, axis, parts int64, squeezed bool) {
	var out []string
	for range parts {
		out = append(out, c.name(n.Name))
	}
	c.emit("Split", []string{x}, out, c.types[x], attribute{"axis", axis}, attribute{"num_outputs", parts})
	for i, o := range out {
		if squeezed {
			o = c.step("Squeeze", n.Name, c.types[x], []string{o, c.longs(axis)})
		}
		name := n.Name
		if i > 0 {
			name = fmt.Sprintf("%s:%d", n.Name, i)
		}
		c.rows[name] = o
	}
}

// slice converts TensorFlow's slice, whose masks say bit by bit of each part of the
// slice: from the beginning, to the end, one element and its axis gone, all axes between,
// a new axis.
func (c *converter) slice(n *node, in []string) {
	x := c.asRows(in[0])
	bit := func(mask string, i int) bool { return n.int(mask)>>i&1 != 0 }
	begin, end, stride := c.ints(in[1]), c.ints(in[2]), c.ints(in[3])
	var begins, ends, axes, strides, gone, added []int64
	axis, fromEnd := int64(0), false // axes count from the end after "all between"
	for i := range begin {
		switch {
		case bit("ellipsis_mask", i):
			fromEnd = true
			for j := i + 1; j < len(begin); j++ {
				if !bit("new_axis_mask", j) {
					axis--
				}
			}
			continue
		case bit("new_axis_mask", i):
			switch {
			case !fromEnd:
				added = append(added, int64(i))
			case i == len(begin)-1:
				added = append(added, -1)
			default:
				panic("a new axis of " + n.Name)
			}
			continue
		}
		b, e, s := begin[i], end[i], stride[i]
		if bit("begin_mask", i) {
			b = 0
		}
		if bit("end_mask", i) {
			e = math.MaxInt32
		}
		if bit("shrink_axis_mask", i) {
			if e = b + 1; e == 0 {
				e = math.MaxInt32
			}
			gone = append(gone, axis)
		}
		if !(b == 0 && e == math.MaxInt32 && s == 1) {
			begins, ends, axes, strides = append(begins, b), append(ends, e), append(axes, axis), append(strides, s)
		}
		axis++
	}
	if axes != nil {
		x = c.step("Slice", n.Name, c.types[x], []string{x, c.longs(begins...), c.longs(ends...), c.longs(axes...), c.longs(strides...)})
	}
	if gone != nil {
		x = c.step("Squeeze", n.Name, c.types[x], []string{x, c.longs(gone...)})
	}
	if added != nil {
		x = c.step("Unsqueeze", n.Name, c.types[x], []string{x, c.longs(added...)})
	}
	c.rows[n.Name] = x
}
