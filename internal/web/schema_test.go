package web_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"io"
	"log/slog"
	"maps"
	"math/rand/v2"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/scpi"
)

// notFuzzed are operations that would end the session or the data that all others need.
var notFuzzed = regexp.MustCompile(`^\w+ /api/(session|shift|setup|join|people|demo|backups|events|devices)`)

// Bodies drawn from each operation's own schema, most of them valid and some nearly, with the words of the circuits,
// ids that exist and texts that nobody expects: an operation does it or refuses it in a sentence, and never fails.
// CORRIENTE_CALLS says how many; scripts/fuzz.sh makes a hundred thousand.
func TestWhateverFitsTheSchema(t *testing.T) {
	if testing.Short() {
		t.Skip("many requests, one after the other: nothing for the race detector")
	}
	calls, err := strconv.Atoi(os.Getenv("CORRIENTE_CALLS"))
	if err != nil {
		calls = 500
	}
	seed, err := strconv.ParseUint(os.Getenv("CORRIENTE_SEED"), 10, 64)
	if err != nil {
		seed = 7
	}
	var log said
	c, _ := serveLogged(t, scpi.Gate{AnyPort: true}, slog.NewTextHandler(&log, &slog.HandlerOptions{Level: slog.LevelError}))
	c.signIn("wanda")
	d := &drawn{rng: rand.New(rand.NewPCG(seed, 1)), reg: c.srv.API().Components.Schemas, words: vocabulary(t), ids: c.known()}
	type one struct {
		name, method, path string
		op                 *huma.Operation
	}
	var all []one
	for path, item := range c.srv.API().Paths {
		for method, op := range methods(item) {
			if name := method + " " + path; !notFuzzed.MatchString(name) {
				all = append(all, one{name, method, path, op})
			}
		}
	}
	slices.SortFunc(all, func(a, b one) int { return strings.Compare(a.name, b.name) })
	done, failed := map[string]int{}, 0
	for i := 0; i < calls && failed < 20; i++ {
		o := all[d.rng.IntN(len(all))]
		if i < len(all) {
			o = all[i] // each of them once at least
		}
		body := d.body(o.op)
		req, err := http.NewRequestWithContext(t.Context(), o.method, c.base+d.path(o.path)+d.query(o.op), strings.NewReader(string(body)))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		res, err := c.http.Do(req)
		require.NoError(t, err)
		said, err := io.ReadAll(io.LimitReader(res.Body, 1<<20))
		res.Body.Close()
		require.NoError(t, err)
		require.NotEqual(t, 401, res.StatusCode, "%s ended the session", o.name)
		if res.StatusCode < 500 {
			log.take()
		}
		if res.StatusCode < 300 {
			done[o.name]++
		}
		if !assert.Less(t, res.StatusCode, 500, "%s %s\n%s\n%s\n%s", o.method, req.URL, body, said, log.take()) {
			failed++
		}
	}
	t.Logf("%d calls, %d of %d operations done at least once", calls, len(done), len(all))
	assert.Greater(t, len(done), len(all)/3, "most of it was refused for its form: what is behind was not reached")
	var rows []struct{ ID string }
	assert.Equal(t, 200, c.do("GET", "/api/board", nil, &rows), "and it still works")
	assert.NotEmpty(t, rows)
}

// said keeps what the server logged since it was taken last.
type said struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (s *said) Write(b []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.Write(b)
}

func (s *said) take() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	defer s.b.Reset()
	return s.b.String()
}

// drawn draws values that a schema accepts, and some that it does not.
type drawn struct {
	rng   *rand.Rand
	reg   huma.Registry
	words map[string][]string // by the name of the property
	ids   []string
}

var strange = []string{"", " ", "0", "-1", "1e309", "NaN", "12.4", "12,4", "250m", "OL", "4k7", "9.05 V", "😀 ⚡",
	"ümlaut ß", "<b>bold</b>", "=1+1", "'; DROP TABLE jobs; --", "..", "a/b", "line\nline",
	"2026-03-01", "0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z", "2026-03-01T08:00:00.123456789+05:30", "starter",
	"motor.brushes_worn", "%s%n", "\\", "\"", "null"}

// vocabulary is what the circuits call their things, by the names of the properties that hold them.
func vocabulary(t *testing.T) map[string][]string {
	t.Helper()
	w := map[string][]string{"measure": {"voltage", "current", "resistance", "ac_voltage", "frequency",
		"capacitance"}, "symptom": {"present", "absent", "unknown"}}
	add := func(k string, v ...string) { w[k] = append(w[k], v...) }
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		add("circuit", id)
		for i := range c.States {
			add("state", c.States[i].ID)
		}
		for i := range c.Stations {
			st := &c.Stations[i]
			for _, k := range []string{"station", "through", "stations", "part"} {
				add(k, st.ID)
			}
			add("from", st.From, st.To)
			add("to", st.From, st.To)
			for mode := range st.Faults {
				add("fault", st.ID+"."+mode)
				add("was", st.ID+"."+mode)
			}
			for p := range st.Params {
				add("name", st.ID+"."+p)
			}
		}
		for i := range c.Observations {
			add("observe", c.Observations[i].ID)
			for _, o := range c.Observations[i].Outcomes {
				add("outcome", o.ID)
			}
		}
	}
	return w
}

