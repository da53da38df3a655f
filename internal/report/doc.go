// Package report lays papers out: the customer's page, the file copy, a label for the
// machine. What they say is put together elsewhere, once, and is the same on the screen, in
// the PDF and on the printer. It computes nothing.
package report
