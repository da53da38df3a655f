package store

import (
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"regexp"
	"slices"
	"strings"

	"github.com/go-sql-driver/mysql"
)

// The numbers by which the database says what is wrong (MariaDB Server, error codes).
const (
	duplicate = 1062 // a key that is there already
	lockWait  = 1205
	deadlock  = 1213
	tooLong   = 1406 // for its column
	noParent  = 1452 // the row that it belongs to is not there
)

// away are the numbers that say: not for this connection, or not just now (1047, 1180: a node without a quorum).
var away = []uint16{1040, 1047, 1053, 1077, 1129, 1152, 1158, 1159, 1160, 1161, 1180, 1203, 1927}

// says reports whether the database said one of these numbers.
func says(err error, numbers ...uint16) bool {
	var me *mysql.MySQLError
	return errors.As(err, &me) && slices.Contains(numbers, me.Number)
}

// Away reports whether an error says that the database is not there, or not for this one: it
// ended, is starting, or has too many who ask.
func Away(err error) bool {
	var op *net.OpError
	return errors.As(err, &op) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) ||
		errors.Is(err, io.ErrUnexpectedEOF) || says(err, away...)
}

// Used reports whether an error says that an id or another key is taken by something else.
func Used(err error) bool { return errors.Is(err, ErrConflict) || says(err, duplicate) }

// column is how the database names the column that a text does not fit.
var column = regexp.MustCompile("Data too long for column '([a-z_]+)'")

// TooLong reports whether an error says that a text does not fit where it is kept, and
// which.
func TooLong(err error) (what string, ok bool) {
	if !says(err, tooLong) {
		return "", false
	}
	if m := column.FindStringSubmatch(err.Error()); m != nil {
		return strings.ReplaceAll(m[1], "_", " "), true
	}
	return "text", true
}
