// Command licences writes the licence text of every Go module that is compiled into the program, and of Go itself, to
// web/licences, from where they are served. Those of the browser files come with them (web/assets/vendor.mjs).
//
//	go run ./scripts/licences
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

const folder = "web/licences"

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "licences:", err)
		os.Exit(1)
	}
}

// run writes what Texts gives, and removes what is no longer compiled in.
func run() error {
	texts, err := Texts()
	if err != nil {
		return err
	}
	old, err := filepath.Glob(filepath.Join(folder, "go-*.txt"))
	if err != nil {
		return err
	}
	for _, f := range old {
		if err := os.Remove(f); err != nil {
			return err
		}
	}
	for name, text := range texts {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			return err
		}
	}
	return nil
}

var licenceName = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice)(\.(txt|md|code))?$`)

// Texts gives the licence texts by the names of their files, each headed by what it is for.
func Texts() (map[string]string, error) {
	cmd := exec.Command("go", "list", "-deps", "-tags=nomsgpack", "-json=Module", "./cmd/wavekine")
	cmd.Stderr = os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return nil, err
	}
	texts := map[string]string{}
	for dec := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p struct {
			Module *struct {
				Path, Version, Dir string
				Main               bool
			}
		}
		if err := dec.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, err
		}
		if p.Module == nil || p.Module.Main {
			continue
		}
		name := "go-" + strings.ReplaceAll(p.Module.Path, "/", "-") + ".txt"
		if texts[name] != "" {
			continue
		}
		if texts[name], err = textIn(p.Module.Dir, p.Module.Path+" "+p.Module.Version); err != nil {
			return nil, err
		}
	}
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	texts["go-go.txt"], err = textIn(strings.TrimSpace(string(root)), "The Go programming language and its standard library")
	return texts, err
}

func textIn(dir, title string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var names []string
	for _, e := range entries {
		if !e.IsDir() && licenceName.MatchString(e.Name()) {
			names = append(names, e.Name())
		}
	}
	if len(names) == 0 {
		return "", fmt.Errorf("%s: no licence in %s", title, filepath.Base(dir))
	}
	slices.Sort(names)
	var b strings.Builder
	b.WriteString(title + "\n")
	for _, n := range names {
		text, err := os.ReadFile(filepath.Join(dir, n))
		if err != nil {
			return "", err
		}
		b.WriteString("\n" + strings.TrimSpace(strings.ReplaceAll(string(text), "\r\n", "\n")) + "\n")
	}
	return b.String(), nil
}
