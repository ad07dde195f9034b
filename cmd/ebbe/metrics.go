package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"ebbe/internal/desk"
)

// metrics is what whoever watches over the program reads of it, in the exposition format of
// OpenMetrics: how long requests take, by their routes, and how much waits. Nothing in it
// says whose.
type metrics struct {
	d        *desk.Desk
	requests *prometheus.HistogramVec
}

// gatherWithin is how long counting what waits may take.
const gatherWithin = 5 * time.Second

func newMetrics(d *desk.Desk) *metrics {
	return &metrics{d: d, requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "ebbe_request_seconds", Help: "How long requests took, by their routes.", Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10}}, []string{"method", "route", "status"})}
}

// took notes that a request has ended.
func (m *metrics) took(method, route string, status int, took time.Duration) {
	m.requests.WithLabelValues(method, route, strconv.Itoa(status)).Observe(took.Seconds())
}

// Describe is of prometheus.Collector; what waits is told unchecked.
func (m *metrics) Describe(chan<- *prometheus.Desc) {}

// Collect is of prometheus.Collector.
func (m *metrics) Collect(out chan<- prometheus.Metric) {
	ctx, end := context.WithTimeout(context.Background(), gatherWithin)
	defer end()
	lengths, err := m.d.Lengths(ctx)
	if err != nil {
		slog.Error("what waits cannot be counted", "error", err)
		return
	}
	for _, l := range lengths {
		out <- prometheus.MustNewConstMetric(prometheus.NewDesc("ebbe_"+l.Name, l.Means, nil, nil), prometheus.GaugeValue, l.Value)
	}
}

// serve answers at an address of this machine until the context ends.
func (m *metrics) serve(ctx context.Context, addr string) error {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("%q is no address of this machine alone: what is watched is told at 127.0.0.1:PORT", addr)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("cannot listen on %s: %w", addr, err)
	}
	all := prometheus.NewRegistry()
	all.MustRegister(m, m.requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	srv := &http.Server{Handler: promhttp.HandlerFor(all, promhttp.HandlerOpts{}), ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			slog.Error("what is watched is told no more", "error", err)
		}
	}()
	go func() {
		<-ctx.Done()
		_ = srv.Close()
	}()
	return nil
}
