package backup

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"github.com/go-sql-driver/mysql"

	"corriente/internal/store"
)

// Refused is a file that is not put back, and why; what is there is untouched.
type Refused struct{ Why string }

func (r *Refused) Error() string { return r.Why }

// Summary is what was put back.
type Summary struct{ Jobs, Readings, People int }

// The databases beside the application's own: the new one while it is made, and the old one until
// the new one stands.
func beside(name string) (fresh, before string) { return name + "_restore", name + "_before" }

// Restore puts a file's data in place of what is in a database. Until the last moment nothing of the
// old is touched; the new then takes its place by one rename. A *[Refused] says what is wrong with
// the file.
//
// step, where it is set, is told of every step, and an error of it stops there: for tests.
func Restore(ctx context.Context, cfg *mysql.Config, r io.Reader, step func(what string) error) (*Summary, error) {
	if step == nil {
		step = func(string) error { return nil }
	}
	db, err := connect(cfg)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	fresh, before := beside(cfg.DBName)
	for _, q := range []string{"DROP DATABASE IF EXISTS `" + fresh + "`", "CREATE DATABASE `" + fresh +
		"` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return nil, err
		}
	}
	if err := step("an empty database beside"); err != nil {
		return nil, err
	}
	sum, err := fill(ctx, cfg, fresh, r, step)
	if err != nil {
		_, _ = db.ExecContext(context.WithoutCancel(ctx), "DROP DATABASE IF EXISTS `"+fresh+"`")
		return nil, err
	}
	if err := step("filled and sound"); err != nil {
		return nil, err
	}
	if err := swap(ctx, db, cfg.DBName, fresh, before); err != nil {
		return nil, err
	}
	if err := step("in place"); err != nil {
		return nil, err
	}
	for _, d := range []string{fresh, before} {
		if _, err := db.ExecContext(ctx, "DROP DATABASE IF EXISTS `"+d+"`"); err != nil {
			return nil, err
		}
	}
	return sum, nil
}

// fill makes a database of a file: the tables by the migrations of its time, the rows, and then the
// migrations since.
func fill(ctx context.Context, cfg *mysql.Config, fresh string, r io.Reader, step func(string) error) (*Summary, error) {
	c := cfg.Clone()
	c.DBName = fresh
	db, err := connect(c)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	tx := (*sql.Tx)(nil)
	defer func() {
		if tx != nil {
			_ = tx.Rollback()
		}
	}()
	into := loader{ctx: ctx, there: nil}
	n, err := read(r, sink{
		begin: func(m Manifest) error {
			if into.there, err = tables(ctx, c, db, m); err != nil {
				return err
			}
			if err := step("tables made"); err != nil {
				return err
			}
			if tx, err = db.BeginTx(ctx, nil); err != nil {
				return err
			}
			into.tx = tx
			_, err := tx.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 0") // of this connection, which ends with it
			return err
		},
		row: func(t string, cs []string, values []any) error {
			if err := step("a row of " + t); err != nil {
				return err
			}
			return into.put(t, cs, values)
		},
	})
	if err != nil {
		return nil, refused(err)
	}
	if n["users"] == 0 {
		return nil, &Refused{"nobody in it could sign in: it holds no people"}
	}
	if err := into.flush(); err != nil {
		return nil, refused(err)
	}
	if _, err := tx.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 1"); err != nil {
		return nil, err
	}
	if err := orphans(ctx, tx, fresh); err != nil {
		return nil, err
	}
	err = tx.Commit()
	tx = nil
	if err != nil {
		return nil, err
	}
	if err := step("rows put in"); err != nil {
		return nil, err
	}
	st, err := store.OpenOn(ctx, c) // what has come since
	if err != nil {
		return nil, &Refused{err.Error()}
	}
	defer st.Close()
	sum := &Summary{}
	return sum, st.DB.QueryRowContext(ctx,
		"SELECT (SELECT COUNT(*) FROM jobs), (SELECT COUNT(*) FROM evidence), (SELECT COUNT(*) FROM users)").Scan(&sum.Jobs,
		&sum.Readings, &sum.People)
}

// tables makes the tables of a file's time, empty, and refuses one that names others.
func tables(ctx context.Context, c *mysql.Config, db *sql.DB, m Manifest) (map[string][]string, error) {
	latest, err := store.Latest()
	if err != nil {
		return nil, err
	}
	if m.Schema > latest {
		return nil, &Refused{fmt.Sprintf("it was made by a newer version of the application (schema %d, this one "+
			"knows %d): install that version first", m.Schema, latest)}
	}
	if m.Schema < 1 {
		return nil, &Refused{"it does not say by which version it was made"}
	}
	st, err := store.OpenAt(ctx, c, m.Schema)
	if err != nil {
		return nil, err
	}
	if err := st.Close(); err != nil {
		return nil, err
	}
	there, err := columns(ctx, db, c.DBName)
	if err != nil {
		return nil, err
	}
	for t := range there { // what migrations put in comes with the file
		if _, err := db.ExecContext(ctx, "SET STATEMENT foreign_key_checks = 0 FOR DELETE FROM `"+t+"`"); err != nil {
			return nil, err
		}
	}
	for _, t := range slices.Sorted(maps.Keys(m.Tables)) {
		if there[t] == nil {
			return nil, &Refused{fmt.Sprintf("it holds a table %q that its version does not have", t)}
		}
		for _, col := range m.Tables[t] {
			if !slices.Contains(there[t], col) {
				return nil, &Refused{fmt.Sprintf("its table %s has a column %q that its version does not have", t, col)}
			}
		}
	}
	return there, nil
}

