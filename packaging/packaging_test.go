// Package packaging tests what a workshop's machine is given.
package packaging

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func build(t *testing.T, args ...string) string {
	t.Helper()
	made := t.TempDir()
	for _, f := range []string{"NOTICES.txt", "corriente.cdx.json"} {
		require.NoError(t, os.WriteFile(filepath.Join(made, f), []byte("made"), 0o600))
	}
	cmd := exec.Command("./build.sh", args...)
	cmd.Env = append(os.Environ(), "BIN=/bin/true", "VERSION=1.2.3", "MADE_IN="+made)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

// Installed again over itself, a changed configuration stays; the service runs as a user of its own and may write its
// own folder alone.
func TestInstall(t *testing.T) {
	root := t.TempDir()
	build(t, "install", root)
	conf := filepath.Join(root, "etc/corriente/corriente.conf")
	mine := []byte("CORRIENTE_ADDR=127.0.0.1:9000\n")
	require.NoError(t, os.WriteFile(conf, mine, 0o640))
	build(t, "install", root)
	b, err := os.ReadFile(conf)
	require.NoError(t, err)
	assert.Equal(t, mine, b)
	assert.FileExists(t, filepath.Join(root, "usr/bin/corriente"))
	assert.FileExists(t, filepath.Join(root, "usr/share/doc/corriente/NOTICES.txt"))
	unit, err := os.ReadFile(filepath.Join(root, "etc/systemd/system/corriente.service"))
	require.NoError(t, err)
	for _, want := range []string{"User=corriente", "ProtectSystem=strict", "NoNewPrivileges=yes", "StateDirectory=corriente"} {
		assert.Contains(t, string(unit), want)
	}
	if _, err := exec.LookPath("systemd-analyze"); err == nil {
		out, _ := exec.Command("systemd-analyze", "verify", "--man=no", "--root="+root, "corriente.service").CombinedOutput()
		assert.NotRegexp(t, "Unknown|Failed to parse|Invalid|ignoring", string(out), "what systemd itself finds wrong with the unit")
	}
}

func TestDebianPackage(t *testing.T) {
	if _, err := exec.LookPath("dpkg-deb"); err != nil {
		t.Skip("dpkg-deb is Debian's")
	}
	dir := t.TempDir()
	build(t, "deb", dir)
	files, err := filepath.Glob(filepath.Join(dir, "corriente_1.2.3_*.deb"))
	require.NoError(t, err)
	require.Len(t, files, 1)
	out, err := exec.Command("dpkg-deb", "--contents", files[0]).Output()
	require.NoError(t, err)
	for _, f := range []string{"./usr/bin/corriente", "./lib/systemd/system/corriente.service", "./etc/corriente/corriente.conf"} {
		assert.Contains(t, string(out), f)
	}
	info, err := exec.Command("dpkg-deb", "--info", files[0], "conffiles").Output()
	require.NoError(t, err)
	assert.Contains(t, string(info), "/etc/corriente/corriente.conf", "an upgrade asks before it changes a configuration")
	control, err := exec.Command("dpkg-deb", "--field", files[0], "Depends").Output()
	require.NoError(t, err)
	assert.Contains(t, string(control), "mariadb-server")
}

// Every setting that the configuration names is one that the program reads.
func TestConfigurationNamesSettings(t *testing.T) {
	conf, err := os.ReadFile("corriente.conf")
	require.NoError(t, err)
	var source strings.Builder
	files, err := filepath.Glob("../cmd/corriente/*.go")
	require.NoError(t, err)
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		source.Write(b)
	}
	names := regexp.MustCompile(`(?m)^#?(CORRIENTE_[A-Z_]+)=`).FindAllStringSubmatch(string(conf), -1)
	assert.Greater(t, len(names), 6)
	for _, m := range names {
		assert.Contains(t, source.String(), `"`+m[1]+`"`)
	}
}
