package sport_test

import (
	"fmt"

	"neokinema/core/body"
	"neokinema/core/sport"
)

func ExampleOf() {
	e := sport.Of("discus")
	fmt.Printf("%s: %g kg for men, %g kg for women, out of a circle of %g m\n", e.Name, e.Implement.Of(body.Male, 0).Mass, e.Implement.Of(body.Female, 0).Mass, e.Circle)
	fmt.Println("looked at again after", sport.Recheck(e.Change), "days")
	// Output:
	// Discus: 2 kg for men, 1 kg for women, out of a circle of 2.5 m
	// looked at again after 28 days
}
