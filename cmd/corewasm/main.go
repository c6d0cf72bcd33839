//go:build js && wasm

// Command corewasm is the core as WebAssembly: the same computation under the
// coach's hand as in the server.
package main

import (
	"unsafe"

	"neokinema/cmd/internal/wasmcall"
	"neokinema/core/wasmapi"
)

// The browser has one clip open at a time, and so one session.
var session wasmapi.Session

// draft_buffer makes room of n bytes for what a draft takes and gives besides JSON, and
// tells the place.
//
//go:wasmexport draft_buffer
func draftBuffer(which, n uint32) unsafe.Pointer {
	return unsafe.Pointer(&session.Buffer(int(which), int(n))[0])
}

func main() { wasmcall.Serve(session.Do) }
