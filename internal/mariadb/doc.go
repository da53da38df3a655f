// Package mariadb starts and stops a MariaDB server of the application's own:
// its own data folder, a loopback port, never the system's server.
package mariadb
