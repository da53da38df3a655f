// Package desk puts together what a job's screens show of its reasoning: the
// verdict, the suspects, the current path of one state, the quick checks still
// open. The server and the interface's own worker, which goes on without a
// connection, both ask it, so that they say the same.
package desk
