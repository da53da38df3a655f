package core_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// layers are the packages of the core from the ground up: each may import what stands before it,
// and nothing else. A new package is put where it belongs.
var layers = strings.Fields(`
	phrase spell linear unit meter motor circuit conductor casefile fault complaint trace
	diagnose/gauss diagnose/assume diagnose/cells diagnose/readings diagnose/words diagnose/belief
	diagnose/choice diagnose/explain diagnose/picture diagnose/proof diagnose
	blink learn list oldlist parts plate prove repair strip wear winding work intake calc
	machine policy record train desk
	trace/field evaluate/field evaluate`)

// judges are what the rest is judged by: nothing but the command line's own command imports them.
var judges = []string{"corriente/core/evaluate", "corriente/core/evaluate/field", "corriente/core/trace/field"}

func imports(t *testing.T, pattern string) map[string][]string {
	t.Helper()
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, pattern).Output()
	require.NoError(t, err)
	all := map[string][]string{}
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		all[words[0]] = words[1:]
	}
	return all
}

func TestEachLayerStandsOnThoseBefore(t *testing.T) {
	for pkg, uses := range imports(t, "corriente/core/...") {
		at := slices.Index(layers, strings.TrimPrefix(pkg, "corriente/core/"))
		if pkg == "corriente/core" {
			continue
		}
		if !assert.GreaterOrEqual(t, at, 0, "%s has no place among the layers", pkg) {
			continue
		}
		for _, use := range uses {
			if below, ok := strings.CutPrefix(use, "corriente/core/"); ok {
				assert.Contains(t, layers[:at], below, "%s imports %s", pkg, use)
			}
		}
	}
}

func TestNobodyImportsTheirJudge(t *testing.T) {
	for pkg, uses := range imports(t, "corriente/...") {
		if slices.Contains(judges, pkg) || pkg == "corriente/cmd/corriente" || strings.HasPrefix(pkg, "corriente/e2e") {
			continue
		}
		for _, use := range uses {
			assert.NotContains(t, judges, use, "%s imports it", pkg)
			if strings.HasPrefix(pkg, "corriente/core/diagnose") {
				assert.NotEqual(t, "corriente/core/machine", use, "%s imports the machines it is tried on", pkg)
			}
		}
	}
}

// Each package of the core shows by two examples, which run, what it is for.
func TestEachRoomShowsWhatItIsFor(t *testing.T) {
	for _, dir := range layers {
		files, err := filepath.Glob(filepath.Join(filepath.FromSlash(dir), "*_test.go"))
		require.NoError(t, err)
		n := 0
		for _, f := range files {
			b, err := os.ReadFile(f)
			require.NoError(t, err)
			n += strings.Count(string(b), "\nfunc Example")
		}
		assert.GreaterOrEqual(t, n, 2, "examples in core/%s", dir)
	}
}
