package backup_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/backup"
	"corriente/internal/demo"
	"corriente/internal/password"
	"corriente/internal/patience"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

func TestMain(m *testing.M) { os.Exit(testdb.Main(m)) }

func config(t *testing.T, dsn string) *mysql.Config {
	t.Helper()
	c, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	return c
}

// workshop is a database with one person and so many machines.
func workshop(t *testing.T, machines int) *mysql.Config {
	t.Helper()
	dsn := testdb.DSN(t)
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer st.Close()
	hash, err := password.Hash(demo.Password)
	require.NoError(t, err)
	require.NoError(t, st.PutUser(t.Context(), store.User{ID: store.NewID(), Login: "ida", Name: "Ida", Role: "owner", Hash: hash}))
	for i := range machines {
		require.NoError(t, st.PutMachine(t.Context(),
			store.Machine{ID: store.NewID(), Name: fmt.Sprintf("Punt “Ägir” %d; DROP TABLE users; 'é\\", i), Kind: "boat", Voltage: 12}))
	}
	u, err := st.UserByLogin(t.Context(), "ida")
	require.NoError(t, err)
	require.NoError(t, st.PutPhoto(t.Context(), store.NewID(), []byte{0, 0xff, '\'', '\n', 0x1a, '\\'}, []byte{1}, u.ID))
	return config(t, dsn)
}

func written(t *testing.T, c *mysql.Config) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, backup.Write(t.Context(), c, &b))
	return b.Bytes()
}

// dump is every row of a database as text, without the tables that are not backed up.
func dump(t *testing.T, c *mysql.Config) map[string]int {
	t.Helper()
	st, err := sql.Open("mysql", c.FormatDSN())
	require.NoError(t, err)
	defer st.Close()
	out := map[string]int{}
	for _, table := range []string{"users", "machines", "jobs", "evidence", "blob_parts", "decisions", "code_tables"} {
		rows, err := st.QueryContext(t.Context(), "SELECT * FROM "+table)
		if err != nil {
			continue
		}
		cs, err := rows.Columns()
		require.NoError(t, err)
		for rows.Next() {
			raw, to := make([]sql.RawBytes, len(cs)), make([]any, len(cs))
			for i := range raw {
				to[i] = &raw[i]
			}
			require.NoError(t, rows.Scan(to...))
			out[table+fmt.Sprintf("%q", raw)]++
		}
		require.NoError(t, rows.Err())
	}
	require.NotEmpty(t, out)
	return out
}

// signsIn reports whether somebody can sign in to the application on a database.
func signsIn(t *testing.T, c *mysql.Config) bool {
	t.Helper()
	st, err := store.OpenOn(t.Context(), c)
	require.NoError(t, err)
	defer st.Close()
	srv := web.New(st, web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit()})
	defer srv.Close()
	s := httptest.NewServer(srv)
	defer s.Close()
	req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.URL+"/api/session",
		strings.NewReader(`{"login":"ida","password":"`+demo.Password+`"}`))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	return res.StatusCode == 200
}

// Everything comes back as it was, with text that would end a statement and bytes of every kind, and
// the people can sign in.
func TestWhatIsWrittenComesBack(t *testing.T) {
	from := workshop(t, 300)
	file := written(t, from)
	to := workshop(t, 1)
	sum, err := backup.Restore(t.Context(), to, bytes.NewReader(file), nil)
	require.NoError(t, err)
	assert.Equal(t, 1, sum.People)
	assert.Equal(t, dump(t, from), dump(t, to))
	assert.True(t, signsIn(t, to))
	// Into an empty database, and once more over itself.
	fresh := config(t, testdb.DSN(t))
	for range 2 {
		_, err = backup.Restore(t.Context(), fresh, bytes.NewReader(file), nil)
		require.NoError(t, err)
	}
	assert.Equal(t, dump(t, from), dump(t, fresh))
}

type killed struct{}

// Killed at twenty moments, the old data are there whole or the new; the next time it goes through.
func TestKilledAtAnyMoment(t *testing.T) {
	file := written(t, workshop(t, 40))
	var steps []string
	to := workshop(t, 3)
	old := dump(t, to)
	_, err := backup.Restore(t.Context(), config(t, testdb.DSN(t)), bytes.NewReader(file), func(what string) error {
		steps = append(steps, what)
		return nil
	})
	require.NoError(t, err)
	require.Greater(t, len(steps), 40)
	rng := rand.New(rand.NewPCG(23, 1))
	moments := []int{0, 1, 2, len(steps) - 1, len(steps) - 2, len(steps) - 3, len(steps) - 4}
	for len(moments) < 20 {
		moments = append(moments, rng.IntN(len(steps)))
	}
	for _, at := range moments {
		func() {
			defer func() { require.Equal(t, killed{}, recover(), "killed at %d", at) }()
			n := 0
			_, _ = backup.Restore(t.Context(), to, bytes.NewReader(file), func(string) error {
				if n++; n == at+1 {
					panic(killed{})
				}
				return nil
			})
		}()
		now := dump(t, to)
		if at < len(steps)-1 {
			require.Equal(t, old, now, "killed at %q, the old is there whole", steps[at])
		} else {
			require.Len(t, now, 1+40+2, "killed when it stood, the new is there: a person, machines, a photo and its small one")
			old = now
		}
		require.True(t, signsIn(t, to), "killed at %q", steps[at])
	}
	_, err = backup.Restore(t.Context(), to, bytes.NewReader(file), nil)
	require.NoError(t, err)
}

