package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/record"
	"corriente/core/strip"
)

// Strip lists a job's record in the order in which things came off.
func (s *Store) Strip(ctx context.Context, job uuid.UUID) ([]record.StripLine, error) {
	rows, err := s.DB.QueryContext(ctx, `SELECT i.id, i.text, i.explained, i.created_at, COALESCE(u.name,''), i.back_at, COALESCE(b.name,''), i.struck_at IS NOT NULL
		FROM strip_items i LEFT JOIN users u ON u.id = i.created_by LEFT JOIN users b ON b.id = i.back_by WHERE i.job_id = ? ORDER BY i.seq`, job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out, at := []record.StripLine{}, map[uuid.UUID]int{}
	for rows.Next() {
		it, id := record.StripLine{Photos: []string{}}, uuid.UUID{}
		if err := rows.Scan(&id, &it.Text, &it.Explained, &it.At, &it.By, &it.BackAt, &it.BackBy, &it.Struck); err != nil {
			return nil, err
		}
		it.ID, at[id] = id.String(), len(out)
		out = append(out, it)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	ph, err := s.DB.QueryContext(ctx, "SELECT p.item_id, p.photo_id FROM strip_photos p JOIN strip_items i ON i.id "+
		"= p.item_id JOIN photos f ON f.id = p.photo_id WHERE i.job_id = ? ORDER BY f.created_at", job[:])
	if err != nil {
		return nil, err
	}
	defer ph.Close()
	for ph.Next() {
		var item, photo uuid.UUID
		if err := ph.Scan(&item, &photo); err != nil {
			return nil, err
		}
		if k, ok := at[item]; ok {
			out[k].Photos = append(out[k].Photos, photo.String())
		}
	}
	return out, ph.Err()
}

// NewLine is a line that is added to a job's strip-down.
type NewLine struct {
	ID   uuid.UUID
	Text string
	At   string // when it came off, where that was before it is sent; empty: now
}

// AddStrip adds one line to a job's record, at a time where it is told later, else now; a
// finding becomes evidence with it. The same
// id again changes nothing.
func (s *Store) AddStrip(ctx context.Context, job uuid.UUID, l NewLine, by uuid.UUID) error {
	id, text, at := l.ID, l.Text, l.At
	found := strip.Parse(text).Findings
	_, err := s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		var other []byte
		switch err := tx.QueryRowContext(ctx, "SELECT job_id FROM strip_items WHERE id = ?", id[:]).Scan(&other); {
		case err == nil:
			if uuid.UUID(other) != job {
				return false, ErrConflict
			}
			return false, nil
		case !errors.Is(err, sql.ErrNoRows):
			return false, err
		}
		if err := room(ctx, tx, Full{"lines", mostStrip, ofThisJob},
			"SELECT COUNT(*) FROM strip_items WHERE job_id = ?", job[:]); err != nil {
			return false, err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO strip_items (id, job_id, seq, text, created_at, created_by)
			SELECT ?, ?, COALESCE(MAX(seq),0)+1, ?, ?, ? FROM strip_items WHERE job_id = ?`, id[:], job[:], text, When(at), someone(by), job[:]); err != nil {
			return false, err
		}
		had := len(j.Case.Evidence)
		for _, f := range found {
			if e := record.FindingEvidence(j.Case, id.String(), f, When(at)); e != nil {
				if err := (into{tx, job, known(by)}).evidence(ctx, e, len(j.Case.Evidence)+1); err != nil {
					return false, err
				}
				j.Case.Evidence = append(j.Case.Evidence, *e)
			}
		}
		if at == "" {
			return true, nil
		}
		_, err := inTime(ctx, tx, j, had)
		return true, err
	})
	return err
}

// known is nil for nobody: data that no user entered.
func known(by uuid.UUID) *uuid.UUID {
	if by == uuid.Nil {
		return nil
	}
	return &by
}

func someone(by uuid.UUID) any { return idOrNil(known(by)) }

// StripChange is what may be changed about a line; nil leaves it.
type StripChange struct {
	Text      *string
	Struck    *bool
	Back      *bool
	Explained *string
	Photo     *uuid.UUID // added
	DropPhoto *uuid.UUID
	At        time.Time
}

// ChangeStrip changes one line of a job's record. Striking it strikes the evidence it
// became; changing its words changes that evidence.
func (s *Store) ChangeStrip(ctx context.Context, job, id uuid.UUID, c StripChange, by uuid.UUID) error {
	if c.At.IsZero() {
		c.At = time.Now().UTC()
	}
	_, err := s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		var text string
		if err := tx.QueryRowContext(ctx, "SELECT text FROM strip_items WHERE id = ? AND job_id = ? FOR UPDATE",
			id[:], job[:]).Scan(&text); err != nil {
			return false, notFound(err)
		}
		do := func(q string, args ...any) error { _, err := tx.ExecContext(ctx, q, args...); return err }
		line := stripLine{into{tx, job, &by}, id}
		if c.Text != nil && *c.Text != text {
			if err := do("UPDATE strip_items SET text = ? WHERE id = ?", *c.Text, id[:]); err != nil {
				return false, err
			}
			if err := line.refind(ctx, j, strip.Parse(text).Findings, strip.Parse(*c.Text).Findings); err != nil {
				return false, err
			}
			text = *c.Text
		}
		if c.Struck != nil {
			q := "UPDATE strip_items SET struck_at = NULL WHERE id = ?"
			if *c.Struck {
				q = "UPDATE strip_items SET struck_at = UTC_TIMESTAMP(6) WHERE id = ?"
			}
			if err := do(q, id[:]); err != nil {
				return false, err
			}
			for _, f := range strip.Parse(text).Findings {
				if err := line.strike(ctx, f, *c.Struck); err != nil {
					return false, err
				}
			}
		}
		if c.Back != nil {
			var err error
			if *c.Back {
				err = do("UPDATE strip_items SET back_at = COALESCE(back_at, ?), back_by = ? WHERE id = ?", c.At, by[:], id[:])
			} else {
				err = do("UPDATE strip_items SET back_at = NULL, back_by = NULL WHERE id = ?", id[:])
			}
			if err != nil {
				return false, err
			}
		}
		if c.Explained != nil {
			if err := do("UPDATE strip_items SET explained = ? WHERE id = ?", *c.Explained, id[:]); err != nil {
				return false, err
			}
		}
		if c.Photo != nil {
			if err := room(ctx, tx, Full{"photos", mostPhotos, ofThisJob},
				"SELECT COUNT(*) FROM strip_photos p JOIN strip_items i ON i.id = p.item_id WHERE i.job_id = ? AND p.photo_id <> ?",
				job[:], c.Photo[:]); err != nil {
				return false, err
			}
			if err := do("INSERT IGNORE INTO strip_photos (item_id, photo_id) SELECT ?, id FROM photos WHERE id = ?",
				id[:], c.Photo[:]); err != nil {
				return false, err
			}
		}
		if c.DropPhoto != nil {
			if err := do("DELETE FROM strip_photos WHERE item_id = ? AND photo_id = ?", id[:], c.DropPhoto[:]); err != nil {
				return false, err
			}
		}
		return true, nil
	})
	return err
}

// stripLine is a line of a job's strip-down whose findings are the job's evidence.
type stripLine struct {
	into
	id uuid.UUID
}

// strike strikes the evidence that a finding became, or takes it back.
func (l stripLine) strike(ctx context.Context, f strip.Finding, out bool) error {
	id := uuid.MustParse(record.FindingID(l.id.String(), f)) // made from one, it is one
	q, args := "UPDATE evidence SET struck_at = NULL, struck_by = NULL WHERE id = ? AND job_id = ?", []any{id[:], l.job[:]}
	if out {
		q, args = "UPDATE evidence SET struck_at = UTC_TIMESTAMP(6), struck_by = ? WHERE id = ? AND job_id = ?",
			[]any{l.by[:], id[:], l.job[:]}
	}
	_, err := l.tx.ExecContext(ctx, q, args...)
	return err
}

// refind strikes what a line said and says no more, and adds what it says now.
func (l stripLine) refind(ctx context.Context, j *Job, was, now []strip.Finding) error {
	for _, f := range was {
		if !slices.Contains(now, f) {
			if err := l.strike(ctx, f, true); err != nil {
				return err
			}
		}
	}
	n := len(j.Case.Evidence)
	for _, f := range now {
		e := record.FindingEvidence(j.Case, l.id.String(), f, time.Now())
		if e == nil {
			continue
		}
		if slices.ContainsFunc(j.Case.Evidence, func(x casefile.Evidence) bool { return x.ID == e.ID }) {
			if err := l.strike(ctx, f, false); err != nil {
				return err
			}
			continue
		}
		n++
		if err := l.evidence(ctx, e, n); err != nil {
			return err
		}
	}
	return nil
}

// Note is a line kept with a job: a calculation, or words.
type Note struct {
	ID     uuid.UUID
	Text   string
	Detail json.RawMessage
	At     time.Time
	By     string
}

// Notes lists a job's, oldest first.
func (s *Store) Notes(ctx context.Context, job uuid.UUID) ([]Note, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT n.id, n.text, n.detail, n.created_at, COALESCE(u.name,'') FROM job_notes n LEFT JOIN users u ON "+
			"u.id = n.created_by WHERE job_id = ? ORDER BY n.created_at, n.id", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Note{}
	for rows.Next() {
		var n Note
		var detail []byte
		if err := rows.Scan(&n.ID, &n.Text, &detail, &n.At, &n.By); err != nil {
			return nil, err
		}
		n.Detail = detail
		out = append(out, n)
	}
	return out, rows.Err()
}

// AddNote keeps a note with a job; the same id again changes nothing.
func (s *Store) AddNote(ctx context.Context, job uuid.UUID, n Note, by uuid.UUID) error {
	err := s.tx(ctx, func(tx *sql.Tx) error {
		if err := room(ctx, tx, Full{"notes", mostNotes, ofThisJob},
			"SELECT COUNT(*) FROM job_notes WHERE job_id = ? AND id <> ?", job[:], n.ID[:]); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "INSERT INTO job_notes (id, job_id, text, detail, created_at, created_by) "+
			"VALUES (?,?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE id=id",
			n.ID[:], job[:], n.Text, string(n.Detail), by[:])
		return err
	})
	if says(err, noParent) {
		return ErrNotFound
	}
	return err
}

// DropNote takes a note away.
func (s *Store) DropNote(ctx context.Context, job, id uuid.UUID) error {
	_, err := s.exec(ctx, "DELETE FROM job_notes WHERE id = ? AND job_id = ?", id[:], job[:])
	return err
}

// CraftNotes lists the workshop's own notes of the craft.
func (s *Store) CraftNotes(ctx context.Context) ([]strip.Note, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT id, words, text FROM craft_notes WHERE dropped_at IS NULL ORDER BY created_at, id")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []strip.Note{}
	for rows.Next() {
		var id uuid.UUID
		var words string
		n := strip.Note{Own: true}
		if err := rows.Scan(&id, &words, &n.Text); err != nil {
			return nil, err
		}
		n.ID = id.String()
		for _, w := range strings.Split(words, ",") {
			if w = strings.TrimSpace(w); w != "" {
				n.Words = append(n.Words, w)
			}
		}
		out = append(out, n)
	}
	return out, rows.Err()
}

// PutCraftNote keeps a note of the craft; the same id again changes it.
func (s *Store) PutCraftNote(ctx context.Context, id uuid.UUID, words, text string, by uuid.UUID) error {
	_, err := s.exec(ctx, "INSERT INTO craft_notes (id, words, text, created_at, created_by) VALUES "+
		"(?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE words=VALUES(words), text=VALUES(text), dropped_at=NULL",
		id[:], words, text, by[:])
	return err
}

// DropCraftNote takes one away.
func (s *Store) DropCraftNote(ctx context.Context, id uuid.UUID) error {
	_, err := s.exec(ctx, "UPDATE craft_notes SET dropped_at = UTC_TIMESTAMP(6) WHERE id = ?", id[:])
	return err
}
