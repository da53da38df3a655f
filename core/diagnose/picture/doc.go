// Package picture prepares what is drawn: the current path of one state with its volts and
// suspects, the explanations that are left, and how a figure that is being typed would be
// understood. It draws nothing.
package picture
