// Package store keeps users, machines, jobs, evidence, verdicts and decisions
// in MariaDB. Evidence is struck out, never deleted; every write carries an id
// made by the client, so sending it again changes nothing.
package store
