// Package phrase joins words into sentences for people.
package phrase
