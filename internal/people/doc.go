// Package people holds the rules about who works in the workshop: roles and what each may do, logins, passwords and
// PINs. It keeps nothing and answers nobody; package store keeps people, package web asks these rules.
package people
