// Package metrics counts what an operator watches, in the format of Prometheus.
package metrics

import (
	"context"
	"net/http"
	"strconv"
	"syscall"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/store"
)

// Registry holds the numbers of one server.
type Registry struct {
	all      *prometheus.Registry
	requests *prometheus.HistogramVec
}

// New makes the numbers; data is the folder whose disk is watched.
func New(s *store.Store, shelf *intake.MediaStore, data string) *Registry {
	r := &Registry{all: prometheus.NewRegistry(), requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "neokinema_request_seconds", Help: "Time of requests by route.", Buckets: []float64{.005, .02, .1, .5, 2, 10, 60},
	}, []string{"method", "route", "status"})}
	r.all.MustRegister(r.requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), &house{s, shelf, data})
	return r
}

// Request notes one request; route has names for its parameters.
func (r *Registry) Request(method, route string, status int, took time.Duration) {
	if route == "" {
		route = "none"
	}
	r.requests.WithLabelValues(method, route, strconv.Itoa(status)).Observe(took.Seconds())
}

// Handler gives the numbers.
func (r *Registry) Handler() http.Handler { return promhttp.HandlerFor(r.all, promhttp.HandlerOpts{}) }

// house is what is read when somebody asks.
type house struct {
	store *store.Store
	shelf *intake.MediaStore
	data  string
}

func describe(name, help string, labels ...string) *prometheus.Desc {
	return prometheus.NewDesc("neokinema_"+name, help, labels, nil)
}

var (
	up      = describe("database_up", "1 while the database answers.")
	jobs    = describe("jobs", "Jobs by kind and state.", "kind", "state")
	oldest  = describe("job_oldest_seconds", "Age of the oldest job that waits, by kind.", "kind")
	clips   = describe("clips", "Clips by state.", "state")
	stored  = describe("media_bytes", "Bytes of media of all clips.")
	teams   = describe("teams", "Teams.")
	servers = describe("servers", "Servers on the database.")
	tools   = describe("ffmpeg_runs_total", "Runs of ffmpeg and ffprobe on this server, by how they ended.", "end")
	running = describe("ffmpeg_running", "ffmpeg and ffprobe that run on this server now.")
	cached  = describe("cache_bytes", "Bytes that can be made again.", "cache")
	free    = describe("disk_free_bytes", "Free on the disk of the data folder.")
)

// Describe is called by the library.
func (h *house) Describe(to chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{up, jobs, oldest, clips, stored, teams, servers, tools, running, cached, free} {
		to <- d
	}
}

// askTime is what the database may take for its numbers.
const askTime = 5 * time.Second

// Collect is called by the library.
func (h *house) Collect(to chan<- prometheus.Metric) {
	gauge := func(d *prometheus.Desc, v float64, labels ...string) {
		to <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, v, labels...)
	}
	ctx, cancel := context.WithTimeout(context.Background(), askTime)
	defer cancel()
	n, err := h.store.Numbers(ctx)
	if err != nil {
		gauge(up, 0)
	} else {
		gauge(up, 1)
		for _, j := range n.Jobs {
			gauge(jobs, float64(j.Count), j.Kind, j.State)
			if j.State == "available" {
				gauge(oldest, j.Oldest, j.Kind)
			}
		}
		for _, c := range n.Clips {
			gauge(clips, float64(c.Count), c.State)
		}
		gauge(stored, float64(n.Bytes))
		gauge(teams, float64(n.Teams))
		gauge(servers, float64(n.Servers))
	}
	good, bad, now := media.Runs()
	to <- prometheus.MustNewConstMetric(tools, prometheus.CounterValue, float64(good), "good")
	to <- prometheus.MustNewConstMetric(tools, prometheus.CounterValue, float64(bad), "bad")
	gauge(running, float64(now))
	copies, stills := h.shelf.Cached()
	gauge(cached, float64(copies), "copies")
	gauge(cached, float64(stills), "stills")
	var disk syscall.Statfs_t
	if syscall.Statfs(h.data, &disk) == nil {
		gauge(free, float64(int64(disk.Bavail)*disk.Bsize))
	}
}
