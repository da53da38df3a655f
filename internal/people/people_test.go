package people_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"corriente/internal/people"
)

func TestCanonicalLogin(t *testing.T) {
	for typed, want := range map[string]string{
		"Counter": "counter", "cóunter": "counter", "ｃｏｕｎｔｅｒ": "counter", "coun\u200bter": "counter", "\ufeffcounter ": "counter",
		"co\u0301unter": "counter", "COUN\u00adTER": "counter",
	} {
		assert.Equal(t, want, people.Canonical(typed), "%q", typed)
	}
	rapid.Check(t, func(t *rapid.T) {
		once := people.Canonical(rapid.String().Draw(t, "typed"))
		assert.Equal(t, once, people.Canonical(once), "a canonical login stays as it is")
	})
}

func TestCheckLogin(t *testing.T) {
	got, err := people.CheckLogin("  Wanda ")
	assert.NoError(t, err)
	assert.Equal(t, "wanda", got)
	for typed, says := range map[string]string{"": "short name", "wändä": `use "wanda"`,
		"7up": "begins with a letter", "a b!": "begins with a letter", strings.Repeat("a", 41): "at most 40"} {
		_, err := people.CheckLogin(typed)
		assert.ErrorContains(t, err, says, "%q", typed)
	}
	rapid.Check(t, func(t *rapid.T) {
		if l, err := people.CheckLogin(rapid.String().Draw(t, "typed")); err == nil {
			assert.Equal(t, l, people.Canonical(l), "what is kept is what is counted")
		}
	})
}

// The first six stand at the top of every published list of leaked passwords (common practice).
func TestCheckPassword(t *testing.T) {
	for _, bad := range []string{"1234567890", "password123", "qwertyuiop", "iloveyou12", "aaaaaaaaaa",
		"letmeinplease", "corriente1", "lakesideorchard", "wandawanda"} {
		assert.Error(t, people.CheckPassword(bad, "wanda", "Lakeside Orchard"), bad)
	}
	assert.ErrorContains(t, people.CheckPassword("kurz"), "at least 10")
	assert.ErrorContains(t, people.CheckPassword(strings.Repeat("xy z", 60)), "at most 200")
	for _, good := range []string{"plum ladder seven", "tömatensuppe-Brille", "rN4!kd02_Qz"} {
		assert.NoError(t, people.CheckPassword(good, "wanda"), good)
	}
}

func TestCheckPIN(t *testing.T) {
	for _, bad := range []string{"", "123", "123456789", "12a4", "٤٥٦٧", "1111", "2345", "8765"} {
		assert.Error(t, people.CheckPIN(bad), bad)
	}
	for _, good := range []string{"4071", "12342", "90210777"} {
		assert.NoError(t, people.CheckPIN(good), good)
	}
}

func TestRoles(t *testing.T) {
	assert.True(t, people.RoleOf("counter").May(people.See))
	assert.False(t, people.RoleOf("counter").May(people.Work))
	assert.False(t, people.RoleOf("technician").May(people.Manage))
	assert.True(t, people.RoleOf(people.Owner).May(people.Manage))
	assert.False(t, people.RoleOf("").May(people.See), "no role may nothing")
}
