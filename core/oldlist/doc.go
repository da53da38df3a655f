// Package oldlist reads the list of jobs that a workshop kept before: CSV with a head,
// each line with its own verdict.
package oldlist
