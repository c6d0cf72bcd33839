package workshop_test

import (
	"encoding/json"
	"testing"

	"neokinema/core/workshop"
	"neokinema/core/workshop/calls"
)

// BenchmarkFlight is one picture of a trajectory with its band, as a slider asks for it.
func BenchmarkFlight(b *testing.B) {
	for _, event := range []string{"hammer", "discus", "javelin"} {
		b.Run(event, func(b *testing.B) {
			var values workshop.Values
			for _, q := range workshop.For(event) {
				if q.ID == "flight" {
					values = usual(q)
				}
			}
			request, err := json.Marshal(calls.AskCall{Question: "flight", Values: values})
			if err != nil {
				b.Fatal(err)
			}
			b.ReportAllocs()
			for b.Loop() {
				if _, err := calls.Do("ask", request); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
