package store

import (
	"context"
	"database/sql"
	"fmt"
)

// Full says that a job, or a person's day, holds no more of something: one lost phone, or one script, shall
// not fill the workshop's disk. The bounds are far above what work needs.
type Full struct {
	What string // "lines", "photos"
	Most int
	Of   string // "this job", "one person's day"
}

func (f *Full) Error() string {
	return fmt.Sprintf("%s holds %d %s, and no more are kept", f.Of, f.Most, f.What)
}

// What a job holds at most, beside its evidence (casefile.MaxEvidence), and what one person puts in in a day.
const (
	mostStrip   = 1000
	mostPhotos  = 400
	mostTraces  = 50
	mostNotes   = 300
	mostADay    = 600     // photos
	mostBytes   = 4 << 30 // of photos in a day
	ofThisJob   = "this job"
	ofOnePerson = "one person's day"
)

// room refuses what a count says there is no room for. The count is asked in the transaction that adds.
func room(ctx context.Context, tx *sql.Tx, f Full, count string, args ...any) error {
	var n int
	if err := tx.QueryRowContext(ctx, count, args...).Scan(&n); err != nil {
		return err
	}
	if n >= f.Most {
		return &f
	}
	return nil
}
