package api

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"regexp"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"neokinema/internal/problem"
)

// page is a file of the front end as it is sent: hashed and packed once.
type page struct {
	kind   string // media type
	tag    string
	packed map[string][]byte // by encoding; empty where packing does not pay
}

func init() {
	// Some systems do not know it.
	_ = mime.AddExtensionType(".webmanifest", "application/manifest+json")
}

// encodings in the order in which they are preferred.
var encodings = []string{"br", "gzip"}

// fixed matches addresses that name what is in a folder.
var fixed = regexp.MustCompile(`^(core|pose)~([0-9a-f]{12})/`)

// frontEnd serves the built pages; addresses of screens get the start page.
func (s *server) frontEnd(c *echo.Context) error {
	name := strings.TrimPrefix(path.Clean(c.Request().URL.Path), "/")
	// What has no hash in its address is asked for again, so that pages and core fit.
	keep := "no-cache"
	if strings.HasPrefix(name, "assets/") {
		keep = forGood
	}
	if m := fixed.FindStringSubmatch(name); m != nil {
		now, err := s.fixed()
		if err != nil {
			return err
		}
		if now[m[1]] != m[2] {
			return errRenewed
		}
		name, keep = m[1]+"/"+name[len(m[0]):], forGood
	}
	if st, err := fs.Stat(s.Web, name); err != nil || st.IsDir() {
		if keep == forGood {
			return errRenewed
		}
		name = "index.html"
	}
	p, err := s.page(name)
	if err != nil {
		return problem.New(problem.NotFound, "The front end is not built. Run ./neo demo.")
	}
	h := c.Response().Header()
	h.Set("Cache-Control", keep)
	h.Set("Content-Type", p.kind)
	h.Set("ETag", p.tag)
	h.Add("Vary", "Accept-Encoding")
	for _, e := range encodings {
		if body := p.packed[e]; body != nil && c.Request().Header.Get("Range") == "" && accepts(c.Request(), e) {
			h.Set("Content-Encoding", e)
			http.ServeContent(c.Response(), c.Request(), name, time.Time{}, bytes.NewReader(body))
			return nil
		}
	}
	f, err := s.Web.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	body, ok := f.(io.ReadSeeker)
	if !ok {
		return fmt.Errorf("%s cannot be read from its middle", name)
	}
	http.ServeContent(c.Response(), c.Request(), name, time.Time{}, body)
	return nil
}

func (s *server) page(name string) (*page, error) {
	if p, ok := s.pages.Load(name); ok {
		return p.(*page), nil
	}
	raw, err := fs.ReadFile(s.Web, name)
	if err != nil {
		return nil, err
	}
	p := &page{kind: mime.TypeByExtension(path.Ext(name)), tag: fmt.Sprintf(`W/"%x"`, sha256.Sum256(raw)), packed: map[string][]byte{}}
	if p.kind == "" {
		p.kind = http.DetectContentType(raw)
	}
	if br, err := fs.ReadFile(s.Web, name+".br"); err == nil { // packed as it was built
		p.packed["br"] = br
	}
	var zip bytes.Buffer
	w, err := gzip.NewWriterLevel(&zip, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(raw); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	if zip.Len() < len(raw)*9/10 {
		p.packed["gzip"] = zip.Bytes()
	}
	s.pages.Store(name, p)
	return p, nil
}

const forGood = "public, max-age=31536000, immutable"

var errRenewed = problem.New(problem.NotFound, "The application was renewed on the server meanwhile. Reload the page.")

// fixed are the names of the folders that browsers keep for good, by what is in them.
func (s *server) fixed() (map[string]string, error) {
	raw, err := fs.ReadFile(s.Web, "fixed.json")
	if err != nil {
		return nil, problem.New(problem.NotFound, "The front end is not built. Run ./neo demo.")
	}
	out := map[string]string{}
	return out, json.Unmarshal(raw, &out)
}

// accepts tells whether a client takes an encoding.
func accepts(r *http.Request, encoding string) bool {
	for _, part := range strings.Split(r.Header.Get("Accept-Encoding"), ",") {
		name, how, _ := strings.Cut(strings.TrimSpace(part), ";")
		if strings.EqualFold(strings.TrimSpace(name), encoding) {
			return strings.ReplaceAll(how, " ", "") != "q=0"
		}
	}
	return false
}

// packs tells whether what a request gives is text that packs well: nothing that is asked for in
// pieces, as voices and films are, or told on the way.
func packs(r *http.Request) bool {
	p := r.URL.Path
	return strings.HasPrefix(p, "/api/") && r.Method == http.MethodGet && r.Header.Get("Range") == "" &&
		!strings.HasPrefix(p, "/api/uploads") && !strings.Contains(p, "/frames/") && !strings.Contains(p, "/voices/") && p != "/api/changes" && path.Ext(p) == ""
}
