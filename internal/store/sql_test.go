package store_test

import (
	"context"
	"database/sql/driver"
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/testdb"
)

// asked is a statement as it stands in the code, with how many values go with it.
type asked struct {
	at, sql string
	args    int // -1: not to be told from the code
}

// statements finds what this package asks of the database in so many words: calls that take a
// context and a statement which is one text. Statements put together from parts are counted.
func statements(t *testing.T) (whole []asked, parts int) {
	t.Helper()
	set := token.NewFileSet()
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(set, name, nil, 0)
		require.NoError(t, err)
		ast.Inspect(f, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok {
				return true
			}
			sel, ok := call.Fun.(*ast.SelectorExpr)
			if !ok || len(call.Args) < 2 {
				return true
			}
			switch sel.Sel.Name {
			case "QueryContext", "QueryRowContext", "ExecContext", "exec":
			default:
				return true
			}
			text, ok := literal(call.Args[1])
			if !ok {
				parts++
				return true
			}
			n0 := len(call.Args) - 2
			if call.Ellipsis.IsValid() {
				n0 = -1
			}
			whole = append(whole, asked{set.Position(call.Pos()).String(), text, n0})
			return true
		})
	}
	return whole, parts
}

// literal is a text that is written out, in one piece or several.
func literal(e ast.Expr) (string, bool) {
	switch x := e.(type) {
	case *ast.BasicLit:
		s, err := strconv.Unquote(x.Value)
		return s, err == nil
	case *ast.BinaryExpr:
		a, ok1 := literal(x.X)
		b, ok2 := literal(x.Y)
		return a + b, ok1 && ok2 && x.Op == token.ADD
	}
	return "", false
}

// Every statement in the code is one that the database takes as its tables stand: tables,
// columns and values agree. A column that is renamed, or a value too many, is found here and
// not by a person.
func TestEveryStatementFitsTheTables(t *testing.T) {
	st := testdb.Open(t)
	all, parts := statements(t)
	require.Greater(t, len(all), 120)
	t.Logf("%d statements, %d more put together from parts", len(all), parts)
	conn, err := st.DB.Conn(t.Context())
	require.NoError(t, err)
	defer conn.Close()
	for _, q := range all {
		if strings.HasPrefix(q.sql, "LOCK ") || strings.HasPrefix(q.sql, "SET ") {
			continue
		}
		require.NoError(t, conn.Raw(func(c any) error {
			s, err := c.(driver.ConnPrepareContext).PrepareContext(context.Background(), q.sql)
			if !assert.NoError(t, err, "%s: %s", q.at, q.sql) {
				return nil
			}
			if q.args >= 0 {
				assert.Equal(t, q.args, s.NumInput(), "%s: values for %s", q.at, q.sql)
			}
			return s.Close()
		}))
	}
}
