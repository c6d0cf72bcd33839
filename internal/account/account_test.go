package account

import (
	"strings"
	"testing"
)

func TestLimiterIsPerKey(t *testing.T) {
	l := limiter{seen: map[string]*entry{}}
	for i := range triesByMail {
		if !l.allow("mail:a", triesByMail) {
			t.Fatalf("try %d was refused", i)
		}
	}
	if l.allow("mail:a", triesByMail) {
		t.Error("one try too many")
	}
	if !l.allow("mail:b", triesByMail) {
		t.Error("one account's tries count for another")
	}
	l.forget("mail:a")
	if !l.allow("mail:a", triesByMail) {
		t.Error("a good sign-in clears the count")
	}
}

func TestPepperDependsOnSecretAndPassword(t *testing.T) {
	a, b := strings.Repeat("a", 32), strings.Repeat("b", 32)
	first := pepper(a, "x")
	if first == pepper(b, "x") || first == pepper(a, "y") || first != pepper(a, "x") || len(first) < 40 {
		t.Error("pepper")
	}
}