// known are ids that exist: of jobs, machines, meters.
func (c *client) known() []string {
	var rows []struct {
		ID        string `json:"id"`
		MachineID string `json:"machine_id"`
	}
	var ids []string
	for _, from := range []string{"/api/board?closed=true", "/api/machines", "/api/instruments"} {
		rows = nil
		c.do("GET", from, nil, &rows)
		for _, r := range rows {
			ids = append(ids, r.ID)
			if r.MachineID != "" {
				ids = append(ids, r.MachineID)
			}
		}
	}
	return ids
}

func (d *drawn) of(list []string) string { return list[d.rng.IntN(len(list))] }

func (d *drawn) id() string {
	if len(d.ids) > 0 && d.rng.IntN(10) < 8 {
		return d.of(d.ids)
	}
	var b [16]byte
	binary.LittleEndian.PutUint64(b[:], d.rng.Uint64())
	binary.LittleEndian.PutUint64(b[8:], d.rng.Uint64())
	b[6], b[8] = b[6]&0x0f|0x40, b[8]&0x3f|0x80
	return uuid.UUID(b).String()
}

var hole = regexp.MustCompile(`\{(\w+)\}`)

func (d *drawn) path(path string) string {
	return hole.ReplaceAllStringFunc(path, func(name string) string {
		name = strings.Trim(name, "{}")
		if w := d.words[name]; len(w) > 0 {
			return d.of(w)
		}
		if d.rng.IntN(40) == 0 {
			return "nonsense"
		}
		return d.id()
	})
}

func (d *drawn) query(op *huma.Operation) string {
	var b strings.Builder
	for _, p := range op.Parameters {
		if p.In == "query" && (p.Required || d.rng.IntN(2) == 0) {
			v, _ := json.Marshal(d.value(p.Name, p.Schema, 0))
			b.WriteString("&" + p.Name + "=" + urlSafe(strings.Trim(string(v), `"`)))
		}
	}
	return strings.Replace(b.String(), "&", "?", 1)
}

func urlSafe(s string) string {
	var b strings.Builder
	for _, c := range []byte(s) {
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '.' || c == '-' || c == '_' {
			b.WriteByte(c)
		} else {
			b.WriteString("%" + strings.ToUpper(strconv.FormatUint(uint64(c)+0x100, 16)[1:]))
		}
	}
	return b.String()
}

func (d *drawn) body(op *huma.Operation) []byte {
	if op.RequestBody == nil {
		return nil
	}
	media := op.RequestBody.Content["application/json"]
	if media == nil {
		return []byte(d.of(strange) + "," + d.of(strange) + "\n1,2\n")
	}
	b, err := json.Marshal(d.value("", media.Schema, 0))
	if err != nil {
		return []byte("{}")
	}
	return b
}

// value draws what a schema accepts; one in thirty does not fit.
func (d *drawn) value(name string, s *huma.Schema, deep int) any {
	if s.Ref != "" {
		s = d.reg.SchemaFromRef(s.Ref)
	}
	if d.rng.IntN(30) == 0 {
		return []any{nil, true, -1, 1e18, "", d.of(strange), []any{}, map[string]any{"x": 1}, strings.Repeat("ß", 3000)}[d.rng.IntN(9)]
	}
	switch {
	case len(s.Enum) > 0:
		return s.Enum[d.rng.IntN(len(s.Enum))]
	case len(s.OneOf) > 0:
		return d.value(name, s.OneOf[d.rng.IntN(len(s.OneOf))], deep)
	case len(s.AnyOf) > 0:
		return d.value(name, s.AnyOf[d.rng.IntN(len(s.AnyOf))], deep)
	}
	switch s.Type {
	case huma.TypeObject:
		m := map[string]any{}
		for _, k := range slices.Sorted(maps.Keys(s.Properties)) {
			if slices.Contains(s.Required, k) || (deep < 5 && d.rng.IntN(2) == 0) {
				m[k] = d.value(k, s.Properties[k], deep+1)
			}
		}
		if more, ok := s.AdditionalProperties.(*huma.Schema); ok {
			for range d.rng.IntN(3) {
				m[d.text(name)] = d.value(name, more, deep+1)
			}
		}
		return m
	case huma.TypeArray:
		list := []any{}
		for range least(s.MinItems) + d.rng.IntN(3) {
			list = append(list, d.value(name, s.Items, deep+1))
		}
		return list
	case huma.TypeInteger, huma.TypeNumber:
		lo, hi := -1000.0, 1000.0
		if s.Minimum != nil {
			lo = *s.Minimum
		}
		if s.Maximum != nil {
			hi = *s.Maximum
		}
		v := []float64{lo, hi, 0, 1, lo + (hi-lo)*d.rng.Float64()}[d.rng.IntN(5)]
		if s.Type == huma.TypeInteger {
			return int64(v)
		}
		return v
	case huma.TypeBoolean:
		return d.rng.IntN(2) == 0
	case huma.TypeString:
		switch s.Format {
		case "uuid":
			return d.id()
		case "date-time":
			return d.of([]string{"2026-03-01T08:00:00Z", "2026-11-20T08:00:00.5Z", "0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z"})
		case "date":
			return d.of([]string{"2026-03-01", "1950-01-01", "9999-12-31"})
		}
		text := d.text(name)
		for len(text) < least(s.MinLength) {
			text += "x"
		}
		return text
	}
	return map[string]any{}
}

func (d *drawn) text(name string) string {
	if w := d.words[name]; len(w) > 0 && d.rng.IntN(10) < 8 {
		return d.of(w)
	}
	if name == "id" || strings.HasSuffix(name, "_id") {
		return d.id()
	}
	if d.rng.IntN(60) == 0 {
		return strings.Repeat(d.of(strange)+"x", 200)
	}
	return d.of(strange)
}
