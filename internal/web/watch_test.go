package web_test

import (
	"bytes"
	"log/slog"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/patience"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

// The figures name routes, methods and outcomes; no id, login or address stands in them, nor in the log.
func TestFiguresAndLogsNameNobody(t *testing.T) {
	from, err := loaded()
	require.NoError(t, err)
	st := testdb.Copy(t, from)
	reg := prometheus.NewRegistry()
	var log bytes.Buffer
	s := web.New(st, web.Options{Log: slog.New(slog.NewTextHandler(&log,
		&slog.HandlerOptions{Level: slog.LevelDebug})), Timeout: patience.Limit(), Metrics: reg})
	srv := httptest.NewServer(s)
	t.Cleanup(func() { srv.Close(); s.Close() })
	c := (&client{t, srv.URL, nil, s}).another()
	c.signIn("wanda")
	j := c.job("Rescue boat Coot")
	c.do("POST", "/api/session", map[string]string{"login": "wanda", "password": "not this one"}, nil)
	srv.Close()
	s.Close()
	families, err := reg.Gather()
	require.NoError(t, err)
	var said strings.Builder
	requests := false
	for _, f := range families {
		said.WriteString(f.String())
		requests = requests || f.GetName() == "corriente_request_seconds"
	}
	assert.True(t, requests)
	assert.Contains(t, said.String(), "/api/jobs/{id}")
	for _, private := range []string{j.ID, "wanda", "127.0.0.1", "not this one", "Coot"} {
		assert.NotContains(t, said.String(), private)
		assert.NotContains(t, log.String(), private)
	}
	assert.Regexp(t, `id=[0-9a-f]{8}`, log.String(), "the number a person reads out")
}
