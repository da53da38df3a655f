package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/google/uuid"
)

// What may not be done to people.
var (
	// ErrTaken: another person signs in by this login.
	ErrTaken = errors.New("this login is taken")
	// ErrLastOwner: nobody would be left to look after the workshop.
	ErrLastOwner = errors.New("the last owner who can sign in stays one")
	// ErrExpired: a link that was used, or whose time is over.
	ErrExpired = errors.New("this link was used or is too old")
)

// User is someone who signs in.
type User struct {
	ID          uuid.UUID
	Login       string
	Name        string
	Role        string // owner, technician, trainee, counter
	Hash        string // of the password, argon2id; empty: none was chosen yet
	PIN         string // hash; empty: none
	TOTP        string // secret of the second factor, base32; empty: none
	TOTPStep    int64  // of the last code that was used
	Suspended   bool
	Preferences string     // JSON; empty: none
	SeenAt      *time.Time // last, on any device; set by Users alone
}

const userColumns = "u.id, u.login, u.name, u.role, u.password_hash, u.pin_hash, u.totp_secret, u.totp_step, " +
	"u.suspended_at IS NOT NULL, u.preferences"

func (u *User) fields() []any {
	return []any{&u.ID, &u.Login, &u.Name, &u.Role, &u.Hash, &u.PIN, &u.TOTP, &u.TOTPStep, &u.Suspended, &u.Preferences}
}

// Act is one line of the record of who did what to people, settings and signed papers.
type Act struct {
	ID   uuid.UUID
	At   time.Time
	By   string // name
	Kind string // people, settings, papers, backup
	Says string
}

func addAct(ctx context.Context, tx *sql.Tx, a Act) error {
	if a.Says == "" {
		return nil
	}
	if a.ID == uuid.Nil {
		a.ID = NewID()
	}
	_, err := tx.ExecContext(ctx, "INSERT INTO acts (id, at, by_name, kind, says) VALUES (?,UTC_TIMESTAMP(6),?,?,?) "+
		"ON DUPLICATE KEY UPDATE id = id", a.ID[:], a.By, a.Kind, clip(a.Says, 400))
	return err
}

// PutAct adds a line to the record; the same id again changes nothing.
func (s *Store) PutAct(ctx context.Context, a Act) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return addAct(ctx, tx, a) })
}

// Acts lists the record's lines before a moment, the latest first, at most n.
func (s *Store) Acts(ctx context.Context, before time.Time, n int) ([]Act, error) {
	return list(ctx, s.DB, func(a *Act) []any { return []any{&a.ID, &a.At, &a.By, &a.Kind, &a.Says} },
		"SELECT id, at, by_name, kind, says FROM acts WHERE at < ? ORDER BY at DESC, id DESC LIMIT ?", before, n)
}

// list reads the rows of a query, each into what fields gives of it.
func list[T any](ctx context.Context, db *sql.DB, fields func(*T) []any, query string, args ...any) ([]T, error) {
	rows, err := db.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []T{}
	for rows.Next() {
		var t T
		if err := rows.Scan(fields(&t)...); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}

// clip keeps the first n letters.
func clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// PutUser adds a user, or changes name, role and password of that login.
func (s *Store) PutUser(ctx context.Context, u User) error {
	_, err := s.exec(ctx, `INSERT INTO users (id, login, name, role, password_hash, created_at) VALUES (?,?,?,?,?,UTC_TIMESTAMP(6))
		ON DUPLICATE KEY UPDATE name=VALUES(name), role=VALUES(role), password_hash=VALUES(password_hash)`, u.ID[:], u.Login, u.Name, u.Role, u.Hash)
	return err
}

// AddUser adds a person; the same id again changes nothing. ErrTaken where another has the login.
func (s *Store) AddUser(ctx context.Context, u User, a Act) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var one int
		err := tx.QueryRowContext(ctx, "SELECT 1 FROM users WHERE id = ?", u.ID[:]).Scan(&one)
		if err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		_, err = tx.ExecContext(ctx, "INSERT INTO users (id, login, name, role, password_hash, created_at) VALUES "+
			"(?,?,?,?,?,UTC_TIMESTAMP(6))", u.ID[:], u.Login, u.Name, u.Role, u.Hash)
		if says(err, duplicate) {
			return ErrTaken
		}
		if err != nil {
			return err
		}
		return addAct(ctx, tx, a)
	})
}

