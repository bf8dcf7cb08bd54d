// Command mutants tries how much the tests of core notice: it changes the comparisons, constants and terms of a package
// one at a time and runs the tests on each change. A change that no test notices has survived. What only asks whether
// there is anything (nil, an error, none) is left alone, and so are 0 and 1: they say no rule of the job.
//
//	go run ./scripts/mutants [-share 0.1] [-seed 1] [-v] dose timeline review solve plan run
//
// All changes of a package are compiled into one test binary and switched on by an environment variable, so that a
// change costs a run of the tests and no compilation. First the package's own tests are run, then those of the other
// packages of core that import it.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/token"
	"go/types"
	"hash/fnv"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"sync"
	"time"

	"golang.org/x/tools/go/packages"
)

// helpers is the package that the changed code calls: each function does what was written, or its mutant when that is on.
const helpers = `package mutants

import ("cmp"; "os"; "strconv")

var on = func() int { n, _ := strconv.Atoi(os.Getenv("MUTANT")); return n }()

// Is tells whether a mutant is on.
func Is(id int) bool { return on == id }

func Lt[T cmp.Ordered](id int, a, b T) bool { switch on { case id: return a <= b; case id + 1: return a >= b }; return a < b }
func Le[T cmp.Ordered](id int, a, b T) bool { switch on { case id: return a < b; case id + 1: return a > b }; return a <= b }
func Gt[T cmp.Ordered](id int, a, b T) bool { switch on { case id: return a >= b; case id + 1: return a <= b }; return a > b }
func Ge[T cmp.Ordered](id int, a, b T) bool { switch on { case id: return a > b; case id + 1: return a < b }; return a >= b }
func Eq[T comparable](id int, a, b T) bool { return (a == b) != (on == id) }
func Ne[T comparable](id int, a, b T) bool { return (a != b) != (on == id) }

type number interface{ ~int | ~int8 | ~int16 | ~int32 | ~int64 | ~uint8 | ~uint16 | ~uint32 | ~uint64 | ~float64 }

func Add[T number](id int, a, b T) T { if on == id { return a }; return a + b }
func Sub[T number](id int, a, b T) T { if on == id { return a }; return a - b }
func Mul[T number](id int, a, b T) T { if on == id { return a }; return a * b }
func Quo[T number](id int, a, b T) T { if on == id { return a }; return a / b }

// K is a constant, or one that is a half more, and one at least.
func K[T number](id int, v T) T { if on == id { return v + max(v/2, 1) }; return v }
`

// mutant is one change.
type mutant struct {
	id   int
	at   token.Position
	says string
}

// edit is an insertion, or a replacement, in a file.
type edit struct {
	from, to int
	text     string
	order    int
}

type maker struct {
	p       *packages.Package
	next    int
	mutants []mutant
	edits   map[string][]edit
	n       int
}

func (m *maker) new(count int, pos token.Pos, says ...string) int {
	id := m.next
	for i := range count {
		m.mutants = append(m.mutants, mutant{id + i, m.p.Fset.Position(pos), says[i]})
	}
	m.next += count
	return id
}

func (m *maker) put(from, to token.Pos, text string) {
	f := m.p.Fset.Position(from)
	m.n++
	m.edits[f.Filename] = append(m.edits[f.Filename], edit{f.Offset, m.p.Fset.Position(to).Offset, text, m.n})
}

var compare = map[token.Token][3]string{
	token.LSS: {"Lt", "< becomes <=", "< becomes >="}, token.LEQ: {"Le", "<= becomes <", "<= becomes >"},
	token.GTR: {"Gt", "> becomes >=", "> becomes <="}, token.GEQ: {"Ge", ">= becomes >", ">= becomes <"},
	token.EQL: {"Eq", "== becomes !="}, token.NEQ: {"Ne", "!= becomes =="},
}

var terms = map[token.Token]string{token.ADD: "Add", token.SUB: "Sub", token.MUL: "Mul", token.QUO: "Quo"}

