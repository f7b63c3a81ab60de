package reference

import (
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// The extensions by which an author, or an overlay, arranges the reference: an operation is left out; an operation stands before those
// with a greater number, and those without one stand at 0; pages of prose stand before the operations, a list of titles and contents.
const (
	HiddenField = "x-ledger-hidden"
	OrderField  = "x-ledger-order"
	PagesField  = "x-ledger-pages"
)

// TextPage is a page of prose.
type TextPage struct{ Slug, Title, Content string } // Content in CommonMark

// Text finds a page of prose.
func (d *Document) Text(slug string) *TextPage {
	for i := range d.Texts {
		if d.Texts[i].Slug == slug {
			return &d.Texts[i]
		}
	}
	return nil
}

// textsOf are the pages that a description brings along, and those that an overlay adds.
func textsOf(c *contract.Contract) []TextPage {
	var all []TextPage
	add := func(title, content string) {
		slug := strings.ToLower(strings.Trim(notInSlug.ReplaceAllString(title, "-"), "-"))
		if title != "" && slug != "" && !slices.ContainsFunc(all, func(t TextPage) bool { return t.Slug == slug }) {
			all = append(all, TextPage{slug, title, content})
		}
	}
	for _, p := range c.Pages {
		add(p.Title, p.Content)
	}
	if n := extension(c.Extensions, PagesField); n != nil {
		for _, p := range n.Items() {
			title, content := p.Get("title"), p.Get("content")
			if title != nil && content != nil && title.Kind == source.String && content.Kind == source.String {
				add(title.Text, content.Text)
			}
		}
	}
	return all
}

func extension(all []contract.Extension, name string) *source.Node {
	for _, x := range all {
		if x.Name == name {
			return x.Node
		}
	}
	return nil
}

// listed are the operations that readers see, in their order.
func listed(c *contract.Contract) []*contract.Operation {
	all := slices.DeleteFunc(c.All(), hidden)
	slices.SortStableFunc(all, func(a, b *contract.Operation) int { return order(a).Cmp(order(b)) })
	return all
}

func hidden(op *contract.Operation) bool {
	n := extension(op.Extensions, HiddenField)
	return n != nil && n.Kind == source.Boolean && n.Bool
}

func order(op *contract.Operation) *big.Rat {
	if n := extension(op.Extensions, OrderField); n != nil && n.Num() != nil {
		return n.Num()
	}
	return new(big.Rat)
}
