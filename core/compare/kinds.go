package compare

import (
	"slices"
	"strings"
)

// Kind is one row of the table of kinds: what a change of the kind means, how it is graded by itself, and an example of it.
// The grades of one change may be better where nobody can feel it, and worse over a reach of several places.
type Kind struct {
	Name     string      `json:"kind"`     // with its place in front, "parameter.removed"; for a schema without: "range-narrowed"
	Group    string      `json:"group"`    // what it is about
	Places   []string    `json:"places"`   // for a schema: what stands in front of the name, "request" and the like
	Request  Directions  `json:"request"`  // the grades where clients send; for all kinds outside schemas, the grades
	Response *Directions `json:"response"` // for a schema: the grades where clients receive
	Meaning  string      `json:"meaning"`
	Frame    Frame       `json:"frame"` // where the example stands
	Old      string      `json:"old"`   // the example before, as YAML
	New      string      `json:"new"`   // and after
}

// Directions are the grades of one change in both directions.
type Directions struct {
	Backward Grade `json:"backward"`
	Forward  Grade `json:"forward"`
}

// Frame tells what an example is a part of.
type Frame string

// The frames: a schema of a body, an operation's fields, a description's fields.
const (
	InSchema      Frame = "schema"
	InOperation   Frame = "operation"
	InDescription Frame = "description"
)

// schemaPlaces are what a kind about a schema may have in front of its name.
var schemaPlaces = []string{"request", "response", "parameter", "header", "schema"}

// Kinds lists every kind of change, in the order of the manual.
func Kinds() []Kind {
	return slices.Concat(operationKinds(), parameterKinds(), bodyKinds(), accessKinds(), schemaKinds())
}

// FindKind finds the row of a change's kind: "request.range-narrowed" is explained by range-narrowed.
func FindKind(name string) (Kind, bool) {
	for _, k := range Kinds() {
		if k.Matches(name) {
			return k, true
		}
	}
	return Kind{}, false
}

// Matches reports whether a change of the kind called name is explained by this row. A row of a schema may be asked for without
// its place.
func (k Kind) Matches(name string) bool {
	if k.Name == name {
		return true
	}
	for _, place := range k.Places {
		if name == place+"."+k.Name {
			return true
		}
	}
	return false
}

// meanings is the table by name, for the sentences of changes.
var meanings = func() map[string]string {
	all := map[string]string{}
	for _, k := range Kinds() {
		all[k.Name] = k.Meaning
	}
	return all
}()

// meaning is the sentence for a kind.
func meaning(kind string) string {
	if m := meanings[kind]; m != "" {
		return m
	}
	_, part, _ := strings.Cut(kind, ".")
	m := meanings[part]
	if _, sentence, found := strings.Cut(m, ": "); found {
		return sentence // what it is about stands in the title
	}
	return m
}

// The grades that stand together often.
var (
	both       = Directions{Breaking, Breaking}
	breaks     = Directions{Breaking, Safe}
	allows     = Directions{Safe, Breaking}
	risks      = Directions{Hazard, Hazard}
	oldRisks   = Directions{Hazard, Safe}
	newRisks   = Directions{Safe, Hazard}
	words      = Directions{Editorial, Editorial}
	breakRisks = Directions{Breaking, Hazard}
	riskBreaks = Directions{Hazard, Breaking}
)

// row makes rows of one group and frame.
func row(group string, frame Frame) func(name string, grades Directions, meaning, old, new string) Kind {
	return func(name string, grades Directions, meaning, old, new string) Kind {
		return Kind{Name: name, Group: group, Places: []string{}, Request: grades, Meaning: meaning, Frame: frame, Old: old, New: new}
	}
}