// loader puts rows in, many at a time.
type loader struct {
	ctx     context.Context
	tx      *sql.Tx
	there   map[string][]string
	table   string
	columns []string
	args    []any
	bytes   int
}

// A statement takes so many rows, and so many bytes, at most: a server takes 16 MB by default.
const (
	rowsAtOnce  = 200
	bytesAtOnce = 4 << 20
)

func (l *loader) put(t string, cs []string, values []any) error {
	if l.there[t] == nil {
		return &Refused{fmt.Sprintf("it holds a row of a table %q that it does not name", t)}
	}
	size := 0
	for _, v := range values {
		if b, ok := v.([]byte); ok {
			size += len(b)
		}
	}
	if t != l.table || len(l.args) >= rowsAtOnce*len(cs) || l.bytes+size > bytesAtOnce {
		if err := l.flush(); err != nil {
			return err
		}
		l.table, l.columns = t, cs
	}
	l.args, l.bytes = append(l.args, values...), l.bytes+size
	return nil
}

func (l *loader) flush() error {
	if len(l.args) == 0 {
		return nil
	}
	one := "(" + strings.TrimSuffix(strings.Repeat("?,", len(l.columns)), ",") + ")"
	all := strings.TrimSuffix(strings.Repeat(one+",", len(l.args)/len(l.columns)), ",")
	_, err := l.tx.ExecContext(l.ctx, "INSERT INTO `"+l.table+"` ("+quoted(l.columns)+") VALUES "+all, l.args...)
	l.args, l.bytes = l.args[:0], 0
	if err != nil {
		return fmt.Errorf("a row of %s does not fit: %w", l.table, err)
	}
	return nil
}

// orphans refuses rows that belong to rows that are not there.
func orphans(ctx context.Context, tx *sql.Tx, name string) error {
	rows, err := tx.QueryContext(ctx, `SELECT table_name, GROUP_CONCAT(column_name ORDER BY ordinal_position), MAX(referenced_table_name), GROUP_CONCAT(referenced_column_name ORDER BY ordinal_position)
		FROM information_schema.key_column_usage WHERE table_schema = ? AND referenced_table_name IS NOT NULL GROUP BY table_name, constraint_name`, name)
	if err != nil {
		return err
	}
	type key struct{ table, cols, to, toCols string }
	var keys []key
	for rows.Next() {
		var k key
		if err := rows.Scan(&k.table, &k.cols, &k.to, &k.toCols); err != nil {
			rows.Close()
			return err
		}
		keys = append(keys, k)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	for _, k := range keys {
		a, b := strings.Split(k.cols, ","), strings.Split(k.toCols, ",")
		var on, set []string
		for i := range a {
			on = append(on, "b.`"+b[i]+"` = a.`"+a[i]+"`")
			set = append(set, "a.`"+a[i]+"` IS NOT NULL")
		}
		var n int
		q := fmt.Sprintf("SELECT COUNT(*) FROM `%s` a LEFT JOIN `%s` b ON %s WHERE b.`%s` IS NULL AND %s", k.table,
			k.to, strings.Join(on, " AND "), b[0], strings.Join(set, " AND "))
		if err := tx.QueryRowContext(ctx, q).Scan(&n); err != nil {
			return err
		}
		if n > 0 {
			return &Refused{fmt.Sprintf("it is damaged: %d rows of %s belong to rows of %s that are not in it", n, k.table, k.to)}
		}
	}
	return nil
}

// swap puts the tables of fresh in place of those of name, which go to before, in one statement: as
// one change, or none.
func swap(ctx context.Context, db *sql.DB, name, fresh, before string) error {
	list := func(of string) ([]string, error) {
		rows, err := db.QueryContext(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = ? "+
			"AND table_type = 'BASE TABLE'", of)
		if err != nil {
			return nil, err
		}
		defer rows.Close()
		var out []string
		for rows.Next() {
			var t string
			if err := rows.Scan(&t); err != nil {
				return nil, err
			}
			out = append(out, t)
		}
		return out, rows.Err()
	}
	old, err := list(name)
	if err != nil {
		return err
	}
	now, err := list(fresh)
	if err != nil {
		return err
	}
	for _, q := range []string{"DROP DATABASE IF EXISTS `" + before + "`", "CREATE DATABASE `" + before + "`"} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return err
		}
	}
	var moves []string
	for _, t := range old {
		moves = append(moves, fmt.Sprintf("`%s`.`%s` TO `%s`.`%s`", name, t, before, t))
	}
	for _, t := range now {
		moves = append(moves, fmt.Sprintf("`%s`.`%s` TO `%s`.`%s`", fresh, t, name, t))
	}
	_, err = db.ExecContext(ctx, "RENAME TABLE "+strings.Join(moves, ", "))
	return err
}

// refused makes what a file is to blame for a refusal.
func refused(err error) error {
	var r *Refused
	var me *mysql.MySQLError
	switch {
	case errors.As(err, &r):
		return r
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded), errors.Is(err, mysql.ErrInvalidConn):
		return err
	case errors.As(err, &me):
		return &Refused{err.Error()}
	}
	return &Refused{err.Error()}
}
