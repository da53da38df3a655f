// Package learn turns a workshop's own confirmed jobs into rates: how often each fault
// was the one, shrunk towards the rates that ship, how long repairs lasted, and how
// often the verdict was right at each stated probability.
package learn
