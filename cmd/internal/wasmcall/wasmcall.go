//go:build js && wasm

// Package wasmcall is how JavaScript calls Go: it writes name and request into a buffer, calls,
// and reads the answer back.
package wasmcall

import (
	"fmt"
	"runtime/debug"
	"unsafe"
)

var (
	buffer = make([]byte, 64<<10)
	answer func(name string, request []byte) ([]byte, error)
)

// reserve makes room for n bytes and gives the place to write them.
//
//go:wasmexport reserve
func reserve(n uint32) unsafe.Pointer {
	if int(n) > len(buffer) {
		buffer = make([]byte, n*2)
	}
	return unsafe.Pointer(&buffer[0])
}

// call answers the request of the given length whose first name bytes are the
// call's name. The result is the answer's length, negative when it is an error
// text. A panic would reach JavaScript as rubbish, so it becomes an error too.
//
//go:wasmexport call
func call(name, length uint32) (result int32) {
	defer func() {
		if r := recover(); r != nil {
			result = -put([]byte(fmt.Sprint("the core failed: ", r)))
		}
	}()
	out, err := answer(string(buffer[:name]), buffer[name:length])
	if err != nil {
		return -put([]byte(err.Error()))
	}
	return put(out)
}

// place is where the answer lies.
//
//go:wasmexport place
func place() unsafe.Pointer { return unsafe.Pointer(&buffer[0]) }

func put(b []byte) int32 {
	if len(b) > len(buffer) {
		buffer = make([]byte, len(b)*2)
	}
	return int32(copy(buffer, b))
}

// Serve answers calls for good.
func Serve(do func(name string, request []byte) ([]byte, error)) {
	// Calls are short and memory is small: collecting rarely keeps the hand fluid.
	debug.SetGCPercent(1000)
	answer = do
	select {}
}
