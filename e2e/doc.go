// Package e2e drives the real interface in headless Chromium: a server with its
// own database, a browser, and what a technician does with both.
package e2e
