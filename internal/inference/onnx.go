package inference

import (
	"encoding/binary"
	"math"
)

// The few messages of the ONNX format that are written, encoded by hand: protobuf's
// wire format is varints and length-prefixed bytes. Numbers of fields and types are
// those of onnx.proto3 of ONNX 1.16.

type message []byte

func (m *message) varint(v uint64) { *m = binary.AppendUvarint(*m, v) }

func (m *message) int(field int, v int64) {
	m.varint(uint64(field) << 3)
	m.varint(uint64(v))
}

func (m *message) bytes(field int, b []byte) {
	m.varint(uint64(field)<<3 | 2)
	m.varint(uint64(len(b)))
	*m = append(*m, b...)
}

func (m *message) text(field int, s string) { m.bytes(field, []byte(s)) }

// element is the type of a tensor's elements.
type element int64

const (
	float32s element = 1
	bytes8   element = 2
	int32s   element = 6
	int64s   element = 7
	bools    element = 9
)

// attribute of an operation: its value is a number, a text or a list of numbers.
type attribute struct {
	name  string
	value any
}

func (a attribute) encode() (m message) {
	const typeInt, typeString, typeInts = 2, 3, 7
	m.text(1, a.name)
	switch v := a.value.(type) {
	case element:
		m.int(3, int64(v))
		m.int(20, typeInt)
	case int64:
		m.int(3, v)
		m.int(20, typeInt)
	case string:
		m.text(4, v)
		m.int(20, typeString)
	case []int64:
		for _, i := range v {
			m.int(8, i)
		}
		m.int(20, typeInts)
	default:
		panic("attribute " + a.name)
	}
	return m
}

func encodeNode(op, name string, in, out []string, attributes []attribute) (m message) {
	for _, s := range in {
		m.text(1, s)
	}
	for _, s := range out {
		m.text(2, s)
	}
	m.text(3, name)
	m.text(4, op)
	for _, a := range attributes {
		m.bytes(5, a.encode())
	}
	return m
}

func encodeTensor(name string, e element, shape []int64, raw []byte) (m message) {
	for _, d := range shape {
		m.int(1, d)
	}
	m.int(2, int64(e))
	m.text(8, name)
	m.bytes(9, raw)
	return m
}

// encodeValue is a named input or output; a nil shape is left open, and so is a
// dimension below one.
func encodeValue(name string, e element, shape []int64) (m message) {
	var tensor message
	tensor.int(1, int64(e))
	if shape != nil {
		var dims message
		for _, d := range shape {
			var dim message
			if d > 0 {
				dim.int(1, d)
			} else {
				dim.text(2, "open")
			}
			dims.bytes(1, dim)
		}
		tensor.bytes(2, dims)
	}
	var kind message
	kind.bytes(1, tensor)
	m.text(1, name)
	m.bytes(2, kind)
	return m
}

// encodeModel is a whole file: version 8 of the format, version 18 of the operations.
func encodeModel(graph message) (m message) {
	var operations message
	operations.text(1, "")
	operations.int(2, 18)
	m.int(1, 8)
	m.text(2, "neokinema")
	m.bytes(7, graph)
	m.bytes(8, operations)
	return m
}

func rawFloats(list []float32) []byte {
	b := make([]byte, 0, 4*len(list))
	for _, v := range list {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	return b
}

func rawInts(list []int32) []byte {
	b := make([]byte, 0, 4*len(list))
	for _, v := range list {
		b = binary.LittleEndian.AppendUint32(b, uint32(v))
	}
	return b
}

func rawLongs(list []int64) []byte {
	b := make([]byte, 0, 8*len(list))
	for _, v := range list {
		b = binary.LittleEndian.AppendUint64(b, uint64(v))
	}
	return b
}
