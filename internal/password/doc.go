// Package password hashes and checks passwords with argon2id.
package password
