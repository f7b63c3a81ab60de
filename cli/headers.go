package cli

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/promise"
	"oldledger/wire"
)

func (a *app) headersCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "headers REF", GroupID: "act", Short: "Print what a gateway should send with the answers of a version", Args: cobra.ExactArgs(1),
		Long: `Prints, for every operation of which something leaves, the fields Deprecation (RFC 9745), Sunset (RFC 8594) and Link that a gateway should
send with its answers: as a list, as JSON, or as configuration for nginx.`,
		Example: "  oldledger headers berths@1.2.0\n  oldledger headers berths@1.2.0 --format nginx > deprecated.conf",
	}
	format := formatFlag(cmd, "nginx")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "nginx"); err != nil {
			return err
		}
		ask := func(c *client.Client) ([]wire.GatewayHeader, error) { return c.Headers(cmd.Context(), args[0]) }
		text := a.listHeaders
		shape := *format
		if shape == "nginx" {
			text, shape = a.nginx, "text"
		}
		return answer(a, shape, ask, text)
	}
	return cmd
}

func (a *app) listHeaders(all []wire.GatewayHeader) error {
	s := a.style()
	var b strings.Builder
	if len(all) == 0 {
		b.WriteString("nothing leaves: there is nothing to send\n")
	}
	for _, h := range all {
		fmt.Fprintf(&b, "%s\n", s.bold(h.Method+" "+h.Path))
		for _, f := range [][2]string{{"Deprecation", h.Deprecation}, {"Sunset", h.Sunset}, {"Link", strings.Join(h.Link, ", ")}} {
			if f[1] != "" {
				fmt.Fprintf(&b, "  %s: %s\n", f[0], f[1])
			}
		}
		if h.By != "" {
			fmt.Fprintf(&b, "  %s\n", s.soft("the day on which "+h.By+" leaves"))
		}
	}
	return printf(a, "%s", b.String())
}

var inBraces = regexp.MustCompile(`\\\{[^/]*?\\\}`)

// nginx writes maps from the request to the fields: http includes them, and add_header leaves out what is empty.
func (a *app) nginx(all []wire.GatewayHeader) error {
	var b strings.Builder
	b.WriteString("# What leaves. Include this in the block http; the lines at the end belong to the server or location that answers.\n")
	for _, field := range []struct {
		name string
		of   func(wire.GatewayHeader) string
	}{
		{"deprecation", func(h wire.GatewayHeader) string { return h.Deprecation }},
		{"sunset", func(h wire.GatewayHeader) string { return h.Sunset }},
		{"link", func(h wire.GatewayHeader) string { return strings.Join(h.Link, ", ") }},
	} {
		fmt.Fprintf(&b, "map \"$request_method $uri\" $leaving_%s {\n  default \"\";\n", field.name)
		for _, h := range all {
			if v := field.of(h); v != "" {
				pattern := inBraces.ReplaceAllString(regexp.QuoteMeta(h.Path), "[^/]+")
				fmt.Fprintf(&b, "  \"~^%s %s$\" '%s';\n", h.Method, pattern, strings.ReplaceAll(v, "'", `\'`))
			}
		}
		b.WriteString("}\n")
	}
	b.WriteString("# add_header Deprecation $leaving_deprecation always;\n# add_header Sunset $leaving_sunset always;\n# add_header Link $leaving_link always;\n")
	return printf(a, "%s", b.String())
}

func (a *app) amendCommand() *cobra.Command {
	var sunset, instead, reason, guide, sooner string
	cmd := &cobra.Command{
		Use: "amend NOTICE", GroupID: "act", Short: "Change the date, replacement, reason or guide of a notice", Args: cobra.ExactArgs(1),
		Long:    "Changes a notice, which is named by its number (deprecate and list print it). Its readers see it in the feed; the journal keeps what it said before.",
		Example: "  oldledger amend 4 --sunset 2027-06-01 --reason 'two consumers need until May'\n  oldledger amend 1 --guide 1.2.0..2.0.0",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&sunset, "sunset", "", "the new date after which it may be gone; '' for none yet")
	f.StringVar(&instead, "replace-by", "", "what to use instead")
	f.StringVar(&reason, "reason", "", "why it leaves")
	f.StringVar(&guide, "guide", "", "the guide to follow: 1.2.0..2.0.0; '' for none")
	f.StringVar(&sooner, "sooner", "", "why its sunset may come sooner than the notice period allows")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		id, err := strconv.ParseInt(args[0], 10, 64)
		if err != nil {
			return usageError{fmt.Errorf("a notice is named by its number, such as 4, not %q", args[0])}
		}
		var change wire.Amendment
		for name, to := range map[string]**string{
			"sunset": &change.Sunset, "replace-by": &change.ReplacedBy, "reason": &change.Reason,
			"guide": &change.Guide,
		} {
			if f.Changed(name) {
				text, err := f.GetString(name)
				if err != nil {
					return err
				}
				*to = &text
			}
		}
		if change == (wire.Amendment{}) {
			return usageError{errors.New("say what changes: --sunset, --replace-by, --reason or --guide")}
		}
		change.Sooner = sooner
		ask := func(c *client.Client) (promise.Notice, error) { return c.Amend(cmd.Context(), id, change) }
		return answer(a, *format, ask, func(n promise.Notice) error {
			return printf(a, "notice %d, %s%s\n", n.ID, n.Subject(), leaves(n.Sunset))
		})
	}
	return cmd
}
