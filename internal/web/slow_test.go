package web

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is worked on for longer than a body may take to arrive is not taken for a sender who left: neither this request
// nor the next one on the same connection is ended.
func TestALongAnswerIsNotALostConnection(t *testing.T) {
	const limit = 50 * time.Millisecond
	var ended []error
	srv := httptest.NewServer(plainLetters(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		assert.NoError(t, huma.SetReadDeadline(w, time.Now().Add(limit))) // as the framework does before it reads a body
		_, err := io.ReadAll(r.Body)
		assert.NoError(t, err)
		working, done := context.WithTimeout(r.Context(), 4*limit)
		defer done()
		<-working.Done()
		ended = append(ended, r.Context().Err())
	})))
	defer srv.Close()
	for _, body := range []string{`{"value":"12.4"}`, "", `{"value":"12.5"}`} {
		res, err := srv.Client().Post(srv.URL, "application/json", strings.NewReader(body))
		require.NoError(t, err)
		_, err = io.Copy(io.Discard, res.Body)
		require.NoError(t, errors.Join(err, res.Body.Close()))
	}
	assert.Equal(t, []error{nil, nil, nil}, ended)
}
