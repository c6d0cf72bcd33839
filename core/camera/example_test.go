package camera_test

import (
	"fmt"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/vec3"
)

// A clip from the side with a scale of one centimetre a pixel, the ground at pixel (640, 600):
// what is two metres above it shows 200 px higher.
func ExampleOrthographic() {
	c := camera.Orthographic(0.01, 1, r2.Vec{X: 640, Y: 600})
	low, _ := c.Picture(vec3.Vec{})
	high, ok := c.Picture(vec3.Vec{Y: 2})
	fmt.Printf("%.0f px higher, in sight: %t\n", low.Y-high.Y, ok)
	// Output: 200 px higher, in sight: true
}