func operationKinds() []Kind {
	op, doc := row("operations", InOperation), row("operations", InDescription)
	ok := `responses: {"200": {description: ok}}`
	hook := `requestBody: {content: {application/json: {schema: {type: object}}}}, ` + ok
	return []Kind{
		doc("operation.removed", breaks, "a request that was answered finds no operation", "paths: {/bookings: {get: {"+ok+"}, post: {"+ok+"}}}",
			"paths: {/bookings: {get: {"+ok+"}}}"),
		doc("operation.added", allows, "clients of the old version do not call it", "paths: {/bookings: {get: {"+ok+"}}}",
			"paths: {/bookings: {get: {"+ok+"}, post: {"+ok+"}}}"),
		doc("operation.moved", both, "a request to the old address finds no operation", "paths: {/bookings: {post: {operationId: book, "+ok+"}}}",
			"paths: {/berths: {post: {operationId: book, "+ok+"}}}"),
		op("operation.id-added", Directions{Editorial, Hazard}, "generated code gets a name", ok, "operationId: book\n"+ok),
		op("operation.id-changed", risks, "client code generated from the description changes its names", "operationId: book\n"+ok,
			"operationId: reserve\n"+ok),
		op("operation.id-removed", Directions{Hazard, Editorial}, "client code generated from the description changes its names",
			"operationId: book\n"+ok, ok),
		op("operation.deprecated", words, "it works as before, and is announced to leave", ok, "deprecated: true\n"+ok),
		op("operation.undeprecated", words, "it stays", "deprecated: true\n"+ok, ok),
		op("operation.wording-changed", words, "only wording changed", "summary: Book\n"+ok, "summary: Book a berth\n"+ok),
		op("operation.extension-changed", words, "extension fields do not stand on the wire", "x-team: quayside\n"+ok, "x-team: navigation\n"+ok),
		doc("webhook.removed", oldRisks, "receivers of the old version wait for it in vain, and refuse nothing",
			"webhooks: {arrival: {post: {"+hook+"}}}\ncomponents: {}", "components: {}"),
		doc("webhook.added", newRisks, "receivers may leave it unanswered", "components: {}",
			"webhooks: {arrival: {post: {"+hook+"}}}\ncomponents: {}"),
		doc("webhook.moved", both, "receivers wait for it under its old name", "webhooks: {arrival: {post: {operationId: arrived, "+hook+"}}}",
			"webhooks: {berthed: {post: {operationId: arrived, "+hook+"}}}"),
		op("callback.removed", oldRisks, "receivers of the old version wait for it in vain, and refuse nothing",
			"callbacks: {done: {\"{$request.body#/url}\": {post: {"+ok+"}}}}\n"+ok, ok),
		op("callback.added", newRisks, "receivers may leave it unanswered", ok,
			"callbacks: {done: {\"{$request.body#/url}\": {post: {"+ok+"}}}}\n"+ok),
		op("callback.moved", both, "receivers wait for it under its old name",
			"callbacks: {done: {\"{$request.body#/url}\": {post: {operationId: told, "+ok+"}}}}\n"+ok,
			"callbacks: {told: {\"{$request.body#/url}\": {post: {operationId: told, "+ok+"}}}}\n"+ok),
		op("callback.address-changed", risks, "clients that gave their address in the old place are not called",
			"callbacks: {done: {\"{$request.body#/url}\": {post: {"+ok+"}}}}\n"+ok,
			"callbacks: {done: {\"{$request.body#/address}\": {post: {"+ok+"}}}}\n"+ok),
		doc("description.wording-changed", words, "only wording changed",
			"info: {title: Berths, version: 1.0.0, description: Old.}\ncomponents: {}",
			"info: {title: Berths, version: 1.0.0, description: New.}\ncomponents: {}"),
		doc("description.tags-changed", words, "tags only group operations", "tags: [{name: quays}]\ncomponents: {}",
			"tags: [{name: berths}]\ncomponents: {}"),
		doc("description.extension-changed", words, "extension fields do not stand on the wire", "x-team: quayside\ncomponents: {}",
			"x-team: navigation\ncomponents: {}"),
	}
}

