package pose

import (
	"fmt"
	"math"
)

// Picture is a decoded frame as video codecs have it: brightness in full, colour at half
// the width and height (4:2:0), limited range.
type Picture struct {
	Width, Height int
	// The picture, then halved again and again as far as that was needed.
	levels []level
}

type level struct{ y, u, v plane }

// plane is one value a pixel.
type plane struct {
	w, h         int
	step, stride int // bytes from one value to the next, and to the next row
	pix          []byte
}

// Format is how the bytes of a picture lie.
type Format string

// The formats that decoders hand out.
const (
	I420 Format = "I420" // three planes
	NV12 Format = "NV12" // brightness, then both colours by turns
	RGBA Format = "RGBA" // four bytes a pixel
)

// Size is how many bytes a picture of this format takes.
func (f Format) Size(width, height int) int {
	if f == RGBA {
		return 4 * width * height
	}
	return width*height + 2*((width+1)/2)*((height+1)/2)
}

// NewPicture takes a frame as a decoder hands it out. The bytes are kept, not copied,
// unless they are RGBA.
func NewPicture(f Format, width, height int, b []byte) (*Picture, error) {
	if width < 2 || height < 2 || len(b) < f.Size(width, height) {
		return nil, fmt.Errorf("a picture of %d x %d px in %d bytes cannot be read", width, height, len(b))
	}
	n, cw, ch := width*height, (width+1)/2, (height+1)/2
	l := level{y: plane{width, height, 1, width, b[:n]}}
	switch f {
	case I420:
		l.u, l.v = plane{cw, ch, 1, cw, b[n : n+cw*ch]}, plane{cw, ch, 1, cw, b[n+cw*ch : n+2*cw*ch]}
	case NV12:
		l.u, l.v = plane{cw, ch, 2, 2 * cw, b[n : n+2*cw*ch]}, plane{cw, ch, 2, 2 * cw, b[n+1 : n+2*cw*ch]}
	case RGBA:
		l = fromRGBA(width, height, b)
	default:
		return nil, fmt.Errorf("pictures of the format %q cannot be read", f)
	}
	return &Picture{width, height, []level{l}}, nil
}

// fromRGBA is the way back of rgb: matrix of ITU-R BT.601, from memory.
func fromRGBA(w, h int, b []byte) level {
	cw, ch := (w+1)/2, (h+1)/2
	l := level{plane{w, h, 1, w, make([]byte, w*h)}, plane{cw, ch, 1, cw, make([]byte, cw*ch)}, plane{cw, ch, 1, cw, make([]byte, cw*ch)}}
	for y := range h {
		for x := range w {
			i := 4 * (y*w + x)
			l.y.pix[y*w+x] = clamped(16 + 0.2568*float32(b[i]) + 0.5041*float32(b[i+1]) + 0.0979*float32(b[i+2]))
		}
	}
	for y := range ch {
		for x := range cw {
			var s [3]float32
			for k := range 4 {
				i := 4 * (min(2*y+k/2, h-1)*w + min(2*x+k%2, w-1))
				for c := range s {
					s[c] += float32(b[i+c]) / 4
				}
			}
			l.u.pix[y*cw+x] = clamped(128 - 0.1482*s[0] - 0.2910*s[1] + 0.4392*s[2])
			l.v.pix[y*cw+x] = clamped(128 + 0.4392*s[0] - 0.3678*s[1] - 0.0714*s[2])
		}
	}
	return l
}

// level is the picture halved n times.
func (p *Picture) level(n int) level {
	for len(p.levels) <= n {
		last := p.levels[len(p.levels)-1]
		p.levels = append(p.levels, level{last.y.halved(), last.u.halved(), last.v.halved()})
	}
	return p.levels[n]
}

// halved is the mean of each two by two values.
func (p plane) halved() plane {
	out := plane{w: (p.w + 1) / 2, h: (p.h + 1) / 2, step: 1}
	out.stride = out.w
	out.pix = make([]byte, out.w*out.h)
	for y := range out.h {
		a, b := p.pix[2*y*p.stride:], p.pix[min(2*y+1, p.h-1)*p.stride:]
		row := out.pix[y*out.w:][:out.w]
		for x := range row {
			i, j := 2*x*p.step, min(2*x+1, p.w-1)*p.step
			row[x] = byte((int(a[i]) + int(a[j]) + int(b[i]) + int(b[j]) + 2) / 4)
		}
	}
	return out
}

// rgb is a colour as networks get it (ITU-R BT.601, limited range, from memory; that
// modern cameras mean BT.709 shifts hues a little and places nothing).
func rgb(y, u, v float32) (r, g, b byte) {
	y, u, v = 1.1644*(y-16), u-128, v-128
	return clamped(y + 1.5960*v), clamped(y - 0.3918*u - 0.8130*v), clamped(y + 2.0172*u)
}

