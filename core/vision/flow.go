package vision

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Flow is how a place moved from one picture to the next, px, with its standard
// deviation; not OK where nothing can be followed.
type Flow struct {
	By r2.Vec
	SD float64
	OK bool
}

// Limits of flow. Assumed; shaped on simulated clips.
const (
	flowBest = 0.2 // px: what following leaves at the best
	flowBack = 2.0 // px that there and back may differ
)

// FlowAt measures the flow at a place, looking first about a guess of where it
// went; half is half the window, px.
func FlowAt(a, b Pyramid, at, guess r2.Vec, half int) Flow {
	q, misfit, ok := follow(a, b, at, guess, half)
	if !ok || misfit > 40 {
		return Flow{}
	}
	back, _, ok := follow(b, a, q, at, half)
	there := r2.Norm(r2.Sub(back, at))
	if !ok || there > flowBack {
		return Flow{}
	}
	return Flow{r2.Sub(q, at), flowBest + there + misfit/40, true}
}

// Fuse brings a draft and the flow of the picture together: a draft says where a
// joint is, on the whole, and trembles; flow says exactly how it moved from frame
// to frame, and drifts. The places p that minimise
//
//	sum (p_i - draft_i)^2 / sd_i^2 + sum (p_i+1 - p_i - flow_i)^2 / fsd_i^2
//
// follow from a tridiagonal system; weights fall with the misfit (Cauchy), so
// that a wild draft or a flow that slipped onto the background counts little.
// sd 0 means no draft in that frame. Frames count from 0; flow i leads from i to
// i + 1.
func Fuse(draft []r2.Vec, sd []float64, flow []Flow) []r2.Vec {
	n := len(draft)
	out := append([]r2.Vec(nil), draft...)
	if n < 3 {
		return out
	}
	wd, wf := make([]float64, n), make([]float64, n-1)
	for i := range sd {
		if sd[i] > 0 {
			wd[i] = 1 / (sd[i] * sd[i])
		}
	}
	for i := range wf {
		if flow[i].OK {
			wf[i] = 1 / (flow[i].SD * flow[i].SD)
		}
	}
	u, v := make([]float64, n-1), append([]float64(nil), wd...)
	copy(u, wf)
	for range 6 {
		solveChain(out, draft, flow, v, u)
		for i := range n {
			if wd[i] > 0 {
				v[i] = wd[i] / (1 + wd[i]*r2.Norm2(r2.Sub(out[i], draft[i]))/4)
			}
		}
		for i := range u {
			if wf[i] > 0 {
				u[i] = wf[i] / (1 + wf[i]*r2.Norm2(r2.Sub(r2.Sub(out[i+1], out[i]), flow[i].By))/6)
			}
		}
	}
	return out
}

// solveChain solves the tridiagonal system for given weights (Thomas algorithm).
func solveChain(out, draft []r2.Vec, flow []Flow, wd, wf []float64) {
	n := len(out)
	diag, right := make([]float64, n), make([]r2.Vec, n)
	for i := range n {
		diag[i] = wd[i] + 1e-9
		right[i] = r2.Scale(wd[i]+1e-9, draft[i])
		if i > 0 {
			diag[i] += wf[i-1]
			right[i] = r2.Add(right[i], r2.Scale(wf[i-1], flow[i-1].By))
		}
		if i < n-1 {
			diag[i] += wf[i]
			right[i] = r2.Sub(right[i], r2.Scale(wf[i], flow[i].By))
		}
	}
	for i := 1; i < n; i++ {
		m := -wf[i-1] / diag[i-1]
		diag[i] += m * wf[i-1]
		right[i] = r2.Sub(right[i], r2.Scale(m, right[i-1]))
	}
	out[n-1] = r2.Scale(1/diag[n-1], right[n-1])
	for i := n - 2; i >= 0; i-- {
		out[i] = r2.Scale(1/diag[i], r2.Add(right[i], r2.Scale(wf[i], out[i+1])))
	}
	for i := range out {
		if math.IsNaN(out[i].X) {
			out[i] = draft[i]
		}
	}
}
