package uncertainty_test

import (
	"fmt"

	"neokinema/core/uncertainty"
)

// A speed of 10 m in 2.00 s: the distance is known to 5 cm, the time to 10 ms (standard
// deviations).
func ExamplePropagate() {
	v := uncertainty.Propagate(func(x []float64) float64 { return x[0] / x[1] }, []float64{10, 2}, []float64{0.05, 0.01})
	fmt.Printf("%.2f ± %.2f m/s\n", v.Value, v.Half95)

	lo := 5.1
	fmt.Println("at least 5.1:", uncertainty.Band{Lo: &lo}.Judge(v))
	// Output:
	// 5.00 ± 0.07 m/s
	// at least 5.1: missed
}