// walk changes what stands under a node; the parts of a binary expression come after their whole, so that insertions nest.
func (m *maker) walk(n ast.Node) {
	ast.Inspect(n, func(x ast.Node) bool {
		switch x := x.(type) {
		case *ast.GenDecl:
			return x.Tok == token.VAR
		case *ast.ArrayType, *ast.StructType, *ast.InterfaceType, *ast.ImportSpec:
			return false
		case *ast.IndexExpr: // which of a list: no rule of the job
			m.walk(x.X)
			return false
		case *ast.SliceExpr:
			m.walk(x.X)
			return false
		case *ast.KeyValueExpr:
			m.walk(x.Value)
			return false
		case *ast.CaseClause:
			for _, s := range x.Body {
				m.walk(s)
			}
			for _, e := range x.List {
				if m.p.TypesInfo.Types[e].Value == nil {
					m.walk(e)
				}
			}
			return false
		case *ast.IfStmt:
			if x.Init != nil {
				m.walk(x.Init)
			}
			m.condition(x.Cond)
			m.walk(x.Cond)
			m.walk(x.Body)
			if x.Else != nil {
				m.walk(x.Else)
			}
			return false
		case *ast.CallExpr:
			if skipCall(m.p, x) {
				return false
			}
		case *ast.BinaryExpr:
			return m.binary(x)
		case *ast.BasicLit, *ast.Ident:
			m.constant(x.(ast.Expr))
		}
		return true
	})
}

// guards tells whether an expression only asks whether there is something: a comparison with nil, nothing or none. It
// keeps a program from falling over and says no rule of the job.
func (m *maker) guards(e ast.Expr) bool {
	switch e := e.(type) {
	case *ast.ParenExpr:
		return m.guards(e.X)
	case *ast.Ident:
		return e.Name == "ok"
	case *ast.UnaryExpr:
		return m.guards(e.X)
	case *ast.BinaryExpr:
		if compare[e.Op][0] == "" {
			return false
		}
		for _, side := range []ast.Expr{e.X, e.Y} {
			tv := m.p.TypesInfo.Types[side]
			if tv.IsNil() || tv.Value != nil && tv.Value.ExactString() == "0" {
				return true
			}
		}
	}
	return false
}

// skipCall leaves out what only words and memory depend on.
func skipCall(p *packages.Package, c *ast.CallExpr) bool {
	switch f := c.Fun.(type) {
	case *ast.Ident:
		return slices.Contains([]string{"make", "panic"}, f.Name)
	case *ast.SelectorExpr:
		id, ok := f.X.(*ast.Ident)
		if !ok {
			return false
		}
		pkg, ok := p.TypesInfo.Uses[id].(*types.PkgName)
		return ok && slices.Contains([]string{"fmt", "errors", "strconv", "regexp"}, pkg.Imported().Path())
	}
	return false
}

// condition turns an if round, where it is no comparison or combination that is changed anyway.
func (m *maker) condition(e ast.Expr) {
	if b, ok := e.(*ast.BinaryExpr); ok && (b.Op == token.LAND || b.Op == token.LOR || compare[b.Op][0] != "") {
		return
	}
	id := m.new(1, e.Pos(), "the condition turned round")
	m.put(e.Pos(), e.Pos(), fmt.Sprintf("mutants.Is(%d) != (", id))
	m.put(e.End(), e.End(), ")")
}

