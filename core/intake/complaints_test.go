package intake

import (
	"bufio"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/complaint"
)

// said is one line of a table of complaints.
type said struct {
	circuits, says []string
	text           string
}

func table(t *testing.T, file string) []said {
	t.Helper()
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	var out []said
	for sc := bufio.NewScanner(f); sc.Scan(); {
		if strings.HasPrefix(sc.Text(), "#") {
			continue
		}
		p := strings.Split(sc.Text(), " | ")
		require.Len(t, p, 3, sc.Text())
		out = append(out, said{strings.Split(p[0], "/"), strings.Split(p[1], ", "), p[2]})
	}
	return out
}

// A complaint leads to its circuit without a question where its words say which, and to what it
// says. The first two tables were looked at while the phrases were made: an upper bound. Nobody
// tuned on the third.
func TestComplaints(t *testing.T) {
	for _, c := range []struct {
		file           string
		circuit, heard float64 // least shares
	}{{"testdata/complaints.txt", 0.97, 0.97}, {"testdata/second.txt", 0.97, 0.95}, {"testdata/third.txt", 0.85, 0.6}} {
		rows := table(t, c.file)
		type count struct{ n, circuit, heard int }
		by, all := map[string]*count{}, count{}
		for _, r := range rows {
			k := r.circuits[len(r.circuits)-1]
			if by[k] == nil {
				by[k] = &count{}
			}
			a := Suggest(r.text, nil)
			n := by[k]
			n.n++
			all.n++
			if slices.Contains(r.circuits, a.Fits[0].Circuit) {
				n.circuit++
				all.circuit++
			} else {
				t.Logf("circuit of %q: %s, not %v", r.text, a.Fits[0].Circuit, r.circuits)
			}
			var ids []string
			for _, s := range complaint.Understand(k, r.text) {
				ids = append(ids, s.ID)
			}
			if slices.ContainsFunc(r.says, func(id string) bool { return !slices.Contains(ids, id) }) {
				t.Logf("%q says %v, understood %v", r.text, r.says, ids)
			} else {
				n.heard++
				all.heard++
				if x := slices.DeleteFunc(ids, func(id string) bool { return slices.Contains(r.says, id) }); len(x) > 0 {
					t.Logf("besides, of %q: %v", r.text, x)
				}
			}
		}
		var b strings.Builder
		for _, id := range Order() {
			if n := by[id]; n != nil {
				fmt.Fprintf(&b, "\n%-16s %3d %3d %3d", id, n.n, n.circuit, n.heard)
			}
		}
		t.Logf("%s: circuit, complaints, circuit right, all said understood%s\n%-16s %3d %3d %3d", c.file, b.String(),
			"all", all.n, all.circuit, all.heard)
		assert.GreaterOrEqual(t, float64(all.circuit)/float64(all.n), c.circuit, "circuit")
		assert.GreaterOrEqual(t, float64(all.heard)/float64(all.n), c.heard, "understood")
	}
}
