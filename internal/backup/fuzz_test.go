package backup

import (
	"bytes"
	"compress/gzip"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A backup file may come from anywhere: what is in it is counted and summed, or refused in a sentence; its rows name
// their tables and fit them.
func FuzzReadBackup(f *testing.F) {
	for _, s := range []string{
		"", "x", `{"format":"corriente-backup/1","schema":34,"tables":{"users":["id"]}}` + "\n" +
			`{"t":"users","v":["aQ=="]}` + "\n" + `{"end":true,"rows":{"users":1},"sha256":""}` + "\n",
		"-- corriente backup\nINSERT INTO `users` VALUES (1,'a\\'b',NULL,0x00);\n", "-- corriente backup\n\\! touch x\n", "[1,2]\n{}\n",
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		var z bytes.Buffer
		w := gzip.NewWriter(&z)
		_, _ = w.Write(text)
		assert.NoError(t, w.Close())
		_, err := read(&z, sink{begin: func(Manifest) error { return nil }, row: func(table string, columns []string, values []any) error {
			assert.NotEmpty(t, table)
			assert.Len(t, values, len(columns), "a row that does not fit its table was handed on")
			return nil
		}})
		if err != nil {
			assert.NotEmpty(t, err.Error())
		}
		_, err = read(bytes.NewReader(text),
			sink{begin: func(Manifest) error { return nil }, row: func(string, []string, []any) error { return nil }})
		if err != nil {
			assert.NotEmpty(t, err.Error())
		}
	})
}
