package supplier

import (
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Whatever a supplier's service answers, an offer that is taken has a name and a price.
func FuzzAnswer(f *testing.F) {
	for _, s := range []string{`[]`, `[{"kind":"fuse","name":"Fuse","price":1,"stock":1}]`,
		`[{"name":"x","price":-1}]`, `{`, `null`, `[{"name":"x","price":1e308,"days":-1}]`, "\xff"} {
		f.Add([]byte(s))
	}
	var answer atomic.Pointer[[]byte]
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write(*answer.Load()) }))
	f.Cleanup(srv.Close)
	f.Fuzz(func(t *testing.T, b []byte) {
		answer.Store(&b)
		offers, err := Ask(t.Context(), srv.URL, "fuse")
		if err != nil {
			assert.Empty(t, offers)
			return
		}
		for _, o := range offers {
			assert.NotEmpty(t, o.Name)
			assert.Positive(t, o.Price)
			assert.Less(t, o.Price, 1e6)
		}
	})
}
