// Package cache keeps files that can be made again, on disk and within a bound: what
// was used longest ago goes first.
package cache

import (
	"container/list"
	"context"
	"io/fs"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"neokinema/internal/guard"
)

// Cache is a folder of files by key; a key is a relative path with slashes.
type Cache struct {
	dir   string
	most  int64
	mu    sync.Mutex
	at    map[string]*list.Element
	order *list.List // most recently used in front
	total int64
	made  singleflight.Group
}

type entry struct {
	key  string
	size int64
}

// Open takes over what a folder holds from before, up to most bytes.
func Open(dir string, most int64) (*Cache, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	c := &Cache{dir: dir, most: most, at: map[string]*list.Element{}, order: list.New()}
	type found struct {
		entry
		used time.Time
	}
	var all []found
	err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		i, err := d.Info()
		if err != nil {
			return nil // gone meanwhile
		}
		if strings.HasPrefix(d.Name(), partly) {
			return os.Remove(path)
		}
		key, err := filepath.Rel(dir, path)
		all = append(all, found{entry{filepath.ToSlash(key), i.Size()}, i.ModTime()})
		return err
	})
	if err != nil {
		return nil, err
	}
	sort.Slice(all, func(i, j int) bool { return all[i].used.Before(all[j].used) })
	for _, f := range all {
		c.put(f.key, f.size)
	}
	return c, nil
}

// partly begins the names of files that are being made.
const partly = "part-"

func (c *Cache) path(key string) string { return filepath.Join(c.dir, filepath.FromSlash(key)) }

// File is the path of a key's file. When it is not there, make writes it to the path
// that it gets. It is made once for all who ask meanwhile, and goes on when the one who
// asked first has gone.
func (c *Cache) File(ctx context.Context, key string, make func(ctx context.Context, path string) error) (string, error) {
	if c.touch(key) {
		return c.path(key), nil
	}
	done := c.made.DoChan(key, func() (any, error) {
		return nil, guard.Do(func() error { return c.create(context.WithoutCancel(ctx), key, make) })
	})
	select {
	case r := <-done:
		return c.path(key), r.Err
	case <-ctx.Done():
		return "", ctx.Err()
	}
}

func (c *Cache) create(ctx context.Context, key string, make func(ctx context.Context, path string) error) error {
	if c.touch(key) {
		return nil
	}
	path := c.path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(path), partly)
	if err != nil {
		return err
	}
	f.Close()
	defer os.Remove(f.Name())
	if err := make(ctx, f.Name()); err != nil {
		return err
	}
	i, err := os.Stat(f.Name())
	if err != nil {
		return err
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return err
	}
	c.put(key, i.Size())
	return nil
}

// touch notes that a key was used, and tells whether its file is there.
func (c *Cache) touch(key string) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	e, ok := c.at[key]
	if !ok {
		return false
	}
	now := time.Now()
	if os.Chtimes(c.path(key), now, now) != nil { // somebody else removed it
		c.remove(e)
		return false
	}
	c.order.MoveToFront(e)
	return true
}

func (c *Cache) put(key string, size int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if e, ok := c.at[key]; ok {
		c.total -= e.Value.(entry).size
		c.order.Remove(e)
	}
	c.at[key] = c.order.PushFront(entry{key, size})
	c.total += size
	// The newest stays even when it is larger than the bound: somebody waits for it.
	for c.total > c.most && c.order.Len() > 1 {
		last := c.order.Back()
		_ = os.Remove(c.path(last.Value.(entry).key)) // whoever reads it holds it open
		c.remove(last)
	}
}

func (c *Cache) remove(e *list.Element) {
	v := e.Value.(entry)
	c.order.Remove(e)
	delete(c.at, v.key)
	c.total -= v.size
}

// Drop removes all keys below a folder.
func (c *Cache) Drop(folder string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for key, e := range c.at {
		if strings.HasPrefix(key, folder+"/") {
			c.remove(e)
		}
	}
	_ = os.RemoveAll(c.path(folder)) // what cannot go now goes by its age
}

// Held counts the files below a folder, and their bytes.
func (c *Cache) Held(folder string) (files int, bytes int64) {
	_ = filepath.WalkDir(c.path(folder), func(_ string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			if i, err := d.Info(); err == nil {
				files, bytes = files+1, bytes+i.Size()
			}
		}
		return nil
	})
	return files, bytes
}

// Size is how many bytes all files have.
func (c *Cache) Size() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.total
}
