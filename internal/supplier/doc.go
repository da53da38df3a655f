// Package supplier asks a parts supplier's service for prices and days, and simulates
// one: the demo starts it, with articles out of stock, a slow mood and a down one.
package supplier
