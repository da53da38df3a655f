// Package web is the application's HTTP side: the API with its OpenAPI
// document, sessions, and the interface's files. It computes nothing: the core
// does.
package web
