package trackside

import (
	"fmt"
	"math/rand/v2"
)

// Session is one at the track by chance: so many tries of so many athletes, written down by so many
// phones that do not see each other, with corrections, tries that were none and contradictions. Truth
// is what each try was told to be, by the words that must all be found again: those that stand, and
// those that stand against them.
func Session(r *rand.Rand, tries, athletes, phones int) (notes []Note, truth map[string]map[Field][]string) {
	truth = map[string]map[Field][]string{}
	clock := int64(1_790_000_000_000)
	id := 0
	for k := range tries {
		clock += 40_000 + r.Int64N(60_000)
		phone := r.IntN(phones)
		t := fmt.Sprintf("try-%d", k)
		who := fmt.Sprintf("athlete-%d", r.IntN(athletes))
		truth[t] = map[Field][]string{}
		seen := map[string]string{} // by phone and field
		at := clock
		write := func(phone int, f Field, value string) {
			id++
			at += 500 + r.Int64N(3000)
			key := fmt.Sprint(phone, f)
			notes = append(notes, Note{ID: fmt.Sprintf("n%d", id), Phone: fmt.Sprintf("phone-%d", phone), Try: t, Athlete: who, Event: "hammer", Day: "2026-11-29", At: at, Field: f, Value: value, Before: seen[key]})
			seen[key] = value
		}
		write(phone, Made, "")
		truth[t][Made] = []string{""}
		say := func(f Field, value func() string) {
			v := value()
			write(phone, f, v)
			if r.IntN(6) == 0 { // typed wrong, and put right
				v = value()
				write(phone, f, v)
			}
			truth[t][f] = []string{v}
			if phones > 1 && r.IntN(8) == 0 {
				other := (phone + 1) % phones
				if w := value(); w != v {
					write(other, f, w)
					truth[t][f] = append(truth[t][f], w)
				}
			}
		}
		if r.IntN(5) == 0 {
			say(Foul, func() string { return []string{"over the rim", "sector", "cage"}[r.IntN(3)] })
		} else {
			say(Mark, func() string { return fmt.Sprintf("%.2f", 50+10*r.Float64()) })
		}
		say(Felt, func() string { return fmt.Sprint(1 + r.IntN(5)) })
		say(Kept, func() string { return []string{"kept", "lost"}[r.IntN(2)] })
	}
	return notes, truth
}

// Lost names what was told of tries and is found neither as it stands nor as the other word of a
// conflict.
func Lost(j Joined, truth map[string]map[Field][]string) (out []string) {
	says := map[string]map[Field][]string{}
	for _, t := range j.Tries {
		says[t.ID] = map[Field][]string{Made: {t.Says[Made]}}
		for f, v := range t.Says {
			says[t.ID][f] = []string{v}
		}
	}
	for _, c := range j.Conflicts {
		if says[c.Try] != nil {
			says[c.Try][c.Field] = append(says[c.Try][c.Field], c.Other)
		}
	}
	for t, fields := range truth {
		for f, words := range fields {
			for _, w := range words {
				found := false
				for _, v := range says[t][f] {
					found = found || v == w
				}
				if !found {
					out = append(out, fmt.Sprintf("%s %s %q", t, f, w))
				}
			}
		}
	}
	return out
}
