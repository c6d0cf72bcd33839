package throw_test

import (
	"fmt"

	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

// A hammer of 7.26 kg at 25 m/s on a radius of 1.8 m pulls with about two and a half
// kilonewtons; the uncertainty of the speed counts twice.
func ExamplePull() {
	v := throw.Pull(7.26, uncertainty.Normal(25, 0.5), uncertainty.Normal(1.8, 0.05), 0)
	fmt.Printf("%.0f ± %.0f N\n", v.Value, v.Half95)
	// Output: 2521 ± 241 N
}