// FirstOwner makes the first person of an empty workshop, with its settings; ErrConflict where there is somebody.
func (s *Store) FirstOwner(ctx context.Context, u User, settings string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var n int
		if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM users FOR UPDATE").Scan(&n); err != nil {
			return err
		}
		if n > 0 {
			return ErrConflict
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO users (id, login, name, role, password_hash, created_at) "+
			"VALUES (?,?,?,'owner',?,UTC_TIMESTAMP(6))", u.ID[:], u.Login, u.Name, u.Hash); err != nil {
			return err
		}
		if settings != "" {
			if _, err := tx.ExecContext(ctx, "INSERT INTO settings (name, value) VALUES ('settings', ?)", settings); err != nil {
				return err
			}
		}
		return addAct(ctx, tx, Act{By: u.Name, Kind: "people", Says: "Set the workshop up."})
	})
}

// Users lists everybody, by name.
func (s *Store) Users(ctx context.Context) ([]User, error) {
	return list(ctx, s.DB, func(u *User) []any { return append(u.fields(), &u.SeenAt) },
		"SELECT "+userColumns+", (SELECT MAX(seen_at) FROM sign_ins i WHERE i.user_id = u.id) FROM users u ORDER BY "+
			"u.suspended_at IS NOT NULL, u.name, u.login")
}

// UserByLogin finds a user by a login in small letters; ErrNotFound when there is none. Letter by
// letter: to the database an accent or a sign that nobody sees is no difference.
func (s *Store) UserByLogin(ctx context.Context, login string) (User, error) {
	return s.user(ctx, "LOWER(login) = ? COLLATE utf8mb4_bin", login)
}

// UserByID finds a user; ErrNotFound when there is none.
func (s *Store) UserByID(ctx context.Context, id uuid.UUID) (User, error) {
	return s.user(ctx, "id = ?", id[:])
}

func (s *Store) user(ctx context.Context, where string, arg any) (User, error) {
	var u User
	err := s.DB.QueryRowContext(ctx, "SELECT "+userColumns+" FROM users u WHERE "+where, arg).Scan(u.fields()...)
	return u, notFound(err)
}

// changeUser changes a person and sees that an owner is left; ErrNotFound where there is nobody, ErrLastOwner where
// none would be left.
func (s *Store) changeUser(ctx context.Context, id uuid.UUID, a Act, change func(tx *sql.Tx) error) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		// The owners are held too: two who suspend each other at once would both see the other left.
		var there bool
		if err := tx.QueryRowContext(ctx, "SELECT COALESCE(MAX(id = ?), FALSE) FROM (SELECT id FROM users WHERE "+
			"role = 'owner' OR id = ? ORDER BY id FOR UPDATE) held", id[:], id[:]).Scan(&there); err != nil {
			return err
		}
		if !there {
			return ErrNotFound
		}
		if err := change(tx); err != nil {
			return err
		}
		var owners int
		if err := tx.QueryRowContext(ctx,
			"SELECT COUNT(*) FROM users WHERE role = 'owner' AND suspended_at IS NULL").Scan(&owners); err != nil {
			return err
		}
		if owners == 0 {
			return ErrLastOwner
		}
		return addAct(ctx, tx, a)
	})
}

// ChangeUser sets a person's name and role.
func (s *Store) ChangeUser(ctx context.Context, u User, a Act) error {
	return s.changeUser(ctx, u.ID, a, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "UPDATE users SET name = ?, role = ? WHERE id = ?", u.Name, u.Role, u.ID[:])
		return err
	})
}

