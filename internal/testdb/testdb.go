// Package testdb gives tests a MariaDB of their own: one server a test binary,
// an empty database a test.
package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"

	"corriente/internal/mariadb"
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
		defer os.RemoveAll(dir)
		err = os.Chmod(dir, 0o755)
	}
	if err == nil {
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
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
	cfg, err := mysql.ParseDSN(server.DSN())
	if err != nil {
		t.Fatal(err)
	}
	name := fmt.Sprintf("corriente_%d", counter.Add(1))
	db, err := sql.Open("mysql", server.DSN())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.ExecContext(t.Context(), "CREATE DATABASE "+name+" CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"); err != nil {
		t.Fatal(err)
	}
	cfg.DBName = name
	return cfg.FormatDSN()
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
