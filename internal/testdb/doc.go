// Package testdb gives tests a MariaDB of their own: one server a test binary,
// an empty database a test.
package testdb
