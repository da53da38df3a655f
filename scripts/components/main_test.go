package main

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// built is this command itself, which stands for the built application: its modules are read from it in the same way.
func built(t *testing.T) string {
	t.Helper()
	bin := filepath.Join(t.TempDir(), "components")
	out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput()
	require.NoError(t, err, string(out))
	return bin
}

func TestEveryPartHasItsLicence(t *testing.T) {
	out := t.TempDir()
	require.NoError(t, run(built(t), "../../web", out))
	b, err := os.ReadFile(filepath.Join(out, "corriente.cdx.json"))
	require.NoError(t, err)
	var bom struct {
		BOMFormat, SpecVersion string
		Components             []struct {
			Name, Version, Purl string
			Licenses            []struct {
				License    struct{ ID, Name string }
				Expression string
			}
		}
	}
	require.NoError(t, json.Unmarshal(b, &bom))
	assert.Equal(t, "CycloneDX", bom.BOMFormat)
	assert.Equal(t, "1.6", bom.SpecVersion)
	notices, err := os.ReadFile(filepath.Join(out, "NOTICES.txt"))
	require.NoError(t, err)
	names := map[string]string{}
	for _, c := range bom.Components {
		assert.NotEmpty(t, c.Version, c.Name)
		require.NotEmpty(t, c.Licenses, c.Name)
		assert.Contains(t, string(notices), c.Name+" "+c.Version)
		names[c.Name] = c.Licenses[0].License.ID
	}
	// From memory: what these have been licensed under for years.
	assert.Equal(t, "Apache-2.0", names["github.com/CycloneDX/cyclonedx-go"])
	assert.Equal(t, "MIT", names["react"])
	assert.Equal(t, "BSD-3-Clause", names["std"])
	assert.NotContains(t, names, "vitest", "tools are not shipped")
}

func TestRecognise(t *testing.T) {
	for text, id := range map[string]string{
		"Permission is hereby granted, free of\ncharge, to any person … The above copyright notice and this " +
			"permission notice shall be": "MIT",
		"Apache License\n   Version 2.0, January 2004":                                                   "Apache-2.0",
		"Redistribution and use in source and binary forms … may be used to endorse or promote products": "BSD-3-Clause",
		"Redistribution and use in source and binary forms, with or without":                             "BSD-2-Clause",
		"All rights reserved. Do not copy.":                                                              "",
	} {
		assert.Equal(t, id, recognise(text), strings.Fields(text)[0])
	}
}

func TestWithoutALicenceNothingIsShipped(t *testing.T) {
	web := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(web, "package-lock.json"),
		[]byte(`{"packages":{"node_modules/nameless":{"version":"1.0.0"}}}`), 0o600))
	require.ErrorContains(t, run(built(t), web, t.TempDir()), "pkg:npm/nameless@1.0.0")
	require.ErrorContains(t, run(filepath.Join(web, "none"), web, t.TempDir()), "build it first")
}
