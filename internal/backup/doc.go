// Package backup writes all data of a workshop into one file and puts such a file back.
//
// The file is gzip over lines of JSON: a manifest with the version of the schema, then every row of
// every table, then an end with the number of rows and a checksum. Nothing in it is executed. It is
// put back into a new database beside the old one, whose tables are made by the application's own
// migrations; only when all of it is there and sound do the new tables take the place of the old
// ones, by one rename. Killed at any moment, the old data are there whole, or the new.
//
// Backups of before this format, which are a dump in SQL, are read too: of their statements only
// inserted values are taken, as values.
package backup

// Format is the first thing a file says of itself.
const Format = "corriente-backup/2"