func parameterKinds() []Kind {
	op := row("parameters", InOperation)
	params := func(list string) string { return "parameters: [" + list + "]\nresponses: {\"200\": {description: ok}}" }
	headers := func(list string) string { return "responses: {\"200\": {description: ok, headers: {" + list + "}}}" }
	parts := func(list string) string {
		return "requestBody: {content: {multipart/form-data: {schema: {type: object, properties: {scan: {type: string}}}, encoding: {scan: {contentType: text/plain, headers: {" +
			list + "}}}}}}\nresponses: {\"200\": {description: ok}}"
	}
	list := "schema: {type: array, items: {type: string}}"
	limit := "{name: limit, in: query, schema: {type: integer}}"
	limitRequired := "{name: limit, in: query, required: true, schema: {type: integer}}"
	total := "X-Total: {schema: {type: integer}}"
	totalRequired := "X-Total: {required: true, schema: {type: integer}}"
	return []Kind{
		op("parameter.added", newRisks, "nobody has to send it", params(""), params(limit)),
		op("parameter.required-added", breakRisks, "a request that was accepted without it is refused", params(""), params(limitRequired)),
		op("parameter.now-required", breaks, "a request that was accepted without it is refused", params(limit), params(limitRequired)),
		op("parameter.now-optional", allows, "after a rollback a request without it is refused", params(limitRequired), params(limit)),
		op("parameter.removed", oldRisks, "clients that send it are answered as if they had not", params(limit), params("")),
		op("parameter.renamed", risks, "it is sent under a name that nobody reads", params(limit),
			params("{name: pageLimit, in: query, schema: {type: integer}}")),
		{
			Name: "parameter.path.renamed", Group: "parameters", Places: []string{}, Request: words, Meaning: "its name does not stand on the wire",
			Frame: InDescription,
			Old:   "paths: {\"/berths/{id}\": {get: {parameters: [{name: id, in: path, required: true, schema: {type: string}}], responses: {\"200\": {description: ok}}}}}",
			New:   "paths: {\"/berths/{berth}\": {get: {parameters: [{name: berth, in: path, required: true, schema: {type: string}}], responses: {\"200\": {description: ok}}}}}",
		},
		op("parameter.serialization-changed", both, "the same value is another text on the wire", params("{name: quays, in: query, "+list+"}"),
			params("{name: quays, in: query, explode: false, "+list+"}")),
		op("parameter.serialization-respelled", words, "the same text on the wire, declared in another way", params(limit),
			params("{name: limit, in: query, explode: false, schema: {type: integer}}")),
		op("parameter.deprecated", words, "it works as before, and is announced to leave", params(limit),
			params("{name: limit, in: query, deprecated: true, schema: {type: integer}}")),
		op("parameter.undeprecated", words, "it stays", params("{name: limit, in: query, deprecated: true, schema: {type: integer}}"),
			params(limit)),
		op("parameter.wording-changed", words, "only wording changed", params(limit),
			params("{name: limit, in: query, description: How many., schema: {type: integer}}")),
		op("parameter.examples-changed", words, "examples do not limit what is sent", params(limit),
			params("{name: limit, in: query, example: 20, schema: {type: integer}}")),
		op("header.added", newRisks, "clients that do not know it ignore it", headers(""), headers(total)),
		op("header.removed", oldRisks, "clients that read it no longer find it", headers(total), headers("")),
		op("header.required-added", breakRisks, "a request that was accepted without it is refused", parts(""), parts(totalRequired)),
		op("header.now-required", allows, "it always comes now", headers(total), headers(totalRequired)),
		op("header.now-optional", breaks, "clients were promised this header", headers(totalRequired), headers(total)),
		op("header.renamed", risks, "clients look for it under its old name", headers(total), headers("Total: {schema: {type: integer}}")),
		op("header.serialization-changed", both, "the same value is another text on the wire", headers("X-Quays: {schema: {type: object}}"),
			headers("X-Quays: {explode: true, schema: {type: object}}")),
		op("header.serialization-respelled", words, "the same text on the wire, declared in another way", headers(total),
			headers("X-Total: {explode: true, schema: {type: integer}}")),
		op("header.wording-changed", words, "only wording changed", headers(total),
			headers("X-Total: {description: All of them., schema: {type: integer}}")),
	}
}

