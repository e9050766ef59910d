package server

import (
	"net/http"
	"reflect"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/swaggest/jsonschema-go"
	"github.com/swaggest/openapi-go"
	"github.com/swaggest/openapi-go/openapi31"
)

// routeFacts describe a route for the API's description.
type routeFacts struct {
	method, path, id, summary string
	request, reply            any
	contentType               string // of a reply that is not JSON
}

// blob is a reply that is a file.
type blob struct {
	name      string // offered as a download under this name; "" is shown in place
	immutable bool   // never changes under its address
	data      []byte
}

// handle adds a JSON route. Path, query and body values are bound to Req by their tags.
func handle[Req, Reply any](s *Server, g *echo.Group, method, path, id, summary string, f func(c *echo.Context, r Req) (Reply, error)) {
	var req Req
	var reply Reply
	s.routes = append(s.routes, routeFacts{method, path, id, summary, req, reply, ""})
	g.Add(method, path, func(c *echo.Context) error {
		var r Req
		if err := bind(c, &r); err != nil {
			return err
		}
		out, err := f(c, r)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, out)
	})
}

// handleBlob adds a route that replies with a file.
func handleBlob[Req any](s *Server, g *echo.Group, path, id, summary, contentType string, f func(c *echo.Context, r Req) (blob, error)) {
	var req Req
	s.routes = append(s.routes, routeFacts{http.MethodGet, path, id, summary, req, nil, contentType})
	g.GET(path, func(c *echo.Context) error {
		var r Req
		if err := bind(c, &r); err != nil {
			return err
		}
		out, err := f(c, r)
		if err != nil {
			return err
		}
		h := c.Response().Header()
		if out.name != "" {
			h.Set("Content-Disposition", `attachment; filename="`+fileName(out.name)+`"`)
		}
		if out.immutable {
			h.Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		return c.Blob(http.StatusOK, contentType, out.data)
	})
}

func bind(c *echo.Context, into any) error {
	bad := func(err error) error {
		return problem(http.StatusBadRequest, "The request cannot be read", sentence(err.Error()))
	}
	if err := echo.BindPathValues(c, into); err != nil {
		return bad(err)
	}
	if err := echo.BindQueryParams(c, into); err != nil {
		return bad(err)
	}
	if strings.HasPrefix(c.Request().Header.Get("Content-Type"), "multipart/") {
		return nil
	}
	r := c.Request()
	r.Body = http.MaxBytesReader(c.Response(), r.Body, jsonLimit)
	if err := echo.BindBody(c, into); err != nil {
		return bad(err)
	}
	return nil
}

// fileName keeps what every system accepts in a file's name.
func fileName(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' || strings.ContainsRune(`"\/:*?<>|`, r) {
			return '-'
		}
		return r
	}, s)
}

// schemaNames are the names of types whose package's name says something.
var schemaNames = map[string]string{
	"HearHit": "HeardHit", "HearEdit": "HearEdit", "PatternHit": "Hit", "DrummapMap": "DrumMap", "StoredHexachordCorePatternPattern": "StoredPattern",
	"StoreStoredHexachordCorePatternPattern": "StoredPattern",
	"StoredHexachordCoreFeelGroove":          "StoredGroove", "StoreStoredHexachordCoreFeelGroove": "StoredGroove", "ReadyPattern": "ReadyPattern", "ShelfResult": "FoundSamples", "ShelfItem": "Sample", "ShelfFound": "FoundSample",
	"LayoutSample": "SampleToLay", "LayoutOptions": "LayoutOptions", "KitEdit": "KitChange", "KitLayer": "Layer", "ServerKitEdit": "EditKitRequest", "BenchNoLane": "NoLaneImported", "ServerNoLane": "NoLane",
}

// openAPI describes the routes as an OpenAPI 3.1 document.
func (s *Server) openAPI() ([]byte, error) {
	r := openapi31.NewReflector()
	r.Spec.Info.WithTitle("Hexachord").WithVersion(s.config.Version).
		WithDescription("The bench's own interface. Errors are problem details (RFC 9457).")
	r.Spec.WithServers(openapi31.Server{URL: "/api/v1"})
	r.DefaultOptions = append(r.DefaultOptions,
		jsonschema.InterceptNullability(func(p jsonschema.InterceptNullabilityParams) {
			if p.NullAdded { // slices and maps are never sent as null
				p.Schema.RemoveType(jsonschema.Null)
			}
		}),
		jsonschema.InterceptProp(func(p jsonschema.InterceptPropParams) error {
			tag := p.Field.Tag.Get("json")
			if p.Processed && p.Field.Type.Kind() == reflect.String { // null slips in from a pointer to the same type elsewhere
				p.PropertySchema.RemoveType(jsonschema.Null)
			}
			if p.Processed && tag != "" && tag != "-" && !strings.Contains(tag, "omitempty") {
				p.ParentSchema.Required = append(p.ParentSchema.Required, p.Name)
			}
			return nil
		}),
		jsonschema.InterceptDefName(func(_ reflect.Type, name string) string {
			if own, ok := schemaNames[name]; ok {
				return own
			}
			for _, pkg := range []string{"Server", "Store", "Bench", "Music", "Drummap", "Kit", "Pattern", "Feel", "Play", "Hear", "Shelf", "Kind", "Layout", "Sound"} {
				if short, ok := strings.CutPrefix(name, pkg); ok && short != "" {
					return short
				}
			}
			return name
		}))
	for _, f := range s.routes {
		oc, err := r.NewOperationContext(f.method, openAPIPath(f.path))
		if err != nil {
			return nil, err
		}
		oc.SetID(f.id)
		oc.SetSummary(f.summary)
		oc.AddReqStructure(f.request)
		if f.contentType != "" {
			oc.AddRespStructure("", openapi.WithContentType(f.contentType))
		} else {
			oc.AddRespStructure(f.reply)
		}
		oc.AddRespStructure(Problem{}, func(cu *openapi.ContentUnit) { cu.IsDefault = true; cu.ContentType = "application/problem+json" })
		if err := r.AddOperation(oc); err != nil {
			return nil, err
		}
	}
	return r.Spec.MarshalJSON()
}

// openAPIPath turns /projects/:id into /projects/{id}.
func openAPIPath(path string) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		if name, ok := strings.CutPrefix(p, ":"); ok {
			parts[i] = "{" + name + "}"
		}
	}
	return strings.Join(parts, "/")
}

// OpenAPI describes the API of a program version as an OpenAPI 3.1 document.
func OpenAPI(version string) ([]byte, error) {
	s, _, err := New(nil, Config{Version: version})
	if err != nil {
		return nil, err
	}
	return s.spec, nil
}
