//go:build js && wasm

// Command workshopwasm is the workshop as WebAssembly: small beside the core, and loaded where
// somebody reckons, at the track without a network too.
package main

import (
	"neokinema/cmd/internal/wasmcall"
	"neokinema/core/workshop/calls"
)

func main() { wasmcall.Serve(calls.Do) }
