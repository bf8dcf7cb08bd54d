package review

import (
	"fmt"
	"strings"
)

// Markdown is the table of all rules, as docs/rules.md has it.
func Markdown() string {
	var b strings.Builder
	b.WriteString("# The rules of the second look\n\nWritten by `wavekine rules --as markdown` out of the rules themselves (`core/review`, one file a rule); a test holds this page to them.\n\n")
	b.WriteString("| rule | finds when | asked, before a house sets it | can be set to | source | offers |\n| --- | --- | --- | --- | --- | --- |\n")
	for _, r := range rules {
		name := r.Name
		if r.rail != nil {
			name += ", a rail under the wave"
		}
		if len(r.Limits) == 0 {
			fmt.Fprintf(&b, "| %s | %s | %s | | %s | %s |\n", name, r.Looks, r.Fixed, r.Source, r.Mends)
			continue
		}
		var asked, to, from []string
		for _, l := range r.Limits {
			asked = append(asked, fmt.Sprintf("%s: %s (`%s`)", l.Name, l.Said(l.Default), l.Key))
			to = append(to, l.Said(l.Least)+" to "+l.Said(l.Most))
			if len(from) == 0 || from[len(from)-1] != l.Source {
				from = append(from, l.Source)
			}
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %s |\n", name, r.Looks, strings.Join(asked, "; "), strings.Join(to, "; "), strings.Join(from, "; "), r.Mends)
	}
	b.WriteString("\nWhere two findings would say the same, the second is silent:")
	for _, r := range rules {
		if len(r.Yields) > 0 {
			fmt.Fprintf(&b, " %s where there is %s;", r.Name, strings.Join(r.Yields, " or "))
		}
	}
	return strings.TrimSuffix(b.String(), ";") + ".\n"
}
