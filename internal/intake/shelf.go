package intake

import (
	"context"
	"errors"
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
	film     = "film.mp4" // of a film's id
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
	for _, name := range []string{original, proxy, poster, film} {
		_ = s.bucket.Delete(ctx, key(clip, name)) // what is not there need not go
	}
	_ = os.RemoveAll(filepath.Join(s.cache, clip.String()))
}

// held counts the media of a clip that can be found, on the shelf and among the
// working copies.
func (s *Shelf) held(ctx context.Context, clip uuid.UUID) (files int, bytes int64) {
	for _, name := range []string{original, proxy, poster, film} {
		if a, err := s.bucket.Attributes(ctx, key(clip, name)); err == nil {
			files, bytes = files+1, bytes+a.Size
		}
	}
	list, _ := os.ReadDir(filepath.Join(s.cache, clip.String())) // no folder, no copies
	for _, f := range list {
		if i, err := f.Info(); err == nil {
			files, bytes = files+1, bytes+i.Size()
		}
	}
	return files, bytes
}

// Media hands over the media files of a clip that are on the shelf.
func (s *Service) Media(ctx context.Context, clip uuid.UUID, each func(name string, size int64, r io.Reader) error) error {
	for _, name := range []string{original, proxy, poster} {
		r, err := s.shelf.bucket.NewReader(ctx, key(clip, name), nil)
		if gcerrors.Code(err) == gcerrors.NotFound {
			continue
		}
		if err != nil {
			return err
		}
		err = each(name, r.Size(), r)
		if err := errors.Join(err, r.Close()); err != nil {
			return err
		}
	}
	return nil
}

// Restore puts a media file of an archive on the shelf; other names are refused.
func (s *Service) Restore(ctx context.Context, clip uuid.UUID, name string, r io.Reader) error {
	if name != original && name != proxy && name != poster {
		return problem.New(problem.Invalid, "The archive has a media file %q that no clip has.", name)
	}
	return s.shelf.bucket.Upload(ctx, key(clip, name), r, &blob.WriterOptions{ContentType: "application/octet-stream"})
}

// Forget removes the media of clips that did not come in after all.
func (s *Service) Forget(ctx context.Context, clips []uuid.UUID) {
	for _, c := range clips {
		s.shelf.remove(ctx, c)
	}
}
