package web

import (
	"bytes"
	"errors"
	"io"
	"mime"
	"net/http"
	"regexp"
	"time"
)

// unseen are letters that nobody means to type and that change what others read: the end of a
// text for some programs, and those that turn the direction of writing (Unicode Standard
// Annex 9; CVE-2021-42574).
var unseen = regexp.MustCompile(`[\x{0000}\x{202a}-\x{202e}\x{2066}-\x{2069}]|(?i:(?:^|[^\\])(?:\\\\)*\\u(?:0000|202[a-e]|206[6-9]))`)

// plainLetters refuses JSON with letters that are not seen and change what is read.
func plainLetters(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet || r.Method == http.MethodHead { // nothing to read; a stream needs the writer as it is
			next.ServeHTTP(w, r)
			return
		}
		if r.ContentLength == 0 { // the connection's background read is under way already
			next.ServeHTTP(hasArrived{w}, r)
			return
		}
		kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type"))
		if kind != "application/json" || r.Body == nil {
			next.ServeHTTP(w, r)
			return
		}
		// Some connections know no limit of time: they are read without one.
		line := http.NewResponseController(w)
		_ = line.SetReadDeadline(time.Now().Add(arriving))
		b, err := io.ReadAll(r.Body)
		_ = line.SetReadDeadline(time.Time{}) // or the background read would run into it while the answer is worked on
		var big *http.MaxBytesError
		switch {
		case errors.As(err, &big):
			writeProblem(w, http.StatusRequestEntityTooLarge, tooLarge)
			return
		case err != nil:
			return // whoever sent it is gone
		}
		// What is called JSON and begins otherwise is something else: a picture is bytes.
		if at := bytes.TrimLeft(b, " \t\r\n"); len(at) > 0 && bytes.IndexByte([]byte(`{["`), at[0]) >= 0 && unseen.Match(b) {
			writeProblem(w, http.StatusUnprocessableEntity,
				"The text holds a letter that is not seen and changes what others read: type it again by hand. Nothing was stored.")
			return
		}
		r.Body = io.NopCloser(bytes.NewReader(b))
		next.ServeHTTP(hasArrived{w}, r)
	})
}

// arriving is how long a body of JSON may take to come in, on a slow line.
const arriving = 30 * time.Second

// hasArrived answers a request whose body is here already. The API's framework sets a limit of five seconds on the
// connection before it reads a body; by then the connection's background read is under way, which would run into that
// limit while what was sent is still worked on: it would take the sender for gone, and so with every later request on
// the same connection.
type hasArrived struct{ http.ResponseWriter }

func (hasArrived) SetReadDeadline(time.Time) error { return nil }

func (w hasArrived) Unwrap() http.ResponseWriter { return w.ResponseWriter }
