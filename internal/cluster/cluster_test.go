package cluster_test

import (
	"context"
	"io"
	"net"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/cluster"
)

func TestAddresses(t *testing.T) {
	for _, x := range []struct {
		dsn   string
		hosts []string
	}{
		{"ida:x@tcp(db1:3306)/corriente", []string{"db1:3306"}},
		{"ida:x@tcp(db1)/corriente", []string{"db1:3306"}},
		{"ida:x@tcp(db1,db2:3307, 192.168.1.3)/corriente", []string{"db1:3306", "db2:3307", "192.168.1.3:3306"}},
		{"ida:x@tcp([fd00::1]:3306,[fd00::2])/corriente", []string{"[fd00::1]:3306", "[fd00::2]:3306"}},
		{"ida:p@tcp(a,b)/c@tcp(db1,db2)/corriente?tls=true", []string{"db1:3306", "db2:3306"}}, // a password may hold anything
		{"ida:x@unix(/run/mysqld/mysqld.sock)/corriente", []string{"/run/mysqld/mysqld.sock"}},
	} {
		c, err := cluster.Parse(x.dsn)
		require.NoError(t, err, x.dsn)
		assert.Equal(t, x.hosts, c.Hosts(), x.dsn)
		assert.Equal(t, len(x.hosts) > 1, c.Several(), x.dsn)
		assert.Equal(t, "corriente", c.Config().DBName, x.dsn)
	}
	for dsn, says := range map[string]string{
		"corriente":                        "cannot be read",
		"ida:x@tcp(db1,,db2)/corriente":    "empty host",
		"ida:x@tcp(db1,db2/corriente":      "cannot be read",
		"ida:x@tcp(db1,db2)/corriente?x=%": "cannot be read",
	} {
		_, err := cluster.Parse(dsn)
		assert.ErrorContains(t, err, says, dsn)
	}
}

// A host that takes no connection is passed by.
func TestTheNextHostAnswers(t *testing.T) {
	gone, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, gone.Close())
	there, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer there.Close()
	c, err := cluster.Parse("ida:x@tcp(" + gone.Addr().String() + "," + there.Addr().String() + ")/corriente")
	require.NoError(t, err)
	k, err := c.Config().DialFunc(context.Background(), "tcp", "")
	require.NoError(t, err)
	assert.Equal(t, there.Addr().String(), k.RemoteAddr().String())
	require.NoError(t, k.Close())
	other, err := there.Accept()
	require.NoError(t, err)
	_, err = other.Read(make([]byte, 1))
	assert.ErrorIs(t, err, io.EOF)
	require.NoError(t, there.Close())
	_, err = c.Config().DialFunc(context.Background(), "tcp", "")
	assert.Error(t, err)
}

// An address with a password is never shown by what is wrong with it.
func TestNoPasswordIsSaid(t *testing.T) {
	_, err := cluster.Parse("ida:secret-word@tcp(db1,db2/corriente")
	require.Error(t, err)
	assert.NotContains(t, err.Error(), "secret-word")
	cfg := mysql.NewConfig()
	cfg.Addr = "db1:3306"
	assert.Equal(t, []string{"db1:3306"}, cluster.From(cfg).Hosts())
}