// Suspend keeps a person from signing in and ends where they are signed in, or lets them in again. What they
// entered stays theirs.
func (s *Store) Suspend(ctx context.Context, id uuid.UUID, out bool, a Act) error {
	return s.changeUser(ctx, id, a, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "UPDATE users SET suspended_at = IF(?, COALESCE(suspended_at, "+
			"UTC_TIMESTAMP(6)), NULL) WHERE id = ?", out, id[:]); err != nil {
			return err
		}
		if !out {
			return nil
		}
		if _, err := tx.ExecContext(ctx, "DELETE FROM invitations WHERE user_id = ?", id[:]); err != nil {
			return err
		}
		return endSignIns(ctx, tx, id, uuid.Nil)
	})
}

// SetPassword sets a password and ends every other place where the person is signed in.
func (s *Store) SetPassword(ctx context.Context, id uuid.UUID, hash string, keep uuid.UUID, a Act) error {
	return s.changeUser(ctx, id, a, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "UPDATE users SET password_hash = ? WHERE id = ?", hash, id[:]); err != nil {
			return err
		}
		return endSignIns(ctx, tx, id, keep)
	})
}

// SetPIN sets the hash of a person's PIN; empty takes it away.
func (s *Store) SetPIN(ctx context.Context, id uuid.UUID, hash string) error {
	return s.changeUser(ctx, id, Act{}, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "UPDATE users SET pin_hash = ? WHERE id = ?", hash, id[:])
		return err
	})
}

// SetSecondFactor sets the secret of a person's second factor and the hashes of its spare codes; an empty
// secret takes it away.
func (s *Store) SetSecondFactor(ctx context.Context, id uuid.UUID, secret string, spare [][32]byte, a Act) error {
	return s.changeUser(ctx, id, a, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "UPDATE users SET totp_secret = ?, totp_step = 0 WHERE id = ?", secret, id[:]); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "DELETE FROM spare_codes WHERE user_id = ?", id[:]); err != nil {
			return err
		}
		for _, h := range spare {
			if _, err := tx.ExecContext(ctx, "INSERT INTO spare_codes (user_id, hash) VALUES (?,?)", id[:], h[:]); err != nil {
				return err
			}
		}
		return nil
	})
}

// UseCode counts a code of the second factor by its step; false where it, or a later one, was used before.
func (s *Store) UseCode(ctx context.Context, id uuid.UUID, step int64) (bool, error) {
	r, err := s.exec(ctx, "UPDATE users SET totp_step = ? WHERE id = ? AND totp_step < ?", step, id[:], step)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, err
}

// UseSpareCode takes a spare code out; false where there is none of this hash.
func (s *Store) UseSpareCode(ctx context.Context, id uuid.UUID, hash [32]byte) (bool, error) {
	r, err := s.exec(ctx, "DELETE FROM spare_codes WHERE user_id = ? AND hash = ?", id[:], hash[:])
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, err
}

// SpareCodes is how many spare codes a person has left.
func (s *Store) SpareCodes(ctx context.Context, id uuid.UUID) (n int, err error) {
	err = s.DB.QueryRowContext(ctx, "SELECT COUNT(*) FROM spare_codes WHERE user_id = ?", id[:]).Scan(&n)
	return n, err
}

// SetPreferences keeps how a person likes the interface, JSON.
func (s *Store) SetPreferences(ctx context.Context, id uuid.UUID, json string) error {
	return s.changeUser(ctx, id, Act{}, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "UPDATE users SET preferences = ? WHERE id = ?", json, id[:])
		return err
	})
}

// Invite makes a link by which a person chooses a password, known by the hash of what stands in it. One is open at
// a time: an older one ends.
func (s *Store) Invite(ctx context.Context, user uuid.UUID, hash [32]byte, expires time.Time, a Act) error {
	return s.changeUser(ctx, user, a, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM invitations WHERE user_id = ?", user[:]); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "INSERT INTO invitations (hash, user_id, created_at, expires_at) VALUES (?,?,UTC_TIMESTAMP(6),?)",
			hash[:], user[:], expires.UTC())
		return err
	})
}

