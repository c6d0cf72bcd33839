package testenv

import (
	"encoding/json"
	"os"
	"path/filepath"
)

// Marked opens what follows in the language for tests, in which every text of the catalogue
// stands in ⟦ ⟧, and listens to what the server and the core say.
func (s *Screen) Marked() {
	s.T.Helper()
	s.MustEvalOnNewDocument(`{
		const said = (window.said = new Set());
		const hear = (v) => {
			if (typeof v === "string") said.add(v.toLowerCase());
			else if (Array.isArray(v)) v.forEach(hear);
			else if (v && typeof v === "object") for (const [k, x] of Object.entries(v)) { said.add(k.toLowerCase()); hear(x); }
			return v;
		};
		const parse = JSON.parse, json = Response.prototype.json;
		JSON.parse = (...a) => hear(parse(...a));
		Response.prototype.json = async function () { return hear(await json.call(this)); };
		localStorage.setItem("neo.settings", '{"language":"marked"}');
	}`)
}

// Outside are the texts on the screen, and of its labels, that stand in no catalogue and were
// said neither by the server nor by the core: their numbers, units, dates and keys are not among
// them.
func (s *Screen) Outside() (out []string) {
	s.T.Helper()
	tables := map[string]any{}
	files, err := filepath.Glob(filepath.Join(root(), "web", "src", "api", "gen", "*.json"))
	if err != nil || len(files) == 0 {
		s.T.Fatal("the tables of the core are not there: ", err)
	}
	for _, path := range files {
		raw, err := os.ReadFile(path)
		if err != nil {
			s.T.Fatal(err)
		}
		var v any
		if err := json.Unmarshal(raw, &v); err != nil {
			s.T.Fatal(err)
		}
		tables[path] = v
	}
	found := s.MustEval(`(tables) => {
		const said = [...window.said];
		const add = (v) => typeof v === "string" ? said.push(v.toLowerCase()) : v && typeof v === "object" && Object.values(v).forEach(add);
		add(tables);
		const days = /\b(mon|tues?|wed(nes)?|thu(rs)?|fri|sat(ur)?|sun)(day)?\b|\b(jan(uary)?|feb(ruary)?|mar(ch)?|apr(il)?|may|june?|july?|aug(ust)?|sept?(ember)?|oct(ober)?|nov(ember)?|dec(ember)?)\b/g;
		const plain = (text) => text.replace(/_/g, " ").replace(days, " ").replace(/[-+−±]?\d[\d.,]*/g, " ").replace(/\s+/g, " ");
		const all = plain(said.join(" | "));
		const units = /^(ms|kg|cm|mm|kgf|lbf|px|mb|gb|hz|fps|ft|in|pdf|csv|json|svg|png|webvtt|coco|c3d|yaml|http\S*|\S+@\S+)$/;
		const bare = (text) => {
			let depth = 0, rest = "";
			for (const c of text) {
				if (c === "⟦") depth++;
				else if (c === "⟧") { depth--; rest += "|"; }
				else if (!depth) rest += c;
			}
			return rest;
		};
		const outside = (text) => bare(text).toLowerCase().split(/[|·,;:()“”"…→←/\n]+/)
			.map((part) => plain(part).trim())
			.some((part) => /\p{L}{2}/u.test(part) && !units.test(part) && !all.includes(part)
				&& !part.split(" ").every((w) => !/\p{L}{2}/u.test(w) || units.test(w)));
		const found = new Set();
		const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_ELEMENT | NodeFilter.SHOW_TEXT);
		for (let n = walk.nextNode(); n; n = walk.nextNode()) {
			if (n.nodeType === Node.TEXT_NODE) {
				const p = n.parentElement;
				if (p.closest("kbd, style, script, textarea, title, noscript") || !p.checkVisibility()) continue;
				if (outside(n.data)) found.add(n.data.trim());
			} else
				for (const a of ["aria-label", "title", "placeholder", "alt"])
					if (n.hasAttribute(a) && n.checkVisibility() && outside(n.getAttribute(a))) found.add(a + "=" + n.getAttribute(a));
		}
		return [...found];
	}`, tables)
	for _, v := range found.Arr() {
		out = append(out, v.Str())
	}
	return out
}
