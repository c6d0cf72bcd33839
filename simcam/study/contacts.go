package study

import (
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Contacts are the true contacts of a clip.
func Contacts(t simcam.Truth) (out []contact.Contact) {
	for _, side := range []body.Side{body.Left, body.Right} {
		from := -1
		for f := 0; f <= len(t.Frames); f++ {
			down := f < len(t.Frames) && points.Down(t, side, f)
			switch {
			case down && from < 0:
				from = f
			case !down && from >= 0:
				out = append(out, contact.Contact{Foot: side, From: from, To: min(f, len(t.Frames)-1), Confidence: 1, Before: from == 0, After: f == len(t.Frames)})
				from = -1
			}
		}
	}
	return out
}
