package backup

import (
	"compress/gzip"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"hash"
	"io"
	"slices"
	"time"

	"github.com/go-sql-driver/mysql"
)

// left out: sessions end with the server that made them, migrations make their own table, and what servers
// say to one another is theirs.
var leftOut = []string{"sessions", "goose_db_version", "upkeep", "told"}

// Manifest begins a file.
type Manifest struct {
	Format string              `json:"format"`
	Schema int64               `json:"schema"` // version of the last migration
	At     time.Time           `json:"at"`
	Tables map[string][]string `json:"tables"` // columns, in the order of the rows
}

// row is one line between the manifest and the end. A value is its text as base64, or null.
type row struct {
	Table  string    `json:"t"`
	Values []*string `json:"r"`
}

// end closes a file.
type end struct {
	End    bool           `json:"end"`
	Rows   map[string]int `json:"rows"`
	SHA256 string         `json:"sha256"` // of all lines before it
}

// connect opens a database whose values come as the text they are stored as.
func connect(cfg *mysql.Config) (*sql.DB, error) {
	c := cfg.Clone()
	c.ParseTime, c.InterpolateParams, c.Timeout = false, true, 10*time.Second
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["time_zone"] = "'+00:00'"
	c.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'"
	c.Collation = "utf8mb4_unicode_ci"
	conn, err := mysql.NewConnector(c)
	if err != nil {
		return nil, err
	}
	return sql.OpenDB(conn), nil
}

// columns lists the tables of a database with the columns that hold data of their own.
func columns(ctx context.Context, db querier, name string) (map[string][]string, error) {
	rows, err := db.QueryContext(ctx, `SELECT c.table_name, c.column_name FROM information_schema.columns c JOIN information_schema.tables t USING (table_schema, table_name)
		WHERE c.table_schema = ? AND t.table_type = 'BASE TABLE' AND c.is_generated = 'NEVER' ORDER BY c.table_name, c.ordinal_position`, name)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string][]string{}
	for rows.Next() {
		var t, c string
		if err := rows.Scan(&t, &c); err != nil {
			return nil, err
		}
		if !slices.Contains(leftOut, t) {
			out[t] = append(out[t], c)
		}
	}
	return out, rows.Err()
}

type querier interface {
	QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error)
}

// lines writes JSON a line, summed as it goes.
type lines struct {
	w   io.Writer
	sum hash.Hash

	progress    func(done, of int) // may be nil
	written, of int                // rows so far, of about so many
}

func (l *lines) put(v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	b = append(b, '\n')
	l.sum.Write(b)
	_, err = l.w.Write(b)
	return err
}

// Write writes all data of a database as they are at one moment, while the application goes on or
// not.
func Write(ctx context.Context, cfg *mysql.Config, w io.Writer) error {
	return write(ctx, cfg, w, nil)
}

func write(ctx context.Context, cfg *mysql.Config, w io.Writer, progress func(done, of int)) error {
	db, err := connect(cfg)
	if err != nil {
		return err
	}
	defer db.Close()
	tx, err := db.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }()
	m := Manifest{Format: Format, At: time.Now().UTC()}
	version := tx.QueryRowContext(ctx, "SELECT COALESCE(MAX(version_id),0) FROM goose_db_version WHERE is_applied")
	if err := version.Scan(&m.Schema); err != nil {
		return fmt.Errorf("this is no database of the application: %w", err)
	}
	if m.Tables, err = columns(ctx, tx, cfg.DBName); err != nil {
		return err
	}
	z := gzip.NewWriter(w)
	l := &lines{w: z, sum: sha256.New()}
	if progress != nil {
		if l.of, err = about(ctx, tx, cfg.DBName); err != nil {
			return err
		}
		l.progress = progress
	}
	if err := l.put(m); err != nil {
		return err
	}
	e := end{End: true, Rows: map[string]int{}}
	for t, cs := range m.Tables {
		if e.Rows[t], err = writeTable(ctx, tx, l, t, cs); err != nil {
			return fmt.Errorf("table %s: %w", t, err)
		}
	}
	e.SHA256 = hex.EncodeToString(l.sum.Sum(nil))
	if err := l.put(e); err != nil {
		return err
	}
	return z.Close()
}

// about is roughly how many rows a database has, as it reckons itself.
func about(ctx context.Context, tx querier, name string) (n int, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT CAST(COALESCE(SUM(table_rows), 0) AS SIGNED) FROM "+
		"information_schema.tables WHERE table_schema = ?", name)
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	for rows.Next() {
		if err := rows.Scan(&n); err != nil {
			return 0, err
		}
	}
	return n, rows.Err()
}

func writeTable(ctx context.Context, tx *sql.Tx, l *lines, table string, cs []string) (n int, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT "+quoted(cs)+" FROM `"+table+"`")
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	raw := make([]sql.RawBytes, len(cs))
	to := make([]any, len(cs))
	for i := range raw {
		to[i] = &raw[i]
	}
	for ; rows.Next(); n++ {
		if err := rows.Scan(to...); err != nil {
			return n, err
		}
		r := row{Table: table, Values: make([]*string, len(cs))}
		for i, b := range raw {
			if b != nil {
				s := base64.StdEncoding.EncodeToString(b)
				r.Values[i] = &s
			}
		}
		if err := l.put(r); err != nil {
			return n, err
		}
		l.written++
		if l.progress != nil && l.written%256 == 0 {
			l.progress(l.written, max(l.of, l.written))
		}
	}
	return n, rows.Err()
}

func quoted(cs []string) string {
	out := ""
	for i, c := range cs {
		if i > 0 {
			out += ","
		}
		out += "`" + c + "`"
	}
	return out
}
