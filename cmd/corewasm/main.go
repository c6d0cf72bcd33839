//go:build js && wasm

// Command corewasm is the core as WebAssembly: the same computation under the
// coach's hand as in the server. JavaScript writes name and request into the
// buffer, calls, and reads the answer back.
package main

import (
	"fmt"
	"runtime/debug"
	"unsafe"

	"neokinema/core/wasmapi"
)

// The browser has one clip open at a time, and so one session.
var session wasmapi.Session

var buffer = make([]byte, 64<<10)

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
			result = -answer([]byte(fmt.Sprint("the core failed: ", r)))
		}
	}()
	out, err := session.Do(string(buffer[:name]), buffer[name:length])
	if err != nil {
		return -answer([]byte(err.Error()))
	}
	return answer(out)
}

// place is where the answer lies.
//
//go:wasmexport place
func place() unsafe.Pointer { return unsafe.Pointer(&buffer[0]) }

// draft_buffer makes room of n bytes for what a draft takes and gives besides JSON, and
// tells the place.
//
//go:wasmexport draft_buffer
func draftBuffer(which, n uint32) unsafe.Pointer {
	return unsafe.Pointer(&session.Buffer(int(which), int(n))[0])
}

func answer(b []byte) int32 {
	if len(b) > len(buffer) {
		buffer = make([]byte, len(b)*2)
	}
	return int32(copy(buffer, b))
}

func main() {
	// Calls are short and memory is small: collecting rarely keeps the hand fluid.
	debug.SetGCPercent(1000)
	select {}
}