func (m *maker) binary(x *ast.BinaryExpr) bool {
	tv := m.p.TypesInfo.Types[x]
	if tv.Value != nil { // a constant: changed where it is used
		return false
	}
	a, b := m.p.TypesInfo.Types[x.X].Type, m.p.TypesInfo.Types[x.Y].Type
	wrap := func(name string, id int) {
		m.put(x.Pos(), x.Pos(), fmt.Sprintf("mutants.%s(%d, ", name, id))
		m.put(x.OpPos, x.OpPos+token.Pos(len(x.Op.String())), ",")
		m.put(x.End(), x.End(), ")")
	}
	switch {
	case x.Op == token.LAND || x.Op == token.LOR:
		left, right := " || mutants.Is(%d))", "the left side of && dropped"
		if x.Op == token.LOR {
			left, right = " && !mutants.Is(%d))", "the left side of || dropped"
		}
		for i, side := range []ast.Expr{x.X, x.Y} {
			if m.guards(side) {
				continue
			}
			id := m.new(1, x.OpPos, strings.Replace(right, "left", []string{"left", "right"}[i], 1))
			m.put(side.Pos(), side.Pos(), "((")
			m.put(side.End(), side.End(), ")"+fmt.Sprintf(left, id))
		}
	case m.guards(x): // whether there is one at all
	case compare[x.Op][0] != "" && types.Identical(a, b) && !types.IsInterface(a) && types.Comparable(a) && m.ordered(x.Op, a):
		c := compare[x.Op]
		says := []string{c[1]}
		if c[2] != "" {
			says = append(says, c[2])
		}
		wrap(c[0], m.new(len(says), x.OpPos, says...))
	case terms[x.Op] != "" && types.Identical(a, b) && isNumber(a):
		wrap(terms[x.Op], m.new(1, x.OpPos, "the right side of "+x.Op.String()+" dropped"))
	}
	return true
}

func (m *maker) ordered(op token.Token, t types.Type) bool {
	if op == token.EQL || op == token.NEQ {
		return true
	}
	b, ok := t.Underlying().(*types.Basic)
	return ok && b.Info()&types.IsOrdered != 0
}

func isNumber(t types.Type) bool {
	b, ok := t.Underlying().(*types.Basic)
	return ok && b.Info()&types.IsNumeric != 0 && b.Info()&types.IsUntyped == 0 && b.Kind() != types.Uint && b.Kind() != types.Uintptr && b.Kind() != types.Float32
}

// constant changes a number, written out or by its name.
func (m *maker) constant(e ast.Expr) {
	tv, ok := m.p.TypesInfo.Types[e]
	if id, isID := e.(*ast.Ident); isID {
		c, isConst := m.p.TypesInfo.Uses[id].(*types.Const)
		if !isConst {
			return
		}
		tv, ok = m.p.TypesInfo.Types[e], true
		if tv.Type == nil {
			tv.Type = c.Type()
		}
	}
	if !ok || tv.Value == nil || tv.Type == nil || !isNumber(tv.Type) {
		return
	}
	if s := tv.Value.ExactString(); s == "0" || s == "1" { // none, the first, the next
		return
	}
	name := ""
	switch t := tv.Type.(type) {
	case *types.Basic:
		name = t.Name()
	case *types.Named: // a time: others are names, not numbers
		if t.Obj().Name() != "Span" {
			return
		}
		name = "Span"
		if t.Obj().Pkg() != m.p.Types {
			name = m.imported(e.Pos(), t.Obj().Pkg().Path(), t.Obj().Pkg().Name())
			if name == "" {
				return
			}
			name += ".Span"
		}
	}
	if name == "" || name == "rune" || name == "byte" || name == "int32" || name == "uint8" {
		return
	}
	id := m.new(1, e.Pos(), "the constant a half more")
	m.put(e.Pos(), e.Pos(), fmt.Sprintf("mutants.K[%s](%d, ", name, id))
	m.put(e.End(), e.End(), ")")
}

// imported is the name under which a file imports a package; empty where it does not.
func (m *maker) imported(pos token.Pos, path, name string) string {
	for _, f := range m.p.Syntax {
		if f.FileStart <= pos && pos < f.FileEnd {
			for _, im := range f.Imports {
				if strings.Trim(im.Path.Value, `"`) == path {
					if im.Name != nil {
						return im.Name.Name
					}
					return name
				}
			}
		}
	}
	return ""
}