func bodyKinds() []Kind {
	op := row("bodies and responses", InOperation)
	ok := `responses: {"200": {description: ok}}`
	request := func(text string) string { return "requestBody: {" + text + "}\n" + ok }
	answer := func(text string) string { return "responses: {\"200\": {description: ok, " + text + "}}" }
	statuses := func(text string) string { return "responses: {\"200\": {description: ok}" + text + "}" }
	json := "application/json: {schema: {type: object}}"
	csv := "text/csv: {schema: {type: string}}"
	form := func(encoding string) string {
		return request("content: {application/x-www-form-urlencoded: {schema: {type: object, properties: {quays: {type: array, items: {type: string}}, note: {type: string}}}" +
			encoding + "}}")
	}
	formAnswer := func(encoding string) string {
		return answer("content: {multipart/form-data: {schema: {type: object, properties: {quays: {type: array, items: {type: string}}, note: {type: string}}}" +
			encoding + "}}")
	}
	link := func(text string) string { return answer("links: {" + text + "}") }
	example := func(text string) string { return "content: {application/json: {schema: {type: object}" + text + "}}" }
	return []Kind{
		op("request.body-added", newRisks, "it may be left out", ok, request("content: {"+json+"}")),
		op("request.body-required", breakRisks, "a request without a body is refused", ok, request("required: true, content: {"+json+"}")),
		op("request.body-removed", oldRisks, "what clients send in it is ignored", request("content: {"+json+"}"), ok),
		op("request.body-now-required", breaks, "a request without a body is refused", request("content: {"+json+"}"),
			request("required: true, content: {"+json+"}")),
		op("request.body-now-optional", allows, "after a rollback a request without a body is refused",
			request("required: true, content: {"+json+"}"), request("content: {"+json+"}")),
		op("request.media-type-added", allows, "nobody has to use it", request("content: {"+json+"}"), request("content: {"+json+", "+csv+"}")),
		op("request.media-type-removed", breaks, "clients that send it are turned away", request("content: {"+json+", "+csv+"}"),
			request("content: {"+json+"}")),
		op("request.media-type-changed", both, "clients that send the old type are turned away", request("content: {"+csv+"}"),
			request("content: {"+json+"}")),
		op("request.media-type-widened", allows, "requests lose nothing", request("content: {image/png: {}}"), request("content: {image/*: {}}")),
		op("request.media-type-narrowed", breaks, "requests of the other types of the range are refused", request("content: {image/*: {}}"),
			request("content: {image/png: {}}")),
		op("request.media-type-respelled", words, "the same type, written in another way", request("content: {"+csv+"}"),
			request("content: {text/csv;charset=utf-8: {schema: {type: string}}}")),
		op("request.encoding-changed", both, "the same value is another text on the wire", form(""),
			form(", encoding: {quays: {style: form, explode: false}}")),
		op("request.encoding-respelled", words, "the same text on the wire, declared in another way", form(""),
			form(", encoding: {note: {style: form, explode: false}}")),
		op("request.wording-changed", words, "only wording changed", request("content: {"+json+"}"),
			request("description: What to book., content: {"+json+"}")),
		op("request.examples-changed", words, "examples do not limit what is sent", request(example("")),
			request(example(", example: {vessel: Ida}"))),
		op("response.status-added", riskBreaks, "clients of the old version do not know this status", ok,
			statuses(`, "202": {description: later}`)),
		op("response.status-removed", breakRisks, "clients wait for this success and get another answer",
			statuses(`, "202": {description: later}`), ok),
		op("response.status-folded", Directions{Editorial, Safe}, "another response speaks for it",
			statuses(`, "404": {description: none}, "4XX": {description: no}`), statuses(`, "4XX": {description: no}`)),
		op("response.media-type-added", allows, "nobody has to use it", answer("content: {"+json+"}"), answer("content: {"+json+", "+csv+"}")),
		op("response.media-type-removed", breaks, "clients that read it are answered in another type", answer("content: {"+json+", "+csv+"}"),
			answer("content: {"+json+"}")),
		op("response.media-type-changed", both, "clients that read the old type are answered in another", answer("content: {"+csv+"}"),
			answer("content: {"+json+"}")),
		op("response.media-type-widened", oldRisks, "clients may receive types of the range that they never saw",
			answer("content: {image/png: {}}"), answer("content: {image/*: {}}")),
		op("response.media-type-narrowed", newRisks, "after a rollback clients may receive other types of the range",
			answer("content: {image/*: {}}"), answer("content: {image/png: {}}")),
		op("response.media-type-respelled", words, "the same type, written in another way", answer("content: {"+csv+"}"),
			answer("content: {text/csv;charset=utf-8: {schema: {type: string}}}")),
		op("response.encoding-changed", both, "the same value is another text on the wire", formAnswer(", encoding: {quays: {style: form}}"),
			formAnswer(", encoding: {quays: {style: pipeDelimited, explode: false}}")),
		op("response.encoding-respelled", words, "the same text on the wire, declared in another way",
			formAnswer(", encoding: {note: {style: form}}"), formAnswer(", encoding: {note: {style: form, explode: false}}")),
		op("response.wording-changed", words, "only wording changed", ok, `responses: {"200": {description: fine}}`),
		op("response.examples-changed", words, "examples do not limit what is sent", answer(example("")),
			answer(example(", example: {vessel: Ida}"))),
		op("response.link-added", Directions{Editorial, Hazard}, "nobody has to follow it", link(""), link("vessel: {operationId: getVessel}")),
		op("response.link-removed", Directions{Hazard, Editorial}, "programs that follow it no longer know where it leads",
			link("vessel: {operationId: getVessel}"), link("")),
		op("response.link-changed", risks, "programs that follow it call another operation, or send it other values",
			link("vessel: {operationId: getVessel}"), link("vessel: {operationId: getOwner}")),
		op("response.link-wording-changed", words, "only wording changed", link("vessel: {operationId: getVessel}"),
			link("vessel: {operationId: getVessel, description: Hers.}")),
	}
}

