// Package photo makes a camera's picture fit to be kept: upright, without what the
// camera wrote beside it (place, time, device), with a thumbnail.
package photo
