package main

import (
	"bytes"
	"cmp"
	"context"
	"debug/buildinfo"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	cdx "github.com/CycloneDX/cyclonedx-go"
)

// part is one module or package with the texts of its licence.
type part struct {
	name, version, purl string
	licence             string // SPDX identifier; empty: not recognised
	texts               []string
}

func main() {
	binary := flag.String("binary", "bin/corriente", "the program")
	web := flag.String("web", "web", "folder of the interface, its packages installed")
	out := flag.String("out", "bin", "folder for corriente.cdx.json and NOTICES.txt")
	flag.Parse()
	if err := run(*binary, *web, *out); err != nil {
		fmt.Fprintln(os.Stderr, "components:", err)
		os.Exit(1)
	}
}

func run(binary, web, out string) error {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Minute)
	defer cancel()
	ps, err := modules(ctx, binary)
	if err != nil {
		return err
	}
	more, err := packages(web)
	if err != nil {
		return err
	}
	ps = append(ps, more...)
	slices.SortFunc(ps, func(a, b part) int { return cmp.Compare(a.purl, b.purl) })
	var missing []string
	for i := range ps {
		if len(ps[i].texts) == 0 && ps[i].licence == "" {
			missing = append(missing, ps[i].purl)
		}
	}
	if len(missing) > 0 {
		return fmt.Errorf("no licence is found for %s: without one it cannot be shipped", strings.Join(missing, ", "))
	}
	var bom bytes.Buffer
	if err := cdx.NewBOMEncoder(&bom, cdx.BOMFileFormatJSON).SetPretty(true).EncodeVersion(list(ps), cdx.SpecVersion1_6); err != nil {
		return err
	}
	return errors.Join(os.WriteFile(filepath.Join(out, "corriente.cdx.json"), bom.Bytes(), 0o644),
		os.WriteFile(filepath.Join(out, "NOTICES.txt"), notices(ps), 0o644))
}

// modules are the Go modules built into a program, and Go's own library.
func modules(ctx context.Context, binary string) ([]part, error) {
	info, err := buildinfo.ReadFile(binary)
	if err != nil {
		return nil, fmt.Errorf("%s: build it first: %w", binary, err)
	}
	root, err := exec.CommandContext(ctx, "go", "env", "GOROOT").Output()
	if err != nil {
		return nil, fmt.Errorf("go env: %w", err)
	}
	std := part{name: "std", version: strings.TrimPrefix(info.GoVersion, "go"), purl: "pkg:golang/std@" +
		strings.TrimPrefix(info.GoVersion, "go")}
	std.licence, std.texts = licences(strings.TrimSpace(string(root)))
	if len(std.texts) == 0 { // a distribution may keep it elsewhere
		std.licence = "BSD-3-Clause"
	}
	out := []part{std}
	for _, d := range info.Deps {
		if d.Replace != nil {
			d = d.Replace
		}
		b, err := exec.CommandContext(ctx, "go", "mod", "download", "-json", d.Path+"@"+d.Version).Output()
		if err != nil {
			return nil, fmt.Errorf("go mod download %s: %w", d.Path, err)
		}
		var at struct{ Dir string }
		if err := json.Unmarshal(b, &at); err != nil {
			return nil, err
		}
		p := part{name: d.Path, version: d.Version, purl: "pkg:golang/" + d.Path + "@" + d.Version}
		p.licence, p.texts = licences(at.Dir)
		out = append(out, p)
	}
	return out, nil
}

// packages are those of the interface that are shipped.
func packages(web string) ([]part, error) {
	b, err := os.ReadFile(filepath.Join(web, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License string
			Dev, Optional    bool
		}
	}
	if err := json.Unmarshal(b, &lock); err != nil {
		return nil, fmt.Errorf("package-lock.json: %w", err)
	}
	var out []part
	for at, k := range lock.Packages {
		if at == "" || k.Dev || k.Optional {
			continue
		}
		name := at[strings.LastIndex(at, "node_modules/")+len("node_modules/"):]
		p := part{name: name, version: k.Version, purl: "pkg:npm/" + strings.Replace(name, "@", "%40", 1) + "@" + k.Version}
		if p.licence, p.texts = licences(filepath.Join(web, at)); p.licence == "" {
			p.licence = k.License
		}
		out = append(out, p)
	}
	return out, nil
}

var named = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|unlicense)([.-].*)?$`)

// marks are sentences by which the usual licences are told, the more particular first (SPDX License List).
var marks = []struct{ id, has, and string }{
	{"Apache-2.0", "Apache License", "Version 2.0"},
	{"MPL-2.0", "Mozilla Public License", "2.0"},
	{"OFL-1.1", "SIL OPEN FONT LICENSE", "Version 1.1"},
	{"BSD-3-Clause", "Redistribution and use in source and binary forms", "be used to endorse or promote"},
	{"BSD-2-Clause", "Redistribution and use in source and binary forms", ""},
	{"MIT", "Permission is hereby granted, free of charge", "The above copyright notice and this permission notice"},
	{"ISC", "Permission to use, copy, modify, and/or distribute this software", "copyright notice"},
	{"Unlicense", "released into the public domain", "unlicense"},
}

// recognise names a licence by its text; empty where it is none of the usual.
func recognise(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	for _, m := range marks {
		if strings.Contains(text, m.has) && strings.Contains(text, m.and) {
			return m.id
		}
	}
	return ""
}

// licences reads a folder's own notices and recognises the licence.
func licences(dir string) (id string, texts []string) {
	files, err := os.ReadDir(dir)
	if err != nil {
		return "", nil
	}
	for _, f := range files {
		if f.IsDir() || !named.MatchString(f.Name()) {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, f.Name()))
		if err != nil {
			continue
		}
		texts = append(texts, strings.TrimSpace(string(b)))
		if id == "" {
			id = recognise(string(b))
		}
	}
	return id, texts
}

// list is the bill of materials.
func list(ps []part) *cdx.BOM {
	bom := cdx.NewBOM()
	bom.Metadata = &cdx.Metadata{Component: &cdx.Component{Type: cdx.ComponentTypeApplication, Name: "corriente",
		Licenses: licence("Apache-2.0")}}
	var cs []cdx.Component
	for _, p := range ps {
		cs = append(cs, cdx.Component{BOMRef: p.purl, Type: cdx.ComponentTypeLibrary, Name: p.name,
			Version: p.version, PackageURL: p.purl, Licenses: licence(p.licence)})
	}
	bom.Components = &cs
	return bom
}

func licence(id string) *cdx.Licenses {
	switch {
	case id == "":
		return &cdx.Licenses{{License: &cdx.License{Name: "see NOTICES.txt"}}}
	case strings.ContainsAny(id, " ("):
		return &cdx.Licenses{{Expression: id}}
	}
	return &cdx.Licenses{{License: &cdx.License{ID: id}}}
}

// notices are the licences' texts, each once, with whom it is of.
func notices(ps []part) []byte {
	var b bytes.Buffer
	b.WriteString("Corriente is made with the work of others. Their licences:\n")
	of, order := map[string][]string{}, []string{}
	for _, p := range ps {
		text := strings.Join(p.texts, "\n\n")
		if text == "" {
			text = "Licensed under " + p.licence + "."
		}
		if of[text] == nil {
			order = append(order, text)
		}
		of[text] = append(of[text], p.name+" "+p.version)
	}
	for _, text := range order {
		fmt.Fprintf(&b, "\n%s\n%s\n\n%s\n", strings.Repeat("-", 80), strings.Join(of[text], "\n"), text)
	}
	return b.Bytes()
}
