// Package authority makes what a workshop's own network needs for HTTPS: a certificate authority of the workshop's
// own, and with it a certificate for this machine that renews itself. The authority may sign for private names and
// addresses alone (RFC 5280, 4.2.1.10), so that whoever stole its key could pose as the workshop and as nobody else.
package authority
