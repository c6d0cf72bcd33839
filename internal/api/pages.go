package api

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"neokinema/internal/problem"
)

// page is a file of the front end as it is sent: hashed and compressed once.
type page struct {
	kind string // media type
	tag  string
	zip  []byte // nil where compression does not pay
}

// frontEnd serves the built pages; addresses of screens get the start page.
func (s *server) frontEnd(c *echo.Context) error {
	name := strings.TrimPrefix(path.Clean(c.Request().URL.Path), "/")
	if st, err := fs.Stat(s.Web, name); err != nil || st.IsDir() {
		name = "index.html"
	}
	p, err := s.page(name)
	if err != nil {
		return problem.New(problem.NotFound, "The front end is not built. Run ./neo demo.")
	}
	// What has no hash in its name is asked for again, so that pages and core fit.
	keep := "no-cache"
	if strings.HasPrefix(name, "assets/") {
		keep = "public, max-age=31536000, immutable"
	}
	h := c.Response().Header()
	h.Set("Cache-Control", keep)
	h.Set("Content-Type", p.kind)
	h.Set("ETag", p.tag)
	h.Add("Vary", "Accept-Encoding")
	if p.zip != nil && c.Request().Header.Get("Range") == "" && strings.Contains(c.Request().Header.Get("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		http.ServeContent(c.Response(), c.Request(), name, time.Time{}, bytes.NewReader(p.zip))
		return nil
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
	p := &page{kind: mime.TypeByExtension(path.Ext(name)), tag: fmt.Sprintf(`W/"%x"`, sha256.Sum256(raw))}
	if p.kind == "" {
		p.kind = http.DetectContentType(raw)
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
		p.zip = zip.Bytes()
	}
	s.pages.Store(name, p)
	return p, nil
}