// Invited finds whom a link is for; ErrExpired where it was used, is too old or was never made.
func (s *Store) Invited(ctx context.Context, hash [32]byte) (User, error) {
	u, err := s.user(ctx, "u.suspended_at IS NULL AND u.id = (SELECT user_id FROM invitations WHERE hash = ? AND "+
		"used_at IS NULL AND expires_at > UTC_TIMESTAMP(6))", hash[:])
	if errors.Is(err, ErrNotFound) {
		return u, ErrExpired
	}
	return u, err
}

// Accept sets the password of whom a link is for and uses the link up.
func (s *Store) Accept(ctx context.Context, hash [32]byte, password string) (User, error) {
	u, err := s.Invited(ctx, hash)
	if err != nil {
		return u, err
	}
	return u, s.changeUser(ctx, u.ID, Act{By: u.Name, Kind: "people", Says: "Chose a password by link."}, func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, "UPDATE invitations SET used_at = UTC_TIMESTAMP(6) WHERE hash = ? AND used_at IS NULL", hash[:])
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n != 1 {
			return errors.Join(err, ErrExpired)
		}
		if _, err := tx.ExecContext(ctx, "UPDATE users SET password_hash = ? WHERE id = ?", password, u.ID[:]); err != nil {
			return err
		}
		return endSignIns(ctx, tx, u.ID, uuid.Nil)
	})
}

// SignIn is one place where a person is signed in.
type SignIn struct {
	ID        uuid.UUID
	Device    string
	CreatedAt time.Time
	SeenAt    time.Time
}

// AddSignIn keeps that a person signed in.
func (s *Store) AddSignIn(ctx context.Context, id, user uuid.UUID, device string) error {
	_, err := s.exec(ctx, "INSERT INTO sign_ins (id, user_id, device, created_at, seen_at) VALUES "+
		"(?,?,?,UTC_TIMESTAMP(6),UTC_TIMESTAMP(6))", id[:], user[:], clip(device, 120))
	return err
}

// seenEvery is how exactly it is kept when a device was last used.
const seenEvery = 5 * time.Minute

// SignedIn finds who is signed in; ErrNotFound where that has ended or the person is suspended.
func (s *Store) SignedIn(ctx context.Context, id uuid.UUID) (User, error) {
	var u User
	var seen time.Time
	err := s.DB.QueryRowContext(ctx, "SELECT "+userColumns+
		", i.seen_at FROM sign_ins i JOIN users u ON u.id = i.user_id WHERE i.id = ? AND u.suspended_at IS NULL",
		id[:]).Scan(append(u.fields(), &seen)...)
	if err != nil {
		return u, notFound(err)
	}
	if time.Since(seen) > seenEvery {
		_, err = s.exec(ctx, "UPDATE sign_ins SET seen_at = UTC_TIMESTAMP(6) WHERE id = ?", id[:])
	}
	return u, err
}

// SignIns lists where a person is signed in, the latest used first.
func (s *Store) SignIns(ctx context.Context, user uuid.UUID) ([]SignIn, error) {
	return list(ctx, s.DB, func(x *SignIn) []any { return []any{&x.ID, &x.Device, &x.CreatedAt, &x.SeenAt} },
		"SELECT id, device, created_at, seen_at FROM sign_ins WHERE user_id = ? ORDER BY seen_at DESC, id", user[:])
}

// EndSignIn ends one of a person's sign-ins; one that has ended already is no error.
func (s *Store) EndSignIn(ctx context.Context, user, id uuid.UUID) error {
	_, err := s.exec(ctx, "DELETE FROM sign_ins WHERE id = ? AND user_id = ?", id[:], user[:])
	return err
}

// endSignIns ends all of a person's sign-ins but one.
func endSignIns(ctx context.Context, tx *sql.Tx, user, keep uuid.UUID) error {
	_, err := tx.ExecContext(ctx, "DELETE FROM sign_ins WHERE user_id = ? AND id <> ?", user[:], keep[:])
	return err
}

