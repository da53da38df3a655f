package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"

	"corriente/core/train"
)

// Attempt is a trainee's work on an exercise: the exercise and the moves give it again.
type Attempt struct {
	ID      uuid.UUID
	User    uuid.UUID
	Ex      train.Exercise
	Moves   []train.Move
	At      time.Time
	OverAt  *time.Time
	Score   *int
	Right   *bool
	Debrief json.RawMessage
}

// StartAttempt begins one; the same id again gives the one that is there.
func (s *Store) StartAttempt(ctx context.Context, id, user uuid.UUID, ex train.Exercise) (*Attempt, error) {
	spec, err := json.Marshal(ex)
	if err != nil {
		return nil, err
	}
	if _, err := s.exec(ctx, "INSERT INTO attempts (id, user_id, exercise, spec, moves, started_at) VALUES "+
		"(?,?,?,?,'[]',UTC_TIMESTAMP(6)) ON DUPLICATE KEY UPDATE id=id", id[:], user[:], ex.ID, string(spec)); err != nil {
		return nil, err
	}
	return s.TrainingAttempt(ctx, id, user)
}

type scanner interface{ Scan(dest ...any) error }

const attemptCols = "id, user_id, spec, moves, started_at, over_at, score, right_part, COALESCE(debrief, 'null')"

func scanAttempt(r scanner) (*Attempt, error) {
	a := &Attempt{}
	var spec, moves, debrief []byte
	if err := r.Scan(&a.ID, &a.User, &spec, &moves, &a.At, &a.OverAt, &a.Score, &a.Right, &debrief); err != nil {
		return nil, notFound(err)
	}
	a.Debrief = debrief
	return a, errors.Join(json.Unmarshal(spec, &a.Ex), json.Unmarshal(moves, &a.Moves))
}

// TrainingAttempt reads a user's own attempt.
func (s *Store) TrainingAttempt(ctx context.Context, id, user uuid.UUID) (*Attempt, error) {
	return scanAttempt(s.DB.QueryRowContext(ctx, "SELECT "+attemptCols+" FROM attempts WHERE id = ? AND user_id = ?", id[:], user[:]))
}

// ErrLate says that a move does not follow on the last one.
var ErrLate = errors.New("another move came first")

// Turn is whose move it is in an attempt, and the how many-th, from 1.
type Turn struct {
	Attempt, User uuid.UUID
	N             int
}

// Move adds the n-th move (from 1) to an attempt; sent again it changes nothing. play works
// the moves and says whether the attempt is over.
func (s *Store) Move(ctx context.Context, at Turn, m train.Move, play func(*Attempt) (over bool, err error)) (*Attempt, error) {
	id, user, n := at.Attempt, at.User, at.N
	var a *Attempt
	err := s.tx(ctx, func(tx *sql.Tx) error {
		var err error
		if a, err = scanAttempt(tx.QueryRowContext(ctx, "SELECT "+attemptCols+
			" FROM attempts WHERE id = ? AND user_id = ? FOR UPDATE", id[:], user[:])); err != nil {
			return err
		}
		if n <= len(a.Moves) {
			if a.Moves[n-1] == m {
				return nil
			}
			return ErrLate
		}
		if n != len(a.Moves)+1 {
			return ErrLate
		}
		a.Moves = append(a.Moves, m)
		over, err := play(a)
		if err != nil {
			return err
		}
		moves, err := json.Marshal(a.Moves)
		if err != nil {
			return err
		}
		q := "UPDATE attempts SET moves = ? WHERE id = ?"
		if over {
			q = "UPDATE attempts SET moves = ?, over_at = UTC_TIMESTAMP(6) WHERE id = ?"
		}
		_, err = tx.ExecContext(ctx, q, string(moves), id[:])
		return err
	})
	return a, err
}

// Debriefed keeps what an attempt came to.
func (s *Store) Debriefed(ctx context.Context, id uuid.UUID, d *train.Debrief) error {
	b, err := json.Marshal(d)
	if err != nil {
		return err
	}
	_, err = s.exec(ctx, "UPDATE attempts SET score = ?, right_part = ?, debrief = ? WHERE id = ?", d.Score, d.RightPart, string(b), id[:])
	return err
}

// Attempts lists a user's latest, or everybody's with their names.
func (s *Store) Attempts(ctx context.Context, user *uuid.UUID, n int) ([]Attempt, []string, error) {
	q, args := "SELECT a.id, a.user_id, a.spec, '[]', a.started_at, a.over_at, a.score, a.right_part, "+
		"COALESCE(a.debrief, 'null'), u.name FROM attempts a JOIN users u ON u.id = a.user_id", []any{}
	if user != nil {
		q, args = q+" WHERE a.user_id = ?", append(args, user[:])
	}
	rows, err := s.DB.QueryContext(ctx, q+" ORDER BY a.started_at DESC LIMIT ?", append(args, n)...)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	var out []Attempt
	var names []string
	for rows.Next() {
		var name string
		a, err := scanAttempt(named{rows, &name})
		if err != nil {
			return nil, nil, err
		}
		out, names = append(out, *a), append(names, name)
	}
	return out, names, rows.Err()
}

// named scans one column more than the others.
type named struct {
	r    *sql.Rows
	name *string
}

func (n named) Scan(dest ...any) error { return n.r.Scan(append(dest, n.name)...) }

// PutExercise keeps a workshop's own exercise.
func (s *Store) PutExercise(ctx context.Context, ex train.Exercise, by uuid.UUID) error {
	b, err := json.Marshal(ex)
	if err != nil {
		return err
	}
	_, err = s.exec(ctx, "INSERT INTO exercises (id, spec, made_at, made_by) VALUES (?,?,UTC_TIMESTAMP(6),?) ON "+
		"DUPLICATE KEY UPDATE spec=VALUES(spec)", ex.ID, string(b), by[:])
	return err
}

// Exercises lists the workshop's own.
func (s *Store) Exercises(ctx context.Context) ([]train.Exercise, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT spec FROM exercises ORDER BY made_at DESC LIMIT 200")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []train.Exercise
	for rows.Next() {
		var b []byte
		var ex train.Exercise
		if err := rows.Scan(&b); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(b, &ex); err != nil {
			return nil, err
		}
		out = append(out, ex)
	}
	return out, rows.Err()
}

// DrillAnswer is a question of the drill as somebody answered it.
type DrillAnswer struct {
	ID, User      uuid.UUID
	Kind, Circuit string
	Right         bool
}

// Drilled keeps an answer of the drill; the same id again changes nothing.
func (s *Store) Drilled(ctx context.Context, a DrillAnswer) error {
	_, err := s.exec(ctx, "INSERT INTO drills (id, user_id, kind, circuit, was_right, at) VALUES "+
		"(?,?,?,?,?,UTC_TIMESTAMP(6)) ON DUPLICATE KEY UPDATE id=id", a.ID[:], a.User[:], a.Kind, a.Circuit, a.Right)
	return err
}

// DrillScore is how often a user's drill answers were right.
func (s *Store) DrillScore(ctx context.Context, user uuid.UUID) (right, of int, err error) {
	err = s.DB.QueryRowContext(ctx, "SELECT COALESCE(SUM(was_right), 0), COUNT(*) FROM drills WHERE user_id = ?", user[:]).Scan(&right, &of)
	return right, of, err
}
