// Package cluster reaches a MariaDB database that stands on one host or on several: a Galera cluster,
// whose nodes hold the same data. One host is used; when it is gone, or has no quorum, the next one is.
package cluster