func accessKinds() []Kind {
	security, servers := row("security", InDescription), row("servers", InDescription)
	schemes := func(text string) string {
		return "components: {securitySchemes: {" + text +
			"}}\npaths: {/bookings: {get: {security: [{key: []}], responses: {\"200\": {description: ok}}}}}"
	}
	asked := func(text string) string {
		return "components: {securitySchemes: {key: {type: apiKey, in: header, name: X-Key}, login: {type: http, scheme: bearer}}}\npaths: {/bookings: {get: {security: [" +
			text + "], responses: {\"200\": {description: ok}}}}}"
	}
	flow := func(text string) string {
		return "components: {securitySchemes: {key: {type: oauth2, flows: {clientCredentials: {tokenUrl: " + text +
			", scopes: {}}}}}}\npaths: {/bookings: {get: {security: [{key: []}], responses: {\"200\": {description: ok}}}}}"
	}
	at := func(text string) string {
		return "servers: [" + text + "]\npaths: {/bookings: {get: {responses: {\"200\": {description: ok}}}}}"
	}
	return []Kind{
		security("security.narrowed", breaks, "credentials that were accepted are refused", asked("{key: []}, {login: []}"), asked("{key: []}")),
		security("security.widened", allows, "the old credentials are accepted as before", asked("{key: []}"), asked("{key: []}, {login: []}")),
		security("security.credential-moved", both, "the credential is looked for where clients do not send it",
			schemes("key: {type: apiKey, in: header, name: X-Key}"), schemes("key: {type: apiKey, in: query, name: key}")),
		security("security.flow-address-changed", risks, "clients that keep the old address of the flow cannot sign in there",
			flow("https://login.saltmere.example/a"), flow("https://login.saltmere.example/b")),
		security("security.wording-changed", words, "only wording changed", schemes("key: {type: apiKey, in: header, name: X-Key}"),
			schemes("key: {type: apiKey, in: header, name: X-Key, description: Ask the office.}")),
		servers("server.base-path-changed", both, "a request to the old address finds nothing", at("{url: https://berths.saltmere.example/v1}"),
			at("{url: https://berths.saltmere.example/v2}")),
		servers("server.host-changed", risks, "clients that keep the old host may find nothing there",
			at("{url: https://berths.saltmere.example}"), at("{url: https://quays.saltmere.example}")),
		servers("server.added", newRisks, "nobody has to call it", at("{url: https://a.saltmere.example}"),
			at("{url: https://a.saltmere.example}, {url: https://b.saltmere.example}")),
		servers("server.removed", oldRisks, "clients that keep its address may find nothing there",
			at("{url: https://a.saltmere.example}, {url: https://b.saltmere.example}"), at("{url: https://a.saltmere.example}")),
		servers("server.prefix-moved-to-paths", words, "the same requests are answered at the same addresses",
			"servers: [{url: https://berths.saltmere.example/v1}]\npaths: {/bookings: {get: {responses: {\"200\": {description: ok}}}}}",
			"servers: [{url: https://berths.saltmere.example}]\npaths: {/v1/bookings: {get: {responses: {\"200\": {description: ok}}}}}"),
		servers("server.wording-changed", words, "only wording changed", at("{url: https://a.saltmere.example}"),
			at("{url: https://a.saltmere.example, description: The first.}")),
	}
}