// Attempt records a sign-in attempt under each of the keys and returns how many there were of each within the last
// ten minutes, this one included. It goes through the database, so that several servers count together.
func (s *Store) Attempt(ctx context.Context, keys ...[32]byte) ([]int, error) {
	var counts []int
	err := s.tx(ctx, func(tx *sql.Tx) error {
		counts = make([]int, len(keys))
		if _, err := tx.ExecContext(ctx, "DELETE FROM sign_in_attempts WHERE at < UTC_TIMESTAMP(6) - INTERVAL 10 MINUTE"); err != nil {
			return err
		}
		for i, k := range keys {
			if _, err := tx.ExecContext(ctx, "INSERT INTO sign_in_attempts (who, at) VALUES (?, UTC_TIMESTAMP(6))", k[:]); err != nil {
				return err
			}
			if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM sign_in_attempts WHERE who = ?", k[:]).Scan(&counts[i]); err != nil {
				return err
			}
		}
		return nil
	})
	return counts, err
}

// ForgetAttempts clears the count of all keys but the last, and takes one off the last: a good sign-in ends the
// count of its login, and is no failure of its address.
func (s *Store) ForgetAttempts(ctx context.Context, keys ...[32]byte) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		for i, k := range keys {
			q := "DELETE FROM sign_in_attempts WHERE who = ?"
			if i == len(keys)-1 && i > 0 {
				q += " ORDER BY at DESC LIMIT 1"
			}
			if _, err := tx.ExecContext(ctx, q, k[:]); err != nil {
				return err
			}
		}
		return nil
	})
}

// Device is a tablet that several people use, each by a PIN.
type Device struct {
	ID         uuid.UUID
	Name       string
	AdmittedAt time.Time
	By         string
}

// NewDevice is a shared device that is admitted.
type NewDevice struct {
	ID   uuid.UUID
	Hash [32]byte // of the secret that it keeps
	Name string
	By   uuid.UUID
}

// AdmitDevice lets a device be shared, known by the hash of its cookie.
func (s *Store) AdmitDevice(ctx context.Context, d NewDevice, a Act) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "INSERT INTO shared_devices (id, hash, name, admitted_at, admitted_by) "+
			"VALUES (?,?,?,UTC_TIMESTAMP(6),?)", d.ID[:], d.Hash[:], d.Name, d.By[:]); err != nil {
			return err
		}
		return addAct(ctx, tx, a)
	})
}

// DropDevice takes a device's admission back.
func (s *Store) DropDevice(ctx context.Context, id uuid.UUID, a Act) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, "DELETE FROM shared_devices WHERE id = ?", id[:])
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return err // taken back already, it is no error
		}
		return addAct(ctx, tx, a)
	})
}

const deviceColumns = "d.id, d.name, d.admitted_at, u.name FROM shared_devices d JOIN users u ON u.id = d.admitted_by"

func (d *Device) fields() []any { return []any{&d.ID, &d.Name, &d.AdmittedAt, &d.By} }

// Devices lists the shared devices.
func (s *Store) Devices(ctx context.Context) ([]Device, error) {
	return list(ctx, s.DB, (*Device).fields, "SELECT "+deviceColumns+" ORDER BY d.name, d.id")
}

// DeviceOf finds the shared device that a cookie belongs to; ErrNotFound where it is none.
func (s *Store) DeviceOf(ctx context.Context, hash [32]byte) (Device, error) {
	var d Device
	err := s.DB.QueryRowContext(ctx, "SELECT "+deviceColumns+" WHERE d.hash = ?", hash[:]).Scan(d.fields()...)
	return d, notFound(err)
}

// Empty reports whether there is no user yet.
func (s *Store) Empty(ctx context.Context) (bool, error) {
	var n int
	err := s.DB.QueryRowContext(ctx, "SELECT COUNT(*) FROM users").Scan(&n)
	return n == 0, err
}
