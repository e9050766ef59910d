package server

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/labstack/echo/v5"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// What the API's description says of a request decides whether it is taken: the tags stand once. Values whose tags name no
// bounds have these.
const (
	mostText   = 1_000
	mostItems  = 100_000
	mostFields = 10_000
	mostNumber = 1<<31 - 1
)

// bounded gives every text, list, number and object of a description its bounds, and says that objects have no other fields
// than those named.
func bounded(spec []byte) ([]byte, error) {
	var doc any
	d := json.NewDecoder(bytes.NewReader(spec))
	d.UseNumber()
	if err := d.Decode(&doc); err != nil {
		return nil, err
	}
	bound(doc)
	return json.Marshal(doc)
}

func bound(v any) {
	switch v := v.(type) {
	case []any:
		for _, e := range v {
			bound(e)
		}
	case map[string]any:
		for k, e := range v {
			if k != "enum" && k != "required" {
				bound(e)
			}
		}
		boundSchema(v)
	}
}

// boundSchema completes one schema; other objects of the description have no type that is a text.
func boundSchema(s map[string]any) {
	unless := func(key string, value any, others ...string) {
		for _, k := range append(others, key) {
			if _, ok := s[k]; ok {
				return
			}
		}
		s[key] = value
	}
	is := func(t string) bool {
		if list, ok := s["type"].([]any); ok {
			return slices.Contains(list, any(t))
		}
		return s["type"] == t
	}
	if kinds, ok := s["type"].([]any); ok { // what may be left out is left out, not sent as null
		kinds = slices.DeleteFunc(kinds, func(k any) bool { return k == "null" })
		if s["type"] = kinds; len(kinds) == 1 {
			s["type"] = kinds[0]
		}
	}
	if names, ok := s["required"].([]any); ok { // named by a tag and for want of “omitempty”
		seen := map[any]bool{}
		s["required"] = slices.DeleteFunc(names, func(n any) bool {
			was := seen[n]
			seen[n] = true
			return was
		})
	}
	switch {
	case is("string"):
		unless("maxLength", mostText, "enum")
	case is("array"):
		unless("maxItems", mostItems)
	case is("integer"), is("number"):
		if choices, ok := s["enum"].([]any); ok { // tags are texts
			for i, c := range choices {
				choices[i] = json.Number(fmt.Sprint(c))
			}
			break
		}
		unless("minimum", -mostNumber, "exclusiveMinimum")
		unless("maximum", mostNumber, "exclusiveMaximum")
	case is("object"):
		if _, open := s["additionalProperties"]; open {
			unless("maxProperties", mostFields)
		} else {
			s["additionalProperties"] = false
		}
	}
}

// rules are what a request must keep to.
type rules struct {
	body   *jsonschema.Schema // nil: it has none
	params []parameter
}

type parameter struct {
	name, in, kind string
	required       bool
	schema         *jsonschema.Schema
}

// ruleBook are the rules of all routes, out of the API's description (JSON Schema 2020-12, which OpenAPI 3.1 uses); those of a route
// are compiled when it is first asked for.
type ruleBook struct {
	mu       sync.Mutex
	compiler *jsonschema.Compiler
	paths    map[string]map[string]operation
	compiled map[string]rules // by method and path
}

// operation is what a description says of a method of a path.
type operation struct {
	Parameters []struct {
		Name, In string
		Required bool
	}
	RequestBody *struct{ Content map[string]json.RawMessage }
}

// describedAt is where schemas find what they refer to.
const describedAt = "bench:///api.json"

func readRules(spec []byte) (*ruleBook, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(spec))
	if err != nil {
		return nil, err
	}
	b := &ruleBook{compiler: jsonschema.NewCompiler(), compiled: map[string]rules{}}
	if err := b.compiler.AddResource(describedAt, doc); err != nil {
		return nil, err
	}
	var described struct {
		Paths map[string]map[string]operation
	}
	err = json.Unmarshal(spec, &described)
	b.paths = described.Paths
	return b, err
}

// of are the rules of a route.
func (b *ruleBook) of(method, route string) (r rules, err error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	key := method + " " + route
	if r, ok := b.compiled[key]; ok {
		return r, nil
	}
	path := openAPIPath(route)
	op, ok := b.paths[path][strings.ToLower(method)]
	if !ok {
		return r, fmt.Errorf("%s is not described", key)
	}
	at := describedAt + "#/paths/" + strings.NewReplacer("~", "~0", "/", "~1", "{", "%7B", "}", "%7D").Replace(path) + "/" + strings.ToLower(method)
	for i, p := range op.Parameters {
		schema, err := b.compiler.Compile(at + "/parameters/" + strconv.Itoa(i) + "/schema")
		if err != nil {
			return r, err
		}
		for schema.Ref != nil {
			schema = schema.Ref
		}
		kind := "string"
		if schema.Types != nil {
			kind = schema.Types.ToStrings()[0]
		}
		r.params = append(r.params, parameter{p.Name, p.In, kind, p.Required, schema})
	}
	if op.RequestBody != nil && op.RequestBody.Content["application/json"] != nil {
		if r.body, err = b.compiler.Compile(at + "/requestBody/content/application~1json/schema"); err != nil {
			return r, err
		}
	}
	b.compiled[key] = r
	return r, nil
}

func unreadable(why string) *Problem {
	return problem(http.StatusBadRequest, "The request cannot be read", sentence(why))
}

// check holds a body against the rules.
func (r rules) check(body []byte) error {
	if len(bytes.TrimSpace(body)) == 0 {
		body = []byte("{}")
	}
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
	if err != nil {
		return unreadable("it is not JSON")
	}
	return fault(r.body.Validate(v), "")
}

// parameters holds the parameters of an address against the rules.
func (r rules) parameters(c *echo.Context) error {
	query := c.Request().URL.Query()
	for _, p := range r.params {
		text, given := c.Param(p.name), true
		if p.in == "query" {
			values := query[p.name]
			query.Del(p.name)
			if given = len(values) > 0; given {
				text = values[0]
			}
		}
		if !given {
			if p.required {
				return unreadable("its address lacks “" + p.name + "”")
			}
			continue
		}
		if err := fault(p.schema.Validate(valueOf(p.kind, text)), p.name); err != nil {
			return err
		}
	}
	for name := range query {
		return unreadable(fmt.Sprintf("its address names %.40q, which is unknown", name))
	}
	return nil
}

// valueOf reads a parameter's text as a value of a kind; what cannot be read stays a text, which no number is.
func valueOf(kind, text string) any {
	switch kind {
	case "integer", "number":
		if v, err := jsonschema.UnmarshalJSON(strings.NewReader(text)); err == nil {
			return v
		}
	case "boolean":
		if v, err := strconv.ParseBool(text); err == nil {
			return v
		}
	}
	return text
}

// words of faults
var words = message.NewPrinter(language.English)

// fault is what a person is told of a value the rules refuse.
func fault(err error, name string) error {
	var v *jsonschema.ValidationError
	if !errors.As(err, &v) {
		return err
	}
	for len(v.Causes) > 0 {
		v = v.Causes[0]
	}
	where := strings.Join(append(slices.DeleteFunc([]string{name}, func(s string) bool { return s == "" }), v.InstanceLocation...), "/")
	what := v.ErrorKind.LocalizedString(words)
	if len(what) > 300 {
		what = what[:300]
	}
	if where == "" {
		where = "the request"
	}
	return problem(http.StatusUnprocessableEntity, "The request asks for what is not possible", where+": "+what+".")
}
