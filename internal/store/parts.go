package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"

	"corriente/core/parts"
)

// PutParts keeps the parts of a price list, all or none. What the same supplier sells
// under the same number and name is replaced.
func (s *Store) PutParts(ctx context.Context, ps []parts.Part) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		q, err := tx.PrepareContext(ctx, `INSERT INTO parts (id, kind, name, number, sizes, price, days, stock, supplier, updated_at) VALUES (?,?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6))
			ON DUPLICATE KEY UPDATE kind=VALUES(kind), sizes=VALUES(sizes), price=VALUES(price), days=VALUES(days), stock=VALUES(stock), updated_at=VALUES(updated_at)`)
		if err != nil {
			return err
		}
		defer q.Close()
		for i := range ps {
			p := &ps[i]
			sizes, err := json.Marshal(append([]float64{}, p.Sizes...))
			if err != nil {
				return err
			}
			id := NewID()
			if _, err := q.ExecContext(ctx, id[:], p.Kind, p.Name, p.Number, string(sizes), p.Price, p.Days, p.Stock,
				p.Supplier); err != nil {
				return err
			}
		}
		return nil
	})
}

// FindParts answers a question by words and measurements, the best first, at most n.
func (s *Store) FindParts(ctx context.Context, question string, n int) ([]parts.Part, error) {
	words, sizes := parts.Words(question), parts.Sizes(question)
	q, args := "SELECT kind, name, number, sizes, price, days, stock, supplier FROM parts", []any{}
	if m := boolean(words); m != "" {
		q += " WHERE MATCH (kind, name, number) AGAINST (? IN BOOLEAN MODE)"
		args = append(args, m)
	}
	rows, err := s.DB.QueryContext(ctx, q+" LIMIT 2000", args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []parts.Part{}
	for rows.Next() {
		var p parts.Part
		var sz []byte
		if err := rows.Scan(&p.Kind, &p.Name, &p.Number, &sz, &p.Price, &p.Days, &p.Stock, &p.Supplier); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(sz, &p.Sizes); err != nil {
			return nil, err
		}
		if parts.Fit(&p, words, sizes) > 0 {
			out = append(out, p)
		}
	}
	parts.Sort(out, words, sizes)
	return out[:min(len(out), n)], rows.Err()
}

// boolean makes a full-text question in which every word must stand, as a beginning at
// least; words too short to be indexed are left to the caller.
func boolean(words []string) string {
	var b strings.Builder
	for _, w := range words {
		w = strings.Map(func(r rune) rune {
			if strings.ContainsRune(`+-<>()~*"@'`, r) {
				return ' '
			}
			return r
		}, w)
		for _, x := range strings.Fields(w) {
			if len(x) < 3 || stop[x] {
				continue
			}
			x = strings.TrimSuffix(strings.TrimSuffix(x, "es"), "s")
			if len(x) >= 2 {
				b.WriteString("+" + x + "* ")
			}
		}
	}
	return strings.TrimSpace(b.String())
}

// stop are the words that MariaDB's full-text index leaves out.
var stop = map[string]bool{"about": true, "are": true, "com": true, "for": true, "from": true, "how": true,
	"that": true, "the": true, "this": true, "was": true,
	"what": true, "when": true, "where": true, "who": true, "will": true, "with": true, "und": true, "www": true}

// Setting reads a setting; "" when it is not set.
func (s *Store) Setting(ctx context.Context, name string) (string, error) {
	var v string
	err := s.DB.QueryRowContext(ctx, "SELECT value FROM settings WHERE name = ?", name).Scan(&v)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return v, err
}

// PutSetting sets one.
func (s *Store) PutSetting(ctx context.Context, name, value string) error {
	_, err := s.exec(ctx, "INSERT INTO settings (name, value) VALUES (?,?) ON DUPLICATE KEY UPDATE value=VALUES(value)", name, value)
	return err
}

// ErrStale: somebody else changed it since it was read.
var ErrStale = errors.New("somebody else changed this meanwhile")

// SettingAt reads a setting with its revision; "" and 0 where it was never set.
func (s *Store) SettingAt(ctx context.Context, name string) (value string, revision int, err error) {
	err = s.DB.QueryRowContext(ctx, "SELECT value, revision FROM settings WHERE name = ?", name).Scan(&value, &revision)
	if errors.Is(err, sql.ErrNoRows) {
		return "", 0, nil
	}
	return value, revision, err
}

// PutSettingAt sets one that still has the revision it was read at; ErrStale where it has another.
func (s *Store) PutSettingAt(ctx context.Context, name, value string, revision int, a Act) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var now int
		err := tx.QueryRowContext(ctx, "SELECT revision FROM settings WHERE name = ? FOR UPDATE", name).Scan(&now)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if now != revision {
			return ErrStale
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO settings (name, value, revision) VALUES (?,?,1) ON DUPLICATE "+
			"KEY UPDATE value = VALUES(value), revision = revision + 1", name, value); err != nil {
			return err
		}
		return addAct(ctx, tx, a)
	})
}
