// Package strip keeps the order in which things came off a machine: it understands a
// technician's one-line entry as count, size, kind and warning, knows stacks, marks,
// plugs and settings, turns the list round for putting back, and says what is left over.
package strip