func unpack(t *testing.T, file []byte) []string {
	t.Helper()
	z, err := gzip.NewReader(bytes.NewReader(file))
	require.NoError(t, err)
	b, err := io.ReadAll(z)
	require.NoError(t, err)
	return strings.SplitAfter(strings.TrimSuffix(string(b), "\n"), "\n")
}

func pack(lines ...string) []byte {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, _ = io.WriteString(z, strings.Join(lines, ""))
	_ = z.Close()
	return b.Bytes()
}

// Thirty damaged files and more are refused, each with a reason, and what is there stays.
func TestDamagedFilesAreRefused(t *testing.T) {
	file := written(t, workshop(t, 5))
	to := workshop(t, 2)
	old := dump(t, to)
	lines := unpack(t, file)
	head, last := lines[0], lines[len(lines)-1]
	change := func(from, with string) string { return strings.Replace(head, from, with, 1) }
	bad := map[string][]byte{
		"empty":             {},
		"no gzip":           []byte("not a backup"),
		"gzip of nothing":   pack(),
		"gzip of text":      pack("hello, workshop\n"),
		"another format":    pack(append([]string{change("corriente-backup/2", "corriente-backup/3")}, lines[1:]...)...),
		"newer schema":      pack(append([]string{change(`"schema":`, `"schema":9`)}, lines[1:]...)...),
		"no schema":         pack(append([]string{strings.Replace(head, `"schema":`, `"shema":`, 1)}, lines[1:]...)...),
		"manifest torn":     pack(head[:len(head)/2]),
		"manifest alone":    pack(head),
		"no end":            pack(lines[:len(lines)-1]...),
		"a row missing":     pack(append(append([]string{head}, lines[2:len(lines)-1]...), last)...),
		"a row twice":       pack(append([]string{head, lines[1]}, lines[1:]...)...),
		"rows swapped":      pack(append([]string{head, lines[2], lines[1]}, lines[3:]...)...),
		"more after it":     pack(append(append([]string{}, lines...), "\n", lines[1])...),
		"a row of no table": pack(append([]string{head, `{"t":"nothing","r":[]}` + "\n"}, lines[1:]...)...),
		"a row too short":   pack(append([]string{head, `{"t":"users","r":[]}` + "\n"}, lines[1:]...)...),
		"not base64":        pack(append([]string{head, strings.Replace(lines[1], `"r":["`, `"r":["!`, 1)}, lines[2:]...)...),
		"not json":          pack(append([]string{head, "{\n"}, lines[1:]...)...),
		"wrong checksum": pack(append(append([]string{}, lines[:len(lines)-1]...),
			strings.Replace(last, `"sha256":"`, `"sha256":"0`, 1))...),
		"end cut":       pack(append(append([]string{}, lines[:len(lines)-1]...), last[:len(last)-8])...),
		"shell command": pack("-- corriente backup 1\n", "\\! touch /tmp/owned\n", "-- Dump completed\n"),
		"no tables":     pack("-- corriente backup 1\n", "SELECT 1;\n", "-- Dump completed\n"),
		"dump cut":      pack("-- corriente backup 1\n", "CREATE TABLE `users` (\n", "  `id` binary(16) NOT NULL,\n"),
		"a select": pack("-- corriente backup 1\n",
			"INSERT INTO `users` VALUES (LOAD_FILE('/etc/passwd'));\n", "-- Dump completed\n"),
		"a sub-select": pack("-- corriente backup 1\n", "INSERT INTO `users` VALUES ((SELECT 1));\n", "-- Dump completed\n"),
		"text unended": pack("-- corriente backup 1\n", "INSERT INTO `users` VALUES ('abc);\n", "-- Dump completed\n"),
	}
	for i := 1; i <= 8; i++ { // torn at every eighth, as a full disk leaves it
		bad[fmt.Sprintf("torn at %d/9", i)] = file[:len(file)*i/9]
	}
	for i := range 6 { // a byte turned
		b := bytes.Clone(file)
		b[len(b)*(2*i+1)/13] ^= 0x55
		bad[fmt.Sprintf("byte turned %d", i)] = b
	}
	require.GreaterOrEqual(t, len(bad), 30)
	for name, b := range bad {
		_, err := backup.Restore(t.Context(), to, bytes.NewReader(b), nil)
		var no *backup.Refused
		if !assert.True(t, errors.As(err, &no), "%s: %v", name, err) {
			continue
		}
		assert.NotEmpty(t, no.Why, name)
		assert.NotContains(t, no.Why, "panic", name)
	}
	assert.Equal(t, old, dump(t, to), "what was there is there")
	assert.True(t, signsIn(t, to))
	_, err := os.Stat("/tmp/owned")
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// A dump of the time before this format is put back too, and people can sign in.
func TestABackupOfBeforeThisFormat(t *testing.T) {
	from := workshop(t, 30)
	host, port, _ := strings.Cut(from.Addr, ":")
	cmd := exec.CommandContext(t.Context(), "mariadb-dump", "--no-defaults", "--protocol=tcp", "--host="+host,
		"--port="+port, "--user="+from.User, "--default-character-set=utf8mb4",
		"--single-transaction", "--skip-lock-tables", "--no-tablespaces", "--hex-blob", "--ignore-table="+from.DBName+
			".sessions", from.DBName)
	cmd.Env = append(os.Environ(), "MYSQL_PWD="+from.Passwd)
	sqlText, err := cmd.Output()
	require.NoError(t, err)
	to := workshop(t, 1)
	_, err = backup.Restore(t.Context(), to, bytes.NewReader(pack("-- corriente backup 1\n", string(sqlText))), nil)
	require.NoError(t, err)
	assert.Equal(t, dump(t, from), dump(t, to))
	assert.True(t, signsIn(t, to))
}

// A file of an older schema is brought up to date.
func TestAnOlderSchema(t *testing.T) {
	dsn := testdb.DSN(t)
	st, err := store.OpenAt(t.Context(), config(t, dsn), 31)
	require.NoError(t, err)
	require.NoError(t, st.PutUser(t.Context(), store.User{ID: store.NewID(), Login: "ida", Name: "Ida", Role: "owner", Hash: "x"}))
	st.Close()
	file := written(t, config(t, dsn))
	to := config(t, testdb.DSN(t))
	_, err = backup.Restore(t.Context(), to, bytes.NewReader(file), nil)
	require.NoError(t, err)
	now, err := store.OpenOn(t.Context(), to)
	require.NoError(t, err)
	defer now.Close()
	ws, err := now.Waits(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, ws)
}

// A restore that is given up in time leaves what was there.
func TestGivenUp(t *testing.T) {
	file := written(t, workshop(t, 5))
	to := workshop(t, 2)
	old := dump(t, to)
	ctx, cancel := context.WithTimeout(t.Context(), time.Hour)
	_, err := backup.Restore(ctx, to, bytes.NewReader(file), func(what string) error {
		if strings.HasPrefix(what, "a row") {
			cancel()
		}
		return nil
	})
	require.Error(t, err)
	assert.Equal(t, old, dump(t, to))
}

// A kept backup is one that can be put back, and how it stands is told.
func TestKeeperWritesABackup(t *testing.T) {
	st := testdb.Open(t)
	require.NoError(t, st.PutUser(t.Context(), store.User{ID: store.NewID(), Login: "ida", Name: "Ida", Role: "owner", Hash: "x"}))
	cfg, err := mysql.ParseDSN(testdb.DSNOf(t, st))
	require.NoError(t, err)
	dir := filepath.Join(t.TempDir(), "kept")
	require.NoError(t, os.MkdirAll(dir, 0o700))
	torn := filepath.Join(dir, "corriente-2026-01-01-000000.backup.part")
	require.NoError(t, os.WriteFile(torn, []byte("half"), 0o600))
	k, err := backup.NewKeeper(dir, cfg, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	assert.NoFileExists(t, torn, "a kill left it")
	assert.True(t, k.State().Last.IsZero())
	require.NoError(t, k.Now(t.Context()))
	s := k.State()
	assert.Equal(t, 1, s.Files)
	assert.WithinDuration(t, time.Now(), s.Last, time.Minute)
	assert.Empty(t, s.Problem)
	es, err := os.ReadDir(dir)
	require.NoError(t, err)
	f, err := os.Open(filepath.Join(dir, es[0].Name()))
	require.NoError(t, err)
	defer f.Close()
	sum, err := backup.Restore(t.Context(), cfg, f, nil)
	require.NoError(t, err)
	assert.Equal(t, 1, sum.People)
	require.NoError(t, os.RemoveAll(dir))
	assert.Error(t, k.Now(t.Context()))
	assert.Contains(t, k.State().Problem, "cannot be written")
}

func TestAStoppedBackupLeavesNothing(t *testing.T) {
	c := workshop(t, 600)
	dir := t.TempDir()
	ctx, stop := context.WithCancel(t.Context())
	var shares []float64
	err := backup.WriteFile(ctx, c, filepath.Join(dir, "half.gz"), func(done, of int) {
		shares = append(shares, float64(done)/float64(of))
		stop()
	})
	require.Error(t, err)
	require.NotEmpty(t, shares, "nothing was said of how far it came")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)

	shares = nil
	require.NoError(t, backup.WriteFile(t.Context(), c, filepath.Join(dir, "whole.gz"),
		func(done, of int) { shares = append(shares, float64(done)/float64(of)) }))
	assert.True(t, slices.IsSorted(shares), "it never goes back: %v", shares)
	assert.LessOrEqual(t, slices.Max(shares), 1.0)
}
