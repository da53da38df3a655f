// Package list reads lists that people keep in spreadsheets: CSV whose first line names
// its columns, with comma, semicolon or tab, a byte order mark or none.
package list
