package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"

	"corriente/internal/mariadb"
	"corriente/internal/patience"
	"corriente/internal/store"
)

var (
	server  *mariadb.Server
	counter atomic.Int64
)

// Main runs a package's tests beside a MariaDB, and stops it.
func Main(m *testing.M) int {
	dir, err := os.MkdirTemp("/tmp", "corriente-test-")
	if err == nil {
		defer func() { _ = os.RemoveAll(dir) }()
		err = os.Chmod(dir, 0o755)
	}
	if err == nil {
		ctx, cancel := context.WithTimeout(context.Background(), patience.Limit())
		defer cancel()
		server, err = mariadb.Start(ctx, dir+"/db", 0)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "the tests need MariaDB:", err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// DSN returns the address of a new, empty database.
func DSN(t testing.TB) string {
	t.Helper()
	dsn, err := Fresh(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	return dsn
}

// Fresh is [DSN] for what outlives one test.
func Fresh(ctx context.Context) (string, error) {
	cfg, err := mysql.ParseDSN(server.DSN())
	if err != nil {
		return "", err
	}
	name := fmt.Sprintf("corriente_%d", counter.Add(1))
	db, err := sql.Open("mysql", server.DSN())
	if err != nil {
		return "", err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, "CREATE DATABASE "+name+" CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"); err != nil {
		return "", err
	}
	cfg.DBName = name
	return cfg.FormatDSN(), nil
}

// Open returns a store on a new, empty database.
func Open(t testing.TB) *store.Store {
	t.Helper()
	st, err := store.Open(t.Context(), DSN(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	return st
}

// Copy returns a store on a new database with everything that another holds.
func Copy(t testing.TB, from *store.Store) *store.Store {
	t.Helper()
	st := Open(t)
	ctx := t.Context()
	conn, err := st.DB.Conn(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	var name string
	if err := from.DB.QueryRowContext(ctx, "SELECT DATABASE()").Scan(&name); err != nil {
		t.Fatal(err)
	}
	rows, err := conn.QueryContext(ctx,
		"SELECT table_name FROM information_schema.tables WHERE table_schema = ? AND table_type = 'BASE TABLE' AND "+
			"table_name <> 'goose_db_version'", name)
	if err != nil {
		t.Fatal(err)
	}
	var tables []string
	for rows.Next() {
		var table string
		if err := rows.Scan(&table); err != nil {
			t.Fatal(err)
		}
		tables = append(tables, table)
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
	statements := []string{"SET FOREIGN_KEY_CHECKS = 0"}
	for _, table := range tables {
		statements = append(statements, "DELETE FROM "+table, fmt.Sprintf("INSERT INTO %s SELECT * FROM %s.%s", table, name, table))
	}
	for _, q := range append(statements, "SET FOREIGN_KEY_CHECKS = 1") {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			t.Fatalf("%s: %v", q, err)
		}
	}
	return st
}

// DSNOf returns the address of a store's database, to open it a second time.
func DSNOf(t testing.TB, st *store.Store) string {
	t.Helper()
	cfg, err := mysql.ParseDSN(server.DSN())
	if err != nil {
		t.Fatal(err)
	}
	if err := st.DB.QueryRowContext(t.Context(), "SELECT DATABASE()").Scan(&cfg.DBName); err != nil {
		t.Fatal(err)
	}
	return cfg.FormatDSN()
}
