package compare

import (
	"fmt"
	"strings"
)

// Text names what an example is a part of: "a schema".
func (f Frame) Text() string {
	return map[Frame]string{InSchema: "a schema", InOperation: "an operation", InDescription: "a description"}[f]
}

// Markdown explains a kind, with its example.
func (k Kind) Markdown() string {
	var b strings.Builder
	fmt.Fprintf(&b, "### `%s`\n\n%s.\n\n", k.Name, strings.ToUpper(k.Meaning[:1])+k.Meaning[1:])
	if k.Response == nil {
		fmt.Fprintf(&b, "Backward **%s**, forward **%s**.\n", k.Request.Backward, k.Request.Forward)
	} else {
		fmt.Fprintf(&b, "In what clients send: backward **%s**, forward **%s**. In what they receive: backward **%s**, forward **%s**.\n",
			k.Request.Backward, k.Request.Forward, k.Response.Backward, k.Response.Forward)
	}
	if k.Old != "" {
		fmt.Fprintf(&b, "\n```yaml\n# %s before\n%s\n# and after\n%s\n```\n", k.Frame.Text(), k.Old, k.New)
	}
	return b.String()
}

// KindsMarkdown is the page of the manual on kinds of change.
func KindsMarkdown() string {
	var b strings.Builder
	b.WriteString(`# Kinds of change

Each change has a kind and a grade in each direction. Backward: clients of the old version call the new one. Forward: clients of
the new version call the old one, after a rollback. The grades below are those of the kind by itself, as its example shows them: a change that
nobody can feel is graded better, and a change that reaches several places bears the worst of them. A kind about values is called
by its place: ` + "`request.range-narrowed`, `response.range-narrowed`, `parameter.range-narrowed`, `header.range-narrowed`" + `.

This page is made by ` + "`oldledger kinds --format markdown`" + `; a test holds every example against the comparison.
`)
	group := ""
	for _, k := range Kinds() {
		if k.Group != group {
			group = k.Group
			fmt.Fprintf(&b, "\n## %s\n", strings.ToUpper(group[:1])+group[1:])
		}
		b.WriteString("\n" + k.Markdown())
	}
	return b.String()
}
