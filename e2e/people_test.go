package e2e

import (
	"net/http"
	"strings"
	"testing"

	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// A colleague comes into a team by a letter, may do less, and is out again at once; a
// forgotten password comes back the same way.
func TestColleaguesOnScreen(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/team", "[data-testid=accounts]")
	mail := "second-" + c.User.ID.String()[:8] + "@club.example"
	s.See("input[name=invite]").MustInput(mail)
	s.Choose("select[aria-label='Invite as']", "assistant")
	s.Button("^Invite$")
	s.Says("A letter is on its way to " + mail)

	a := h.Screen(t, browser, nil)
	defer a.Done()
	letter := func() {
		t.Helper()
		a.Open(h.URL+"/letters", "[data-testid=letter]")
		a.Until(func() bool {
			return a.MustEval(`mail => [...document.querySelectorAll("[data-testid=letter]")].some(l => l.textContent.includes("to " + mail))`, mail).Bool()
		}, "the letter to "+mail)
		a.MustEval(`mail => [...document.querySelectorAll("[data-testid=letter]")].find(l => l.textContent.includes("to " + mail)).querySelector("a").click()`, mail)
	}
	letter()
	a.Says("as an assistant")
	a.See("input[name=name]").MustInput("Second Pair of Eyes")
	a.See("input[name=password]").MustInput("1234567890")
	a.Button("Make my account")
	a.Says("guessed soon")
	a.See("input[name=password]").MustSelectAllText().MustInput(testenv.Password)
	a.Button("Make my account")
	a.Says("No attempt yet")
	a.Open(h.URL+"/team", "[data-testid=own]")
	a.Says("Second Pair of Eyes")
	if text := a.Text(); strings.Contains(text, "Who came in") || strings.Contains(text, "Export the team") || strings.Contains(text, "Delete the team") {
		t.Errorf("an assistant is shown what is not an assistant's: %.400s", text)
	}

	// Signed out, the password forgotten, and back by a letter.
	a.Button("^sign out$")
	a.Button("Forgotten the password")
	a.Says("Send me a letter") // another form, with a field of the same name
	a.See("input[name=email]").MustInput(mail)
	a.Button("Send me a letter")
	a.Says("a letter with a link is on its way")
	a.Open(h.URL+"/letters", "[data-testid=letter]")
	a.Until(func() bool {
		return a.MustEval(`mail => [...document.querySelectorAll("[data-testid=letter]")].some(l => l.textContent.includes("to " + mail) && l.textContent.includes("new password"))`, mail).Bool()
	}, "the letter with the way back")
	letter()
	a.See("input[name=password]").MustInput("four quite other words")
	a.Button("Set it and sign in")
	a.Says("No attempt yet")

	// What happened stands in the audit, and removed is removed.
	s.MustReload()
	s.Says("joined by an invitation")
	s.Says("set a new password by a link")
	s.Button("^remove$")
	s.Button("^really remove$")
	s.Until(func() bool { return !strings.Contains(s.Text(), mail+", seen") }, "the account is gone")
	a.MustReload()
	a.Says("Sign in")
}

// Since when somebody has done an event, and what the season is for, are entered on the card.
func TestSinceWhenAndWhatFor(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Runa Solheim"), 200, &a)
	page := h.URL + "/athlete/" + a.ID.String()
	s.Open(page, "button")
	s.Button("^details$")
	s.Choose("[data-testid=begun] select", "Discus")
	s.See("[aria-label='Discus begun in']").MustSelectAllText().MustInput("2024")
	s.See("input[name=aim]").MustInput("two clean turns")
	s.Button("^Save")
	s.Says("season: two clean turns")
	var all []store.Athlete
	c.Do("GET", "/api/athletes", nil, 200, &all)
	if a = all[0]; len(all) != 1 || a.Begun["discus"] != 2024 || len(a.Begun) != 1 {
		t.Errorf("kept as %+v", a.Begun)
	}
}

// TestNotifications: who wants it is told what an athlete writes back while he looks elsewhere, and
// who does not want it is not.
func TestNotifications(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	// A browser without windows allows none; what it would show is kept in the page.
	s.MustEvalOnNewDocument(`
		Object.defineProperty(Notification, "permission", { get: () => "granted" });
		Notification.requestPermission = async () => "granted";
		window.told = [];
		ServiceWorkerRegistration.prototype.showNotification = async (title, how) => void told.push([title, how.body, how.data].join(" | "));`)
	s.Open(h.URL+"/settings", "[data-testid=settings]")
	s.Choose("select[name=notify]", "what athletes write back")
	s.Until(func() bool {
		return s.MustEval(`() => JSON.parse(localStorage["neo.settings"]).notify`).Str() == "answers"
	}, "the choice is kept")
	s.See("[aria-label='Back to the queue']").MustClick()
	s.See("[data-attempt]")
	var l share.Link
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": 3}, http.StatusOK, &l)
	s.Until(func() bool {
		return s.MustEval(`() => performance.getEntriesByType("resource").some((r) => r.name.includes("/api/news") && r.responseEnd > 0)`).Bool()
	}, "the page knows since when to tell")
	h.Guest(t).Do("PUT", "/api/shared/"+l.Secret+"/answer", map[string]string{"text": "Lighter."}, http.StatusNoContent, nil)
	s.Until(func() bool { return s.MustEval(`() => told.length`).Int() > 0 }, "the answer is told")
	told := s.MustEval(`() => told[0]`).Str()
	if !strings.Contains(told, "wrote back | Lighter.") || !strings.HasSuffix(told, " | /attempt/"+at.ID.String()+"/feedback") {
		t.Errorf("told: %s", told)
	}
}