// write puts the edits into a file's text. At one place endings come before beginnings, inner endings before outer ones.
func write(text []byte, edits []edit) string {
	sort.SliceStable(edits, func(i, j int) bool {
		a, b := edits[i], edits[j]
		if a.from != b.from {
			return a.from < b.from
		}
		endA, endB := strings.HasPrefix(a.text, ")"), strings.HasPrefix(b.text, ")")
		if endA != endB {
			return endA
		}
		if endA {
			return a.order > b.order
		}
		return a.order < b.order
	})
	var out strings.Builder
	at := 0
	for _, e := range edits {
		out.Write(text[at:e.from])
		out.WriteString(e.text)
		at = e.to
	}
	out.Write(text[at:])
	return out.String()
}

type options struct {
	share   float64
	seed    uint64
	verbose bool
}

func main() {
	log.SetFlags(0)
	var o options
	flag.Float64Var(&o.share, "share", 1, "how much of the mutants is tried, 0 to 1")
	flag.Uint64Var(&o.seed, "seed", 1, "which ones, where not all are")
	flag.BoolVar(&o.verbose, "v", false, "name those that were noticed too")
	flag.Parse()
	if flag.NArg() == 0 {
		log.Fatal("mutants: name the packages of core: dose timeline review solve plan run")
	}
	tried, killed := 0, 0
	for _, name := range flag.Args() {
		t, k, err := try(name, o)
		if err != nil {
			log.Fatalf("mutants: %s: %v", name, err)
		}
		tried, killed = tried+t, killed+k
	}
	fmt.Printf("in all: %d of %d noticed, %.0f %%\n", killed, tried, 100*float64(killed)/float64(max(tried, 1)))
}

