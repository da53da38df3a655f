package backup

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
)

// The rule by which backups are kept: the last of each of so many days, weeks and months that have one.
const (
	keepDays   = 7
	keepWeeks  = 4
	keepMonths = 12
)

const (
	namePrefix = "corriente-"
	nameSuffix = ".backup"
	nameTime   = "2006-01-02-150405"
	every      = 24 * time.Hour
	lookEvery  = 10 * time.Minute
	longest    = 30 * time.Minute // one backup may take
)

// WriteFile writes a backup whole or not at all: under another name first, read again, then put in place. A file
// that is there already is left alone. progress is told how many rows of about how many are written; it may be nil.
func WriteFile(ctx context.Context, cfg *mysql.Config, path string, progress func(done, of int)) (err error) {
	if _, err := os.Stat(path); err == nil {
		return &Refused{Why: path + " is there already: choose another name"}
	}
	part := path + ".part"
	f, err := os.OpenFile(part, os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return &Refused{Why: part + " cannot be written: is the folder right, and no other backup under way?"}
	}
	defer func() {
		err = errors.Join(err, f.Close())
		if err == nil {
			err = os.Rename(part, path)
		}
		if err != nil {
			_ = os.Remove(part)
		}
	}()
	if err := write(ctx, cfg, f, progress); err != nil {
		return err
	}
	if err := f.Sync(); err != nil {
		return err
	}
	if _, err := f.Seek(0, 0); err != nil {
		return err
	}
	_, err = read(f, sink{begin: func(Manifest) error { return nil }, row: func(string, []string, []any) error { return nil }})
	if err != nil {
		return fmt.Errorf("the backup was written and cannot be read again: %w", err)
	}
	return nil
}

// State is how the backups stand.
type State struct {
	Dir     string
	Last    time.Time // zero: there is none yet
	Files   int
	Bytes   int64
	Share   int    // how far a backup under way has come, per cent; -1: none is
	Problem string // why the last try failed, in a sentence; empty where it did not
}

// Keeper writes a backup a day into a folder and keeps them by the rule. It is safe for concurrent use.
type Keeper struct {
	dir string
	cfg *mysql.Config
	log *slog.Logger

	mu      sync.Mutex   // one backup at a time
	share   atomic.Int64 // how far the one under way has come, per cent; -1: none is
	problem struct {
		sync.Mutex
		says string
	}
}

// NewKeeper makes the folder where it is missing; an error says that it cannot be used.
func NewKeeper(dir string, cfg *mysql.Config, log *slog.Logger) (*Keeper, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for backups, %s, cannot be made: choose another with --backups, or --backups none", dir)
	}
	f, err := os.CreateTemp(dir, ".try-*")
	if err != nil {
		return nil, fmt.Errorf("the folder for backups, %s, cannot be written to: choose another with --backups, or --backups none", dir)
	}
	// What a kill in the middle left behind is no backup.
	if torn, err := filepath.Glob(filepath.Join(dir, namePrefix+"*"+nameSuffix+".part")); err == nil {
		for _, t := range torn {
			_ = os.Remove(t)
		}
	}
	k := &Keeper{dir: dir, cfg: cfg, log: log}
	k.share.Store(-1)
	return k, errors.Join(f.Close(), os.Remove(f.Name()))
}

// Run writes a backup whenever the last is a day old, until ctx ends.
func (k *Keeper) Run(ctx context.Context) {
	t := time.NewTicker(lookEvery)
	defer t.Stop()
	for {
		if time.Since(k.State().Last) >= every {
			if err := k.Now(ctx); err != nil && ctx.Err() == nil {
				k.log.Error("backup", "err", err)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// Now writes a backup and drops those that the rule no longer keeps.
func (k *Keeper) Now(ctx context.Context) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	k.share.Store(0)
	defer k.share.Store(-1)
	name := filepath.Join(k.dir, namePrefix+time.Now().UTC().Format(nameTime)+nameSuffix)
	err := WriteFile(ctx, k.cfg, name, func(done, of int) { k.share.Store(int64(min(100*done/max(of, 1), 99))) })
	if err == nil {
		err = k.drop()
	}
	k.problem.Lock()
	defer k.problem.Unlock()
	k.problem.says = ""
	if err != nil {
		k.problem.says = err.Error()
	}
	return err
}

// filesIn are the backups in a folder, by when they were made.
func filesIn(dir string) map[time.Time]string {
	out := map[time.Time]string{}
	es, err := os.ReadDir(dir)
	if err != nil {
		return out
	}
	for _, e := range es {
		name, ok := strings.CutPrefix(e.Name(), namePrefix)
		if name, ok2 := strings.CutSuffix(name, nameSuffix); ok && ok2 {
			if at, err := time.Parse(nameTime, name); err == nil {
				out[at] = filepath.Join(dir, e.Name())
			}
		}
	}
	return out
}

func (k *Keeper) drop() error {
	files := filesIn(k.dir)
	var all []time.Time
	for at := range files {
		all = append(all, at)
	}
	var errs []error
	for _, at := range toDrop(all) {
		errs = append(errs, os.Remove(files[at]))
	}
	return errors.Join(errs...)
}

// toDrop are the backups that the rule does not keep.
func toDrop(all []time.Time) []time.Time {
	all = slices.Clone(all)
	slices.SortFunc(all, func(a, b time.Time) int { return b.Compare(a) }) // the latest first
	kept := map[time.Time]bool{}
	for _, rule := range []struct {
		of func(time.Time) string
		n  int
	}{
		{func(t time.Time) string { return t.Format("2006-01-02") }, keepDays},
		{func(t time.Time) string { y, w := t.ISOWeek(); return fmt.Sprint(y, "-", w) }, keepWeeks},
		{func(t time.Time) string { return t.Format("2006-01") }, keepMonths},
	} {
		seen := map[string]bool{}
		for _, t := range all {
			if p := rule.of(t); !seen[p] && len(seen) < rule.n {
				seen[p], kept[t] = true, true
			}
		}
	}
	var out []time.Time
	for _, t := range all {
		if !kept[t] {
			out = append(out, t)
		}
	}
	return out
}

// State says how the backups stand.
func (k *Keeper) State() State {
	s := StateOf(k.dir)
	s.Share = int(k.share.Load())
	k.problem.Lock()
	defer k.problem.Unlock()
	s.Problem = k.problem.says
	return s
}

// StateOf says which backups stand in a folder.
func StateOf(dir string) State {
	s := State{Dir: dir, Share: -1}
	for at, f := range filesIn(dir) {
		if at.After(s.Last) {
			s.Last = at
		}
		s.Files++
		if i, err := os.Stat(f); err == nil {
			s.Bytes += i.Size()
		}
	}
	return s
}
