package intake

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/google/uuid"
	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"neokinema/internal/cache"
	"neokinema/internal/media"
	"neokinema/internal/problem"
)

// MediaStore keeps media in a bucket (a folder or an object store, by URL) and hands
// ffmpeg files: those of the folder themselves, or local copies of an object store's.
type MediaStore struct {
	bucket *blob.Bucket
	folder string // empty for an object store
	copies *cache.Cache
	stills *cache.Cache
}

// Bounds of what is kept beside the media, bytes.
const (
	mostCopies = 20 << 30
	mostStills = 1 << 30
)

// Names of a clip's media.
const (
	original = "original"
	proxy    = "proxy.mp4"
	poster   = "poster.jpg"
	film     = "film.mp4" // of a film's id
)

func key(clip uuid.UUID, name string) string { return clip.String() + "/" + name }

// Address is a media URL as it is opened: files in a folder are written beside their
// place (another file system could not be renamed into) and readable by nobody else.
func Address(media string) (address, folder string, err error) {
	u, err := url.Parse(media)
	if err != nil {
		return "", "", err
	}
	if u.Scheme != "file" {
		return media, "", nil
	}
	q := u.Query()
	q.Set("no_tmp_dir", "1")
	q.Set("create_dir", "1")
	if q.Get("dir_file_mode") == "" {
		q.Set("dir_file_mode", "0700")
	}
	u.RawQuery = q.Encode()
	return u.String(), filepath.FromSlash(u.Path), nil
}

// NewMediaStore opens the bucket of a URL such as file:///srv/media; dir is for what can be
// made again.
func NewMediaStore(ctx context.Context, address, dir string) (*MediaStore, error) {
	full, folder, err := Address(address)
	if err != nil {
		return nil, fmt.Errorf("the media URL %q cannot be read: %w", address, err)
	}
	s := &MediaStore{folder: folder}
	if s.bucket, err = blob.OpenBucket(ctx, full); err != nil {
		return nil, fmt.Errorf("the media URL %q cannot be opened: %w", address, err)
	}
	if s.copies, err = cache.Open(filepath.Join(dir, "copies"), mostCopies); err != nil {
		return nil, err
	}
	s.stills, err = cache.Open(filepath.Join(dir, "stills"), mostStills)
	return s, err
}

// Check tells whether the shelf can be written to.
func (s *MediaStore) Check(ctx context.Context) error {
	k := "check-" + uuid.NewString()
	err := s.bucket.WriteAll(ctx, k, []byte("x"), nil)
	if err == nil {
		err = s.bucket.Delete(ctx, k)
	}
	if err != nil {
		return fmt.Errorf("media cannot be written: %w", err)
	}
	return nil
}

// Close lets go of the bucket.
func (s *MediaStore) Close() error { return s.bucket.Close() }

// put stores a local file.
func (s *MediaStore) put(ctx context.Context, k, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	return s.bucket.Upload(ctx, k, f, &blob.WriterOptions{ContentType: "application/octet-stream"})
}

func (s *MediaStore) putBytes(ctx context.Context, k string, b []byte) error {
	return s.bucket.WriteAll(ctx, k, b, nil)
}

// open reads a media file; what is not there (yet) is a problem that says so.
func (s *MediaStore) open(ctx context.Context, k string) (*blob.Reader, error) {
	r, err := s.bucket.NewReader(ctx, k, nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, problem.New(problem.NotFound, "This picture is not ready yet.")
	}
	return r, err
}

// local gives a path that ffmpeg can read.
func (s *MediaStore) local(ctx context.Context, k string) (string, error) {
	if s.folder != "" {
		path := filepath.Join(s.folder, filepath.FromSlash(k))
		if _, err := os.Stat(path); errors.Is(err, os.ErrNotExist) {
			return "", problem.New(problem.NotFound, "This picture is not ready yet.")
		} else if err != nil {
			return "", err
		}
		return path, nil
	}
	return s.copies.File(ctx, k, func(ctx context.Context, path string) error {
		r, err := s.open(ctx, k)
		if err != nil {
			return err
		}
		defer r.Close()
		f, err := os.Create(path)
		if err != nil {
			return err
		}
		_, err = io.Copy(f, r)
		return errors.Join(err, f.Close())
	})
}