func clamped(v float32) byte { return byte(min(max(v+0.5, 0), 255)) }

// Square is a part of a picture: its middle, its side and the direction of its up,
// radians clockwise; px.
type Square struct{ X, Y, Side, Turn float64 }

// at is the place in the picture of a place in the square, both from 0 to 1 across it.
func (s Square) at(u, v float64) (x, y float64) {
	sin, cos := math.Sincos(s.Turn)
	u, v = (u-0.5)*s.Side, (v-0.5)*s.Side
	return s.X + cos*u - sin*v, s.Y + sin*u + cos*v
}

// Cut makes a square n px wide out of a part of a picture, three bytes a px, black
// outside the picture. A part that has fewer pixels is enlarged by cubic interpolation
// (Catmull and Rom 1974), one that has more is averaged over what each new pixel
// covers, so that nothing is skipped.
func (p *Picture) Cut(s Square, n int, out []byte) {
	k := s.Side / float64(n) // px of the picture for one of the cut
	halvings := max(0, int(math.Floor(math.Log2(k))))
	l := p.level(halvings)
	scale := 1 / float64(int(1)<<halvings)
	k *= scale
	m := 1
	if k > 1 {
		m = 2
	}
	sin, cos := math.Sincos(s.Turn)
	// From the middle of the square, one step to the right and one down; pixel centres
	// lie at halves.
	rightX, rightY := float32(cos*k/float64(m)), float32(sin*k/float64(m))
	downX, downY := -rightY, rightX
	x0 := float32(s.X*scale-0.5) - (rightX+downX)*(float32(n*m)-1)/2
	y0 := float32(s.Y*scale-0.5) - (rightY+downY)*(float32(n*m)-1)/2
	w, h := float32(l.y.w)-0.5, float32(l.y.h)-0.5
	for j := range n {
		for i := range n {
			var y, u, v, in float32
			for b := range m {
				for a := range m {
					right, down := float32(i*m+a), float32(j*m+b)
					px, py := x0+right*rightX+down*downX, y0+right*rightY+down*downY
					if px < -0.5 || py < -0.5 || px > w || py > h {
						continue
					}
					in++
					if k < 1 {
						y += l.y.cubic(px, py)
					} else {
						y += l.y.linear(px, py)
					}
					// Colours lie at every second pixel of a row and between two rows.
					cx, cy := px/2, (py-0.5)/2
					u += l.u.linear(cx, cy)
					v += l.v.linear(cx, cy)
				}
			}
			o := out[3*(j*n+i) : 3*(j*n+i)+3]
			if in == 0 {
				o[0], o[1], o[2] = 0, 0, 0
				continue
			}
			r, g, b := rgb(y/in, u/in, v/in)
			if lit := in / float32(m*m); lit < 1 { // on the border, partly black
				r, g, b = byte(float32(r)*lit), byte(float32(g)*lit), byte(float32(b)*lit)
			}
			o[0], o[1], o[2] = r, g, b
		}
	}
}

// linear samples between pixels; at the border the border goes on.
func (p plane) linear(x, y float32) float32 {
	x, y = min(max(x, 0), float32(p.w-1)), min(max(y, 0), float32(p.h-1))
	i, j := max(0, min(int(x), p.w-2)), max(0, min(int(y), p.h-2))
	right, down := min(p.step, (p.w-1)*p.step), min(p.stride, (p.h-1)*p.stride)
	fx, fy := x-float32(i), y-float32(j)
	at := j*p.stride + i*p.step
	a, b := float32(p.pix[at]), float32(p.pix[at+right])
	c, d := float32(p.pix[at+down]), float32(p.pix[at+down+right])
	top, below := a+fx*(b-a), c+fx*(d-c)
	return top + fy*(below-top)
}

// cubic samples between pixels with a curve through four of them.
func (p plane) cubic(x, y float32) float32 {
	i, j := int(x+1)-1, int(y+1)-1 // down, also below zero
	if i < 1 || j < 1 || i+2 >= p.w || j+2 >= p.h {
		return p.linear(x, y)
	}
	wx, wy := catmullRom(x-float32(i)), catmullRom(y-float32(j))
	var sum float32
	for b := range 4 {
		row := p.pix[(j-1+b)*p.stride+i-1:][:4]
		sum += wy[b] * (wx[0]*float32(row[0]) + wx[1]*float32(row[1]) + wx[2]*float32(row[2]) + wx[3]*float32(row[3]))
	}
	return min(max(sum, 0), 255)
}

func catmullRom(t float32) [4]float32 {
	return [4]float32{
		t * (-0.5 + t*(1-0.5*t)),
		1 + t*t*(-2.5+1.5*t),
		t * (0.5 + t*(2-1.5*t)),
		t * t * (-0.5 + 0.5*t),
	}
}
