package list

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var columns = map[string][]string{"name": {"name", "part"}, "price": {"price"}}

func TestListsOfAllKinds(t *testing.T) {
	for _, text := range []string{"name,price\nGear, 4\n", "\ufeffPart;Note;Price\r\nGear;x;4\r\n\r\n",
		"price\tname\n4\tGear\n", "name,price\n\"Gear\",4"} {
		rows, err := Read(strings.NewReader(text), columns, []string{"name", "price"}, 10)
		require.NoError(t, err, "%q", text)
		require.Len(t, rows, 1)
		assert.Equal(t, "Gear", rows[0].Get("name"))
		assert.Equal(t, "4", rows[0].Get("price"))
		assert.Empty(t, rows[0].Get("colour"))
		assert.Equal(t, 2, rows[0].N)
	}
	rows, err := Read(strings.NewReader("name,price\nR\xf6hre,4\n"), columns, []string{"name"}, 10)
	require.NoError(t, err)
	assert.Equal(t, "Röhre", rows[0].Get("name"), "an older program's letters")
	for text, says := range map[string]string{"": "empty", "a,b\n1,2\n": "name, price among them",
		"name,price\n": "no lines", "name,price\na,1\nb,2\n": "more than 1 lines"} {
		_, err := Read(strings.NewReader(text), columns, []string{"name", "price"}, 1)
		assert.ErrorContains(t, err, says)
	}
}
