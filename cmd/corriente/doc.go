// Command corriente is the whole product in one binary: the web application and
// its demo, and the computation on the command line.
package main
