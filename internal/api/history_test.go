package api_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"neokinema/core/track"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// anything draws an edit of any kind, as a screen could make it: a value, or that there is none.
func anything(r *rand.Rand, clip store.Clip) workspace.Edit {
	number := func(n int) int { return r.IntN(n) }
	frame := number(len(clip.Stamps))
	place := func() float64 { return float64(10 + number(min(clip.Width, clip.Height)-20)) }
	pick := func(words ...string) string { return words[number(len(words))] }
	point := func(source string) track.Point {
		return track.Point{X: place(), Y: place(), Source: source, Confidence: 1}
	}
	on := func(kind, key string, value any) workspace.Edit {
		return workspace.Edit{Kind: kind, Clip: &clip.ID, Key: key, Value: workspace.Value(value)}
	}
	off := func(kind, key string, value any) workspace.Edit {
		return workspace.Edit{Kind: kind, Key: key, Value: workspace.Value(value)}
	}
	landmark := pick("left_knee", "right_knee", "left_toe")
	var e workspace.Edit
	switch number(11) {
	case 0, 1:
		e = on("point", landmark, point(pick("hand", "tracked")))
		e.Frame = frame
	case 2:
		t := track.New(0)
		for f := frame; f < min(len(clip.Stamps), frame+4); f++ {
			p := point(pick("draft", "filled"))
			_ = t.Set(f, &p)
		}
		e = on("track", landmark, t)
		e.Override = number(3) == 0
		return e // a change of many frames cannot be none
	case 3:
		at := frame
		if number(4) == 0 {
			at = -1 // not in this clip
		}
		e = on("flag", pick("set", "td1", "to1"), at)
	case 4:
		e = on("scale", "line", map[string]any{"ax": 1, "ay": 1, "bx": 1 + place(), "by": place(), "metres": 1 + r.Float64()})
	case 5:
		e = on("box", "subject", map[string]any{"frame": frame, "x": 1, "y": 1, "width": 20 + number(20), "height": 20 + number(20)})
	case 6:
		e = on("annotation", fmt.Sprint("mark", number(3)), map[string]any{"kind": "pin", "landmark": landmark, "frame": frame})
	case 7:
		e = off("answer", "lean_to1", map[string]any{"answer": pick("yes", "partly", "no"), "note": fmt.Sprint(number(9))})
	case 8:
		e = off("finding", "S1", pick("accepted", "refused"))
	case 9:
		e = off("note", "athlete", fmt.Sprint("note ", number(99)))
	case 10:
		e = off("outcome", "main", pick("taken", "not_taken", "overdone"))
	}
	if number(4) == 0 {
		e.Value = json.RawMessage("null")
	}
	return e
}

// Whatever a coach does, undoing it step by step passes through every state that there was, and
// doing it again leads back; a new change ends what could be done again, and a refused one changes
// nothing.
func TestAnyWorkIsUndoneAndDoneAgainStepByStep(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	for seed := range uint64(3) {
		r := rand.New(rand.NewPCG(seed, 41))
		at := c.Attempt()
		clip := c.Imported(c.Upload(at.ID, fmt.Sprintf("h%d.mp4", seed), numbered(t, testenv.Numbered{Width: 320, Height: 180, Frames: 20 + int(seed), Rate: 30}), 1<<20))
		path := "/api/attempts/" + at.ID.String()
		// now is the work without what counts on with every step, and the revision that it is at.
		now := func() (string, workspace.Work) {
			w := sheetOf(c, at.ID).Work
			text := w
			text.Revision, text.CanUndo, text.CanRedo = 0, false, false
			return string(workspace.Value(text)), w
		}
		first, w := now()
		states, at0 := []string{first}, 0
		counts := map[string]int{}
		for step := range 60 {
			what := "edits"
			switch n := r.IntN(10); {
			case n < 3:
				what = "undo"
			case n < 5:
				what = "redo"
			}
			counts[what]++
			switch what {
			case "undo":
				status := 200
				if at0 == 0 {
					status = 422
				}
				if w.CanUndo != (at0 > 0) {
					t.Fatalf("seed %d, step %d: can undo %v after %d changes", seed, step, w.CanUndo, at0)
				}
				c.Do("POST", path+"/undo", map[string]int{"base": w.Revision}, status, nil)
				at0 = max(0, at0-1)
			case "redo":
				status := 200
				if at0 == len(states)-1 {
					status = 422
				}
				if w.CanRedo != (status == 200) {
					t.Fatalf("seed %d, step %d: can redo %v at %d of %d", seed, step, w.CanRedo, at0, len(states)-1)
				}
				c.Do("POST", path+"/redo", map[string]int{"base": w.Revision}, status, nil)
				at0 = min(len(states)-1, at0+1)
			default:
				var list []workspace.Edit
				for range 1 + r.IntN(4) {
					list = append(list, anything(r, clip))
				}
				refused := r.IntN(6) == 0
				status := 200
				if refused {
					list = append(list, workspace.Edit{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(100000)})
					status = 422
				}
				c.Do("POST", path+"/edits", workspace.Edits{Base: w.Revision, Edits: list}, status, nil)
				if !refused {
					state, _ := now()
					states = append(states[:at0+1], state)
					at0++
				}
			}
			var state string
			if state, w = now(); state != states[at0] {
				t.Fatalf("seed %d, step %d (%s): the work is\n%s\nwant\n%s", seed, step, what, state, states[at0])
			}
		}
		for kind, n := range counts {
			if n < 5 {
				t.Errorf("seed %d: %d times %s", seed, n, kind)
			}
		}
		for ; at0 > 0; at0-- {
			c.Do("POST", path+"/undo", map[string]int{"base": w.Revision}, 200, nil)
			var state string
			if state, w = now(); state != states[at0-1] {
				t.Fatalf("seed %d: undone to change %d the work is\n%s\nwant\n%s", seed, at0-1, state, states[at0-1])
			}
		}
	}
}
