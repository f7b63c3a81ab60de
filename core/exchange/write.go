package exchange

import (
	"io"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
)

// Write writes exchanges as an archive (HAR 1.2), as they are: what is kept is masked before. Read reads the same exchanges from it, under
// new numbers.
func Write(w io.Writer, creator, version string, all []*Exchange) error {
	type object = map[string]any
	entries := make([]object, len(all))
	for i, e := range all {
		request := object{
			"method": e.Method, "url": e.URL.String(), "httpVersion": "HTTP/1.1", "headers": fields(e.Request.Headers), "queryString": []Field{},
			"cookies": []Field{}, "headersSize": -1, "bodySize": size(&e.Request),
		}
		if e.Request.Body != nil || len(e.Request.Form) > 0 || e.Request.Left {
			request["postData"] = object{"mimeType": e.Request.Type, "text": string(e.Request.Body), "params": fields(e.Request.Form)}
		}
		entries[i] = object{
			"startedDateTime": e.At, "time": 0, "request": request, "cache": object{}, "timings": object{"send": 0, "wait": 0, "receive": 0},
			"response": object{
				"status": e.Status, "statusText": "", "httpVersion": "HTTP/1.1", "headers": fields(e.Answer.Headers), "cookies": []Field{},
				"redirectURL": "", "headersSize": -1, "bodySize": -1,
				"content": object{"size": size(&e.Answer), "mimeType": e.Answer.Type, "text": string(e.Answer.Body)},
			},
		}
	}
	return json.MarshalWrite(w, object{"log": object{
		"version": "1.2", "creator": object{"name": creator, "version": version}, "entries": entries,
	}}, json.Deterministic(true), jsontext.AllowInvalidUTF8(true))
}

// fields are never null.
func fields(all []Field) []Field {
	if all == nil {
		return []Field{}
	}
	return all
}

// size is how long a body is: of one that was left out that it was there.
func size(m *Message) int {
	if m.Left {
		return max(1, len(m.Body))
	}
	return len(m.Body)
}
