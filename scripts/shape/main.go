package main

import (
	"bufio"
	"bytes"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/fzipp/gocyclo"
)

// The limits: cyclomatic complexity as McCabe counts it; lines from the word func to
// the last brace; parameters, a context among them; columns of a line, a tab being four.
const (
	maxComplexity = 30
	maxLines      = 80
	maxParameters = 5
	maxWidth      = 140
)

// given are functions whose parameters another package asks for.
var given = []string{"(*sheet).MultiCell", "(*sheet).CellFormat"}

const listFile = "scripts/shape/offenders.txt"

const listHead = `# What is over the limits of "make lint": functions of a complexity over 30, of more than 80 lines or of more than
# 5 parameters; files with lines of more than 140 columns. This list may only shrink. After mending one: make lint-shrink.
`

// key is one limit that one function breaks: "complexity core/x/y.go (T).M".
type key string

func main() {
	shrink := flag.Bool("shrink", false, "take mended functions off the list")
	flag.Parse()
	dirs := flag.Args()
	if len(dirs) == 0 {
		dirs = []string{"cmd", "core", "e2e", "internal", "scripts"}
	}
	if err := run(dirs, *shrink); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(dirs []string, shrink bool) error {
	now, err := measure(dirs)
	if err != nil {
		return err
	}
	b, err := os.ReadFile(listFile)
	if err != nil {
		return err
	}
	listed, err := read(b)
	if err != nil {
		return err
	}
	wrong, mended := compare(listed, now)
	for _, w := range wrong {
		fmt.Fprintln(os.Stderr, w)
	}
	switch {
	case len(wrong) > 0:
		return fmt.Errorf("%d times over the limits (complexity %d, %d lines, %d parameters, %d columns): take them apart", len(wrong),
			maxComplexity, maxLines, maxParameters, maxWidth)
	case len(mended) == 0:
		return nil
	case shrink:
		return os.WriteFile(listFile, write(now), 0o644)
	}
	return fmt.Errorf("%d entries of %s are better than they were: run make lint-shrink, so that they stay so:\n%s",
		len(mended), listFile, strings.Join(mended, "\n"))
}

// compare says what is new or grew, and what went or became smaller.
func compare(listed, now map[key]int) (wrong, mended []string) {
	for k, n := range now {
		if was, ok := listed[k]; !ok {
			wrong = append(wrong, fmt.Sprintf("%s: %d, not on the list", k, n))
		} else if n > was {
			wrong = append(wrong, fmt.Sprintf("%s: %d, was %d", k, n, was))
		} else if n < was {
			mended = append(mended, fmt.Sprintf("%s: %d, was %d", k, n, was))
		}
	}
	for k, was := range listed {
		if _, ok := now[k]; !ok {
			mended = append(mended, fmt.Sprintf("%s: within the limit or gone, was %d", k, was))
		}
	}
	slices.Sort(wrong)
	slices.Sort(mended)
	return wrong, mended
}

// measure lists what breaks a limit in the Go files below some folders.
func measure(dirs []string) (map[key]int, error) {
	out := map[key]int{}
	for _, dir := range dirs {
		err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
				return err
			}
			return file(path, out)
		})
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

func file(path string, out map[key]int) error {
	src, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	fset := token.NewFileSet()
	f, err := parser.ParseFile(fset, path, src, parser.ParseComments)
	if err != nil {
		return err
	}
	if ast.IsGenerated(f) {
		return nil
	}
	path = filepath.ToSlash(path)
	for _, s := range gocyclo.AnalyzeASTFile(f, fset, nil) {
		if s.Complexity > maxComplexity {
			out[key("complexity "+path+" "+s.FuncName)] = s.Complexity
		}
	}
	for _, d := range f.Decls {
		fn, ok := d.(*ast.FuncDecl)
		if !ok || fn.Body == nil {
			continue
		}
		if n := fset.Position(fn.End()).Line - fset.Position(fn.Pos()).Line + 1; n > maxLines {
			out[key("lines "+path+" "+name(fn))] = n
		}
		if n := fn.Type.Params.NumFields(); n > maxParameters && !slices.Contains(given, name(fn)) {
			out[key("parameters "+path+" "+name(fn))] = n
		}
	}
	if n := wide(fset, f, src); n > 0 {
		out[key("width "+path)] = n
	}
	return nil
}

// wide counts the lines that are too wide. A line with a raw string on it cannot be broken, nor can what an example
// prints.
func wide(fset *token.FileSet, f *ast.File, src []byte) (n int) {
	whole := map[int]bool{}
	keep := func(node ast.Node) {
		for l := fset.Position(node.Pos()).Line; l <= fset.Position(node.End()).Line; l++ {
			whole[l] = true
		}
	}
	ast.Inspect(f, func(node ast.Node) bool {
		if lit, ok := node.(*ast.BasicLit); ok && strings.HasPrefix(lit.Value, "`") {
			keep(lit)
		}
		return true
	})
	for _, c := range f.Comments {
		if strings.Contains(c.Text(), "Output:") {
			keep(c)
		}
	}
	line := 0
	for text := range bytes.Lines(src) {
		line++
		if w := utf8.RuneCount(text) - 1 + 3*bytes.Count(text, []byte("\t")); w > maxWidth && !whole[line] {
			n++
		}
	}
	return n
}

// name writes a function as gocyclo does.
func name(fn *ast.FuncDecl) string {
	if fn.Recv == nil || len(fn.Recv.List) == 0 {
		return fn.Name.Name
	}
	t := fn.Recv.List[0].Type
	star := ""
	if p, ok := t.(*ast.StarExpr); ok {
		star, t = "*", p.X
	}
	if id, ok := t.(*ast.Ident); ok {
		return fmt.Sprintf("(%s%s).%s", star, id.Name, fn.Name.Name)
	}
	return fn.Name.Name
}

// read reads the list: a number and a key a line.
func read(b []byte) (map[key]int, error) {
	out := map[key]int{}
	sc := bufio.NewScanner(bytes.NewReader(b))
	for n := 1; sc.Scan(); n++ {
		l := strings.TrimSpace(sc.Text())
		if l == "" || strings.HasPrefix(l, "#") {
			continue
		}
		num, k, ok := strings.Cut(l, " ")
		v, err := strconv.Atoi(num)
		if !ok || err != nil {
			return nil, fmt.Errorf("%s, line %d: write a number and a function", listFile, n)
		}
		if _, twice := out[key(k)]; twice {
			return nil, errors.New(listFile + ": " + k + " stands there twice")
		}
		out[key(k)] = v
	}
	return out, sc.Err()
}

func write(now map[key]int) []byte {
	var b bytes.Buffer
	b.WriteString(listHead)
	keys := make([]key, 0, len(now))
	for k := range now {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		fmt.Fprintf(&b, "%d %s\n", now[k], k)
	}
	return b.Bytes()
}
