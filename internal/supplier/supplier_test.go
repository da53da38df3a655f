package supplier

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A supplier's service may point elsewhere in its own house; to another it is not followed:
// the server stands inside the workshop's network.
func TestASupplierIsNotFollowedElsewhere(t *testing.T) {
	asked := 0
	inside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked++
		_, _ = w.Write([]byte(`[{"kind":"fuse","name":"Fuse","price":1,"stock":1}]`))
	}))
	defer inside.Close()
	to := inside.URL
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/moved" {
			_, _ = w.Write([]byte(`[{"kind":"fuse","name":"Fuse","price":1,"stock":1}]`))
			return
		}
		http.Redirect(w, r, to, http.StatusFound)
	}))
	defer srv.Close()
	_, err := Ask(t.Context(), srv.URL, "fuse")
	assert.ErrorContains(t, err, "refused (302)")
	assert.Zero(t, asked)
	to = "/moved"
	ps, err := Ask(t.Context(), srv.URL, "fuse")
	require.NoError(t, err)
	assert.Len(t, ps, 1)
}

func TestASupplierInEveryMood(t *testing.T) {
	mood := ""
	srv := httptest.NewServer(Simulated{Mood: func() string { return mood }})
	defer srv.Close()
	ps, err := Ask(t.Context(), srv.URL, "bearing 20x47x14")
	require.NoError(t, err)
	require.Len(t, ps, 1)
	assert.Contains(t, ps[0].Name, "6204")
	ps, err = Ask(t.Context(), srv.URL, "starter 2.2")
	require.NoError(t, err)
	require.Len(t, ps, 1)
	assert.Nil(t, ps[0].Days)
	assert.Zero(t, ps[0].Stock, "out of stock, days not known")
	for m, says := range map[string]string{"down": "refused", "nonsense": "nonsense"} {
		mood = m
		_, err = Ask(t.Context(), srv.URL, "fuse")
		assert.ErrorContains(t, err, says)
	}
	mood = "slow"
	began := time.Now()
	_, err = Ask(t.Context(), srv.URL, "fuse")
	assert.ErrorContains(t, err, "slow today")
	assert.Less(t, time.Since(began), 2*patience)
	srv.Close()
	_, err = Ask(t.Context(), srv.URL, "fuse")
	assert.ErrorContains(t, err, "cannot be reached")
	_, err = Ask(t.Context(), "jetty", "fuse")
	assert.ErrorContains(t, err, "address")
}
