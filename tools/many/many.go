// Package many makes a shelf of many small APIs in many versions, as a company has them after some years.
package many

import (
	"context"
	"fmt"
	"strings"

	"oldledger/ledger"
)

var (
	things = []string{
		"Berth", "Booking", "Vessel", "Pilot", "Tide", "Due", "Quay", "Crane", "Cargo", "Mooring", "Permit", "Invoice",
		"Inspection", "Tariff", "Gate", "Lock", "Buoy", "Signal", "Crew", "Stay",
	}
	traits = []string{
		"length", "draught", "arrival", "departure", "holder", "reference", "currency", "amount", "note", "state", "window",
		"position", "heading", "carrier", "weight",
	}
)

// Name is that of the API with a number.
func Name(api int) string {
	return fmt.Sprintf("%s-%03d", strings.ToLower(things[api%len(things)]), api)
}

// Description is a version of an API: five operations on two things, a field more with every version.
func Description(api, version int) []byte {
	var b strings.Builder
	thing, other := things[api%len(things)], things[(api*7+3)%len(things)]
	fmt.Fprintf(&b, "openapi: 3.1.0\ninfo: {title: %s Register %d, version: 1.%d.0, x-ledger-name: %s, description: 'Keeps every %s of the harbour, and the %s that belong to it.'}\npaths:\n",
		thing, api, version, Name(api), strings.ToLower(thing), strings.ToLower(other))
	lower := strings.ToLower(thing)
	for _, op := range []struct{ method, path, id, body string }{
		{"get", "/" + lower + "s", "list" + thing, ""},
		{"post", "/" + lower + "s", "add" + thing, thing},
		{"get", "/" + lower + "s/{id}", "read" + thing, ""},
		{"patch", "/" + lower + "s/{id}", "change" + thing, thing},
		{"delete", "/" + lower + "s/{id}", "remove" + thing, ""},
	} {
		if !strings.Contains(b.String(), "  "+op.path+":\n") {
			fmt.Fprintf(&b, "  %s:\n", op.path)
		}
		fmt.Fprintf(&b, "    %s:\n      operationId: %s\n      summary: %s\n", op.method, op.id,
			strings.ToUpper(op.method[:1])+op.method[1:]+" "+lower)
		if strings.Contains(op.path, "{id}") {
			b.WriteString("      parameters: [{name: id, in: path, required: true, schema: {type: string, format: uuid}}]\n")
		}
		if op.body != "" {
			fmt.Fprintf(&b, "      requestBody: {required: true, content: {application/json: {schema: {$ref: '#/components/schemas/%s'}}}}\n",
				op.body)
		}
		fmt.Fprintf(&b, "      responses: {'200': {description: The %s., content: {application/json: {schema: {$ref: '#/components/schemas/%s'}}}}}\n",
			lower, thing)
	}
	fmt.Fprintf(&b, "components:\n  schemas:\n    %s:\n      type: object\n      required: [id]\n      properties:\n        id: {type: string, format: uuid}\n        %s: {$ref: '#/components/schemas/%s'}\n",
		thing, strings.ToLower(other)+"Of", other+"Part")
	for i := range version + 3 {
		fmt.Fprintf(&b, "        %s%d: {type: string, maxLength: %d, description: 'The %s of the %s, as the office keeps it.'}\n",
			traits[(api+i)%len(traits)], i, 20+i, traits[(api+i)%len(traits)], lower)
	}
	fmt.Fprintf(&b, "    %sPart:\n      type: object\n      properties: {kind: {type: string, enum: [open, held, closed]}, since: {type: string, format: date}}\n",
		other)
	return []byte(b.String())
}

// Fill records and publishes so many APIs in so many versions.
func Fill(ctx context.Context, l *ledger.Ledger, who ledger.Actor, apis, versions int) error {
	for api := range apis {
		for version := range versions {
			rec, err := l.Record(ctx, who, ledger.Submission{Team: "Quayside", Text: Description(api, version)})
			if err == nil {
				_, err = l.Publish(ctx, who, rec.Version.Ref(), nil)
			}
			if err != nil {
				return fmt.Errorf("%s, version %d: %w", Name(api), version, err)
			}
		}
	}
	return nil
}
