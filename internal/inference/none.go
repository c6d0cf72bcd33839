//go:build !cgo || !linux

package inference

import "neokinema/core/pose"

const built = false

func start(string) error { return ErrNotBuilt }

func open(onnxModel, pose.Spec) (session, error) { return nil, ErrNotBuilt }