// try tries the mutants of one package of core.
func try(name string, o options) (tried, killed int, err error) {
	m, overlay, dir, err := made(name)
	if err != nil {
		return 0, 0, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	tests, err := binaries(name, overlay, dir)
	if err != nil {
		return 0, 0, err
	}
	var chosen []mutant
	for _, x := range m.mutants {
		h := fnv.New64a()
		fmt.Fprint(h, name, x.id, o.seed)
		if float64(h.Sum64()%1000)/1000 < o.share {
			chosen = append(chosen, x)
		}
	}
	jobs := make(chan mutant)
	var mu sync.Mutex
	var wg sync.WaitGroup
	var left []mutant
	for range 2 {
		wg.Go(func() {
			for x := range jobs {
				by := noticed(tests, x.id)
				mu.Lock()
				if by == "" {
					left = append(left, x)
				} else {
					killed++
					if o.verbose {
						fmt.Printf("  %s:%d:%d: %s: noticed by %s\n", filepath.Base(x.at.Filename), x.at.Line, x.at.Column, x.says, by)
					}
				}
				mu.Unlock()
			}
		})
	}
	for _, x := range chosen {
		jobs <- x
	}
	close(jobs)
	wg.Wait()
	slices.SortFunc(left, func(a, b mutant) int { return a.id - b.id })
	fmt.Printf("%s: %d of %d noticed, %.0f %%\n", name, killed, len(chosen), 100*float64(killed)/float64(max(len(chosen), 1)))
	for _, x := range left {
		fmt.Printf("  core/%s/%s:%d:%d: %s\n", name, filepath.Base(x.at.Filename), x.at.Line, x.at.Column, x.says)
	}
	return len(chosen), killed, nil
}

// made writes the package with all its mutants into a folder, and the overlay that puts it in place of the real one.
func made(name string) (m *maker, overlay, dir string, err error) {
	cfg := &packages.Config{Mode: packages.LoadSyntax, BuildFlags: []string{"-tags=nomsgpack"}}
	pkgs, err := packages.Load(cfg, "./core/"+name)
	if err != nil {
		return nil, "", "", err
	}
	if len(pkgs) != 1 || len(pkgs[0].Errors) > 0 {
		return nil, "", "", fmt.Errorf("cannot be read: %v", pkgs)
	}
	m = &maker{p: pkgs[0], next: 1, edits: map[string][]edit{}}
	for _, f := range m.p.Syntax {
		for _, d := range f.Decls {
			m.walk(d)
		}
	}
	if dir, err = os.MkdirTemp("", "mutants"); err != nil {
		return nil, "", "", err
	}
	root, err := os.Getwd()
	if err != nil {
		return nil, "", "", err
	}
	replace := []string{fmt.Sprintf("%q: %q", filepath.Join(root, "core/mutants/mutants.go"), filepath.Join(dir, "mutants.go"))}
	if err := os.WriteFile(filepath.Join(dir, "mutants.go"), []byte(helpers), 0o600); err != nil {
		return nil, "", "", err
	}
	for i, f := range m.p.Syntax {
		file := m.p.Fset.Position(f.FileStart).Filename
		if len(m.edits[file]) == 0 {
			continue
		}
		text, err := os.ReadFile(file)
		if err != nil {
			return nil, "", "", err
		}
		head := m.p.Fset.Position(f.Name.End()).Offset
		edits := append(m.edits[file], edit{head, head, "; import \"wavekine/core/mutants\"", -1})
		to := filepath.Join(dir, fmt.Sprintf("%d.go", i))
		if err := os.WriteFile(to, []byte(write(text, edits)), 0o600); err != nil {
			return nil, "", "", err
		}
		replace = append(replace, fmt.Sprintf("%q: %q", file, to))
	}
	overlay = filepath.Join(dir, "overlay.json")
	return m, overlay, dir, os.WriteFile(overlay, []byte(`{"Replace": {`+strings.Join(replace, ",\n")+`}}`), 0o600)
}

// slowest is how long the tests of another package may take.
const slowest = 3 * time.Second

// binary is a compiled test of a package, with how long it takes when nothing is changed.
type binary struct {
	pkg, file string
	takes     time.Duration
}

// binaries compiles the tests of the package and of those in core that import it, the own ones first, then the fast ones.
func binaries(name, overlay, dir string) ([]binary, error) {
	out, err := exec.Command("go", "list", "-tags=nomsgpack", "-f", `{{.ImportPath}} {{join .Deps " "}}`, "./core/...").Output()
	if err != nil {
		return nil, err
	}
	var tests []binary
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		if !slices.Contains(f, "wavekine/core/"+name) {
			continue
		}
		b := binary{pkg: strings.TrimPrefix(f[0], "wavekine/core/")}
		b.file = filepath.Join(dir, b.pkg+".test")
		c := exec.Command("go", "test", "-c", "-vet=off", "-tags=nomsgpack", "-trimpath", "-overlay", overlay, "-o", b.file, "./core/"+b.pkg)
		if out, err := c.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%s does not compile with its mutants: %s", b.pkg, out)
		}
		if _, err := os.Stat(b.file); err != nil {
			continue // it has no tests
		}
		from := time.Now() // of the others only the fast ones: they are run for every change that the own tests miss
		if err := b.run(0, 5*time.Minute); err != nil {
			return nil, fmt.Errorf("the tests of %s fail with no mutant on: %w", b.pkg, err)
		}
		if b.takes = time.Since(from); b.pkg != name && b.takes > slowest {
			continue
		}
		tests = append(tests, b)
	}
	slices.SortFunc(tests, func(a, b binary) int {
		if own := a.pkg == name; own != (b.pkg == name) {
			if own {
				return -1
			}
			return 1
		}
		return int(a.takes - b.takes)
	})
	return tests, nil
}

// run runs the tests with a mutant on, in the package's folder.
func (b binary) run(id int, most time.Duration) error {
	ctx, cancel := context.WithTimeout(context.Background(), most)
	defer cancel()
	c := exec.CommandContext(ctx, b.file, "-test.short", "-test.failfast")
	c.Dir = filepath.Join("core", b.pkg)
	c.Env = append(os.Environ(), fmt.Sprintf("MUTANT=%d", id), "GOMEMLIMIT=1GiB")
	return errors.Join(c.Run(), ctx.Err())
}

// noticed is the package whose tests notice a mutant; empty where none do. Tests that take much longer than they do
// without it have noticed too.
func noticed(tests []binary, id int) string {
	for _, b := range tests {
		if b.run(id, 8*b.takes+5*time.Second) != nil {
			return b.pkg
		}
	}
	return ""
}
