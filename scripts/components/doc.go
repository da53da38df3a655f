// Command components lists what the program is made of: a bill of materials (CycloneDX 1.6, JSON) and the notices that
// the licences of its parts ask to be shipped. The Go modules are those built into the binary; the packages of the
// interface are those of its lock file that are no tools.
//
//	go run ./scripts/components -binary bin/corriente -web web -out bin
package main
