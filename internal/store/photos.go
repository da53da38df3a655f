package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"time"

	"github.com/google/uuid"
)

// partSize is the most bytes of a photo that one row holds.
const partSize = 1 << 20

// putBlob stores bytes under their content hash; what is there already stays.
func putBlob(ctx context.Context, tx *sql.Tx, mime string, data []byte) ([32]byte, error) {
	sum := sha256.Sum256(data)
	r, err := tx.ExecContext(ctx, "INSERT IGNORE INTO blobs (sha256, mime, size) VALUES (?,?,?)", sum[:], mime, len(data))
	if err != nil {
		return sum, err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return sum, nil
	}
	for part := 0; part*partSize < len(data); part++ {
		if _, err := tx.ExecContext(ctx, "INSERT INTO blob_parts (sha256, part, data) VALUES (?,?,?)", sum[:], part,
			data[part*partSize:min((part+1)*partSize, len(data))]); err != nil {
			return sum, err
		}
	}
	return sum, nil
}

// PutPhoto stores a picture and its thumbnail, both JPEG, by their content; the same id
// again changes nothing. What was uploaded under the id is dropped.
func (s *Store) PutPhoto(ctx context.Context, id uuid.UUID, jpeg, thumb []byte, by uuid.UUID) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		const today = " FROM photos WHERE created_by = ? AND created_at > UTC_TIMESTAMP(6) - INTERVAL 1 DAY AND id <> ?"
		if err := room(ctx, tx, Full{"photos", mostADay, ofOnePerson}, "SELECT COUNT(*)"+today, by[:], id[:]); err != nil {
			return err
		}
		if err := room(ctx, tx, Full{"GB of photos", mostBytes >> 30, ofOnePerson},
			"SELECT CAST(COALESCE(SUM(size),0) DIV 1073741824 AS SIGNED)"+today, by[:], id[:]); err != nil {
			return err
		}
		sum, err := putBlob(ctx, tx, "image/jpeg", jpeg)
		if err != nil {
			return err
		}
		small, err := putBlob(ctx, tx, "image/jpeg", thumb)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO photos (id, mime, size, sha256, thumb, created_at, created_by) VALUES (?,'image/jpeg',?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE id=id`,
			id[:], len(jpeg), sum[:], small[:], by[:]); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, "DELETE FROM uploads WHERE id = ?", id[:])
		return err
	})
}

// Photo reads a photo or its thumbnail; ErrNotFound when there is none.
func (s *Store) Photo(ctx context.Context, id uuid.UUID, thumb bool) (mime string, data []byte, err error) {
	var sum, small []byte
	if err := s.DB.QueryRowContext(ctx, "SELECT mime, sha256, thumb FROM photos WHERE id = ?", id[:]).Scan(&mime,
		&sum, &small); err != nil {
		return "", nil, notFound(err)
	}
	if thumb && len(small) > 0 {
		sum = small
	}
	rows, err := s.DB.QueryContext(ctx, "SELECT data FROM blob_parts WHERE sha256 = ? ORDER BY part", sum)
	if err != nil {
		return "", nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var b []byte
		if err := rows.Scan(&b); err != nil {
			return "", nil, err
		}
		data = append(data, b...)
	}
	return mime, data, rows.Err()
}

// Upload says how far the upload of a photo has come: the bytes that are here, or done
// when the photo stands.
func (s *Store) Upload(ctx context.Context, id uuid.UUID) (at int, done bool, err error) {
	var n int
	if err := s.DB.QueryRowContext(ctx, "SELECT COUNT(*) FROM photos WHERE id = ?", id[:]).Scan(&n); err != nil {
		return 0, false, err
	}
	if n > 0 {
		return 0, true, nil
	}
	err = s.DB.QueryRowContext(ctx, "SELECT COALESCE(SUM(LENGTH(data)), 0) FROM upload_parts WHERE upload_id = ?", id[:]).Scan(&at)
	return at, false, err
}

// ErrGap says that a piece does not follow on what is there.
var ErrGap = errors.New("this piece does not follow on what arrived before")

// Piece is a part of a photo on its way here.
type Piece struct {
	Of   uuid.UUID // the photo
	Size int       // of the whole, bytes
	At   int       // where the piece begins, bytes
	Data []byte
}

// AddPart adds a piece of a photo of size bytes in all. A piece that is there already
// changes nothing. whole is returned once all of it is here.
func (s *Store) AddPart(ctx context.Context, p Piece, by uuid.UUID) (have int, whole []byte, err error) {
	id, size, at, piece := p.Of, p.Size, p.At, p.Data
	err = s.tx(ctx, func(tx *sql.Tx) error {
		// What nobody went on with for a week is let go.
		if _, err := tx.ExecContext(ctx, "DELETE FROM uploads WHERE created_at < ?", time.Now().UTC().Add(-7*24*time.Hour)); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO uploads (id, size, created_at, created_by) VALUES "+
			"(?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE id=id", id[:], size, by[:]); err != nil {
			return err
		}
		var want int
		if err := tx.QueryRowContext(ctx, "SELECT size FROM uploads WHERE id = ? FOR UPDATE", id[:]).Scan(&want); err != nil {
			return err
		}
		if err := tx.QueryRowContext(ctx, "SELECT COALESCE(SUM(LENGTH(data)), 0) FROM upload_parts WHERE upload_id = ?",
			id[:]).Scan(&have); err != nil {
			return err
		}
		if want != size || at > have || have+len(piece) > want && at == have {
			return ErrGap
		}
		if at == have && len(piece) > 0 {
			if _, err := tx.ExecContext(ctx, "INSERT INTO upload_parts (upload_id, at, data) VALUES (?,?,?)", id[:],
				at, piece); err != nil {
				return err
			}
			have += len(piece)
		}
		if have < want {
			return nil
		}
		rows, err := tx.QueryContext(ctx, "SELECT data FROM upload_parts WHERE upload_id = ? ORDER BY at", id[:])
		if err != nil {
			return err
		}
		defer rows.Close()
		whole = make([]byte, 0, want)
		for rows.Next() {
			var b []byte
			if err := rows.Scan(&b); err != nil {
				return err
			}
			whole = append(whole, b...)
		}
		return rows.Err()
	})
	return have, whole, err
}

// DropUpload forgets what was uploaded under an id.
func (s *Store) DropUpload(ctx context.Context, id uuid.UUID) error {
	_, err := s.exec(ctx, "DELETE FROM uploads WHERE id = ?", id[:])
	return err
}
