package intake

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sync"

	"github.com/google/uuid"
	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"neokinema/internal/problem"
)

// Shelf keeps media in a bucket (a folder or an object store, by URL) and hands
// ffmpeg local copies.
type Shelf struct {
	bucket *blob.Bucket
	cache  string
	mu     sync.Mutex
}

// Names of a clip's media.
const (
	original = "original"
	proxy    = "proxy.mp4"
	poster   = "poster.jpg"
)

func key(clip uuid.UUID, name string) string { return clip.String() + "/" + name }

// NewShelf opens the bucket of a URL such as file:///srv/media?create_dir=1.
func NewShelf(ctx context.Context, url, cache string) (*Shelf, error) {
	b, err := blob.OpenBucket(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("the media URL %q cannot be opened: %w", url, err)
	}
	if err := os.MkdirAll(cache, 0o755); err != nil {
		return nil, err
	}
	return &Shelf{bucket: b, cache: cache}, nil
}

// Close lets go of the bucket.
func (s *Shelf) Close() error { return s.bucket.Close() }

// put stores a local file.
func (s *Shelf) put(ctx context.Context, k, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	return s.bucket.Upload(ctx, k, f, &blob.WriterOptions{ContentType: "application/octet-stream"})
}

func (s *Shelf) putBytes(ctx context.Context, k string, b []byte) error {
	return s.bucket.WriteAll(ctx, k, b, nil)
}

// open reads a media file; what is not there (yet) is a problem that says so.
func (s *Shelf) open(ctx context.Context, k string) (*blob.Reader, error) {
	r, err := s.bucket.NewReader(ctx, k, nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, problem.New(problem.NotFound, "This picture is not ready yet.")
	}
	return r, err
}

// local gives a path that ffmpeg can read, copying the file once.
func (s *Shelf) local(ctx context.Context, k string) (string, error) {
	path := filepath.Join(s.cache, filepath.FromSlash(k))
	s.mu.Lock()
	defer s.mu.Unlock()
	if _, err := os.Stat(path); err == nil {
		return path, nil
	}
	r, err := s.open(ctx, k)
	if err != nil {
		return "", err
	}
	defer r.Close()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return "", err
	}
	tmp, err := os.CreateTemp(filepath.Dir(path), "part-*")
	if err != nil {
		return "", err
	}
	defer os.Remove(tmp.Name())
	if _, err := io.Copy(tmp, r); err != nil {
		tmp.Close()
		return "", err
	}
	if err := tmp.Close(); err != nil {
		return "", err
	}
	return path, os.Rename(tmp.Name(), path)
}

// remove deletes all media of a clip.
func (s *Shelf) remove(ctx context.Context, clip uuid.UUID) {
	for _, name := range []string{original, proxy, poster} {
		_ = s.bucket.Delete(ctx, key(clip, name)) // what is not there need not go
	}
	_ = os.RemoveAll(filepath.Join(s.cache, clip.String()))
}
