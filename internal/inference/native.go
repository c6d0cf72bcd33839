//go:build cgo && linux

package inference

import (
	"fmt"

	onnx "github.com/yalue/onnxruntime_go"

	"neokinema/core/pose"
)

// built tells that this program can open libraries.
const built = true

func start(library string) error {
	if onnx.IsInitialized() {
		return nil
	}
	onnx.SetSharedLibraryPath(library)
	if err := onnx.InitializeEnvironment(onnx.WithLogLevelWarning()); err != nil {
		return fmt.Errorf("the library that runs pose networks cannot be opened: %w", err)
	}
	return nil
}

type nativeSession struct {
	session *onnx.DynamicAdvancedSession
	spec    pose.Spec
}

func open(m onnxModel, spec pose.Spec) (session, error) {
	o, err := onnx.NewSessionOptions()
	if err != nil {
		return nil, err
	}
	defer o.Destroy()
	for _, err := range []error{
		// One thread a worker: two clips at once are faster than one clip on two cores, and
		// nobody else waits for a thread that spins.
		o.SetIntraOpNumThreads(1), o.SetInterOpNumThreads(1), o.AddSessionConfigEntry("session.intra_op.allow_spinning", "0"),
	} {
		if err != nil {
			return nil, err
		}
	}
	s, err := onnx.NewDynamicAdvancedSessionWithONNXData(m.raw, []string{m.input}, m.outputs, o)
	if err != nil {
		return nil, err
	}
	return nativeSession{s, spec}, nil
}

type nativeRunner struct {
	nativeSession
	in  *onnx.Tensor[uint8]
	out *onnx.Tensor[float32]
}

func (s nativeSession) worker() (runner, error) {
	in, err := onnx.NewEmptyTensor[uint8](onnx.NewShape(1, int64(s.spec.Side), int64(s.spec.Side), 3))
	if err != nil {
		return nil, err
	}
	out, err := onnx.NewEmptyTensor[float32](onnx.NewShape(s.spec.Shape...))
	if err != nil {
		_ = in.Destroy() // of memory alone
		return nil, err
	}
	return &nativeRunner{s, in, out}, nil
}

func (r *nativeRunner) input() []byte { return r.in.GetData() }

func (r *nativeRunner) run() ([]float32, error) {
	err := r.session.Run([]onnx.Value{r.in}, []onnx.Value{r.out})
	return r.out.GetData(), err
}

func (r *nativeRunner) close() {
	_, _ = r.in.Destroy(), r.out.Destroy() // of memory alone
}
