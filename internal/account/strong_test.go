package account

import (
	"context"
	"sync/atomic"
	"testing"
	"testing/synctest"

	"neokinema/internal/problem"
)

func TestStrong(t *testing.T) {
	for _, weak := range []string{"aaaaaaaaaa", "1234567890", "coach@club.example", "password123", "qwertyuiop", "lindmoor12", "iloveyou12"} {
		if strong(weak, "coach@club.example", "Lindmoor") == nil {
			t.Errorf("%q was taken", weak)
		}
	}
	for _, good := range []string{"long enough words", "correct horse battery", "Übung macht müde Beine"} {
		if err := strong(good, "coach@club.example", "Lindmoor"); err != nil {
			t.Errorf("%q: %v", good, err)
		}
	}
}

// However many sign in at once, few passwords are hashed at once.
func TestFewAreHashedAtOnce(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		h := make(hashes, hashesAtOnce)
		var inside, passed atomic.Int64
		next := make(chan struct{})
		for range 8 {
			go func() {
				leave, err := h.enter(context.Background())
				if err != nil {
					t.Error(err)
					return
				}
				inside.Add(1)
				<-next
				inside.Add(-1)
				passed.Add(1)
				leave()
			}()
		}
		for done := range int64(8) {
			synctest.Wait()
			if n := inside.Load(); n != min(hashesAtOnce, 8-done) {
				t.Errorf("after %d: %d at once", done, n)
			}
			next <- struct{}{}
		}
		synctest.Wait()
		if passed.Load() != 8 {
			t.Errorf("%d of 8 got through", passed.Load())
		}
	})
	full := make(hashes)
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := full.enter(gone); problem.From(err).Kind != problem.Unavailable {
		t.Error(err)
	}
}

func TestSealedLinks(t *testing.T) {
	a := &Service{Config: Config{Secret: "a secret of thirty-two letters .."}}
	b := &Service{Config: Config{Secret: "another secret of 32 letters ...."}}
	token, err := a.seal(pending{Team: "T", Email: "e@x"})
	if err != nil {
		t.Fatal(err)
	}
	var p pending
	if err := a.unseal(token, &p); err != nil || p.Team != "T" {
		t.Errorf("%+v %v", p, err)
	}
	for _, bad := range []string{"", "x", token[1:], token[:len(token)-2] + "AA"} {
		if a.unseal(bad, &p) == nil {
			t.Errorf("%.20q opens", bad)
		}
	}
	if b.unseal(token, &p) == nil {
		t.Error("another secret opens it")
	}
}

func FuzzUnseal(f *testing.F) {
	a := &Service{Config: Config{Secret: "a secret of thirty-two letters .."}}
	f.Add("")
	f.Add("AAAA")
	f.Fuzz(func(t *testing.T, token string) {
		var p pending
		if a.unseal(token, &p) == nil {
			t.Errorf("%q opens", token)
		}
	})
}