// remove deletes all media of a clip or film.
func (s *MediaStore) remove(ctx context.Context, id uuid.UUID) {
	for _, name := range []string{original, proxy, poster, film} {
		_ = s.bucket.Delete(ctx, key(id, name)) // what is not there need not go
	}
	s.copies.Drop(id.String())
	s.stills.Drop(id.String())
	if s.folder != "" {
		_ = os.Remove(filepath.Join(s.folder, id.String())) // the empty folder
	}
}

// held counts the media of a clip that can be found, on the shelf and among the
// working copies.
func (s *MediaStore) held(ctx context.Context, clip uuid.UUID) (files int, bytes int64) {
	for _, name := range []string{original, proxy, poster, film} {
		if a, err := s.bucket.Attributes(ctx, key(clip, name)); err == nil {
			files, bytes = files+1, bytes+a.Size
		}
	}
	for _, c := range []*cache.Cache{s.copies, s.stills} {
		n, b := c.Held(clip.String())
		files, bytes = files+n, bytes+b
	}
	return files, bytes
}

// ids lists what the shelf has media of, that was put there before a time.
func (s *MediaStore) ids(ctx context.Context, before time.Time) (map[uuid.UUID]bool, error) {
	out := map[uuid.UUID]bool{}
	list := s.bucket.List(nil)
	for {
		o, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		folder, _, _ := strings.Cut(o.Key, "/")
		if id, err := uuid.Parse(folder); err == nil && o.ModTime.Before(before) {
			out[id] = true
		}
	}
}

// Media hands over the media files of a clip that are on the shelf.
func (s *Service) Media(ctx context.Context, clip uuid.UUID, each func(name string, size int64, r io.Reader) error) error {
	return s.shelf.each(ctx, clip, []string{original, proxy, poster}, each)
}

// Restore puts a media file of an archive on the shelf. Other names are refused, and
// files that do not begin as a video or a picture does: ffmpeg will read them.
func (s *Service) Restore(ctx context.Context, clip uuid.UUID, name string, r io.Reader) error {
	head := make([]byte, 512)
	n, err := io.ReadFull(r, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return err
	}
	head = head[:n]
	switch {
	case name == poster && strings.HasPrefix(string(head), "\xff\xd8\xff"), name == proxy && media.Video(head), name == original && media.Video(head):
	case name == original || name == proxy || name == poster:
		return problem.New(problem.Invalid, "The archive's media file %s of a clip is no video or picture. Nothing was taken in.", name)
	default:
		return problem.New(problem.Invalid, "The archive has a media file %q that no clip has.", name)
	}
	return s.shelf.bucket.Upload(ctx, key(clip, name), io.MultiReader(strings.NewReader(string(head)), r), &blob.WriterOptions{ContentType: "application/octet-stream"})
}

// Forget removes the media of clips that did not come in after all.
func (s *Service) Forget(ctx context.Context, clips []uuid.UUID) {
	for _, c := range clips {
		s.shelf.remove(ctx, c)
	}
}

// Cached is how many bytes the local copies and the stills take.
func (s *MediaStore) Cached() (copies, stills int64) { return s.copies.Size(), s.stills.Size() }

// Each hands over all that the shelf has of a clip or a film.
func (s *MediaStore) Each(ctx context.Context, id uuid.UUID, each func(name string, size int64, r io.Reader) error) error {
	return s.each(ctx, id, []string{original, proxy, poster, film}, each)
}

func (s *MediaStore) each(ctx context.Context, id uuid.UUID, names []string, each func(name string, size int64, r io.Reader) error) error {
	for _, name := range names {
		r, err := s.bucket.NewReader(ctx, key(id, name), nil)
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

// Put puts a file of a backup back; its name is that of [Shelf.Each] behind the id.
func (s *MediaStore) Put(ctx context.Context, name string, r io.Reader) error {
	id, file, _ := strings.Cut(name, "/")
	parsed, err := uuid.Parse(id)
	if err != nil || file != original && file != proxy && file != poster && file != film {
		return fmt.Errorf("no media are called %q", name)
	}
	return s.bucket.Upload(ctx, key(parsed, file), r, &blob.WriterOptions{ContentType: "application/octet-stream"})
}
