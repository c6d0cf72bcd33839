package api_test

import (
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/internal/owndrills"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// A team keeps drills of its own, with a stretch of one of its clips, and loses none when the clip goes.
func TestDrillsOfATeamsOwn(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "drill.mp4", tiny(t), 1<<20))
	d := testenv.OwnDrill()
	d.ClipID, d.First, d.Last = &clip.ID, 1, len(clip.Stamps)-1
	var v owndrills.View
	c.Do("POST", "/api/own-drills", d, 200, &v)
	if v.Name != d.Name || v.Says != "3 x 4 at 60 %" || len(v.For) != 1 || v.For[0].Name == "" || v.Clip == nil || v.Athlete == "" || !(v.From > 0 && v.To > v.From) || v.Width == 0 {
		t.Fatalf("%+v", v)
	}
	// What pulls the shoulders the other way is not done together with it.
	if len(v.NotWith) == 0 {
		t.Error("nothing pulls the other way")
	}
	path := "/api/own-drills/" + v.ID
	if page := c.Do("GET", path+"/card.pdf", nil, 200, nil); !strings.HasPrefix(string(page), "%PDF") || strings.Count(string(page), "/Subtype /Image") != 5 {
		t.Errorf("a card with %d pictures", strings.Count(string(page), "/Subtype /Image"))
	}
	for name, bad := range map[string]func(*store.NewOwnDrill){
		"no name":            func(d *store.NewOwnDrill) { d.Name = "  " },
		"no such event":      func(d *store.NewOwnDrill) { d.Event = "curling" },
		"a fault of another": func(d *store.NewOwnDrill) { d.Faults = []string{"J8"} },
		"beyond the end":     func(d *store.NewOwnDrill) { d.Last = len(clip.Stamps) },
		"backwards":          func(d *store.NewOwnDrill) { d.First = d.Last + 1 },
		"no such level":      func(d *store.NewOwnDrill) { d.Level = "champion" },
	} {
		x := d
		bad(&x)
		said(t, c.Do("POST", "/api/own-drills", x, http.StatusUnprocessableEntity, nil))
		if raw, status := c.Try("PUT", path, x); status != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d %s", name, status, raw)
		}
	}
	gone := d
	none := uuid.New()
	gone.ClipID = &none
	said(t, c.Do("POST", "/api/own-drills", gone, http.StatusNotFound, nil))

	// Another team's clip is nobody's to show, and its drills are not seen.
	other := h.Coach(t)
	said(t, other.Do("POST", "/api/own-drills", d, http.StatusNotFound, nil))
	said(t, other.Do("PUT", path, testenv.OwnDrill(), http.StatusNotFound, nil))
	var list []owndrills.View
	if other.Do("GET", "/api/own-drills", nil, 200, &list); len(list) != 0 {
		t.Errorf("%+v", list)
	}
	// An assistant looks and keeps nothing.
	aide := c.Colleague(h, store.Assistant)
	if aide.Do("GET", "/api/own-drills", nil, 200, &list); len(list) != 1 {
		t.Errorf("%+v", list)
	}
	said(t, aide.Do("POST", "/api/own-drills", testenv.OwnDrill(), http.StatusForbidden, nil))

	d.Name, d.Ladder = "Set and hold", []string{"standing", " ", "in the blocks"}
	if c.Do("PUT", path, d, 200, &v); v.Name != "Set and hold" || !slices.Equal(v.Ladder, []string{"standing", "in the blocks"}) {
		t.Errorf("%+v", v)
	}
	// An archive has it, with its clip.
	into := h.Coach(t)
	into.Do("POST", "/api/team/import", c.Do("GET", "/api/team/export.zip", nil, 200, nil), 200, nil)
	if into.Do("GET", "/api/own-drills", nil, 200, &list); len(list) != 1 || list[0].Name != "Set and hold" || list[0].Clip == nil || list[0].To != v.To {
		t.Errorf("after an archive: %+v", list)
	}
	// The clip is deleted; the drill stays, and its card does without.
	c.Do("DELETE", "/api/clips/"+clip.ID.String(), nil, 200, nil)
	if c.Do("GET", "/api/own-drills", nil, 200, &list); len(list) != 1 || list[0].Clip != nil || list[0].Name != "Set and hold" {
		t.Errorf("%+v", list)
	}
	if page := c.Do("GET", path+"/card.pdf", nil, 200, nil); strings.Contains(string(page), "/Subtype /Image") {
		t.Error("a picture of a clip that is gone")
	}
	c.Do("DELETE", path, nil, 204, nil)
	said(t, c.Do("DELETE", path, nil, http.StatusNotFound, nil))
	said(t, c.Do("GET", "/api/own-drills/none/card.pdf", nil, http.StatusNotFound, nil))
}
