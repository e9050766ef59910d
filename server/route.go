package server

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"sync"
	"time"

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
	// write writes size bytes instead of data, block by block; what has begun cannot become an error reply any more.
	write func(ctx context.Context, out io.Writer) error
	size  int64
}

// handle adds a JSON route. Path, query and body values are bound to Req by their tags.
func handle[Req, Reply any](s *Server, g *echo.Group, method, path, id, summary string, f func(c *echo.Context, r Req) (Reply, error)) {
	var req Req
	var reply Reply
	s.routes = append(s.routes, routeFacts{method, path, id, summary, req, reply, ""})
	g.Add(method, path, func(c *echo.Context) error {
		var r Req
		if err := s.bind(c, method, path, &r); err != nil {
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
	s.blobs[apiRoot+path] = true
	g.GET(path, func(c *echo.Context) error {
		var r Req
		if err := s.bind(c, http.MethodGet, path, &r); err != nil {
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
		if out.write == nil {
			return c.Blob(http.StatusOK, contentType, out.data)
		}
		h.Set("Content-Type", contentType)
		if out.size >= 0 { // −1 is not known before it is written
			h.Set("Content-Length", strconv.FormatInt(out.size, 10))
		}
		return out.write(c.Request().Context(), c.Response())
	})
}

// bind reads a request into its struct, once the API's own description allows it.
func (s *Server) bind(c *echo.Context, method, path string, into any) error {
	d, err := s.described()
	if err != nil {
		return err
	}
	v, err := d.rules.of(method, path)
	if err != nil {
		return err
	}
	if err := v.parameters(c); err != nil {
		return err
	}
	if err := echo.BindPathValues(c, into); err != nil {
		return unreadable("its address does not fit")
	}
	if err := echo.BindQueryParams(c, into); err != nil {
		return unreadable("its address does not fit")
	}
	r := c.Request()
	if v.body == nil || strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
		return nil
	}
	// what is no file has half a minute to come in; a connection that cannot be told so has the server's own limit
	slow := http.NewResponseController(c.Response())
	_ = slow.SetReadDeadline(time.Now().Add(bodyTime))
	body, err := io.ReadAll(http.MaxBytesReader(c.Response(), r.Body, jsonLimit))
	if err != nil {
		return err
	}
	_ = slow.SetReadDeadline(time.Time{})
	if err := v.check(body); err != nil {
		return err
	}
	if err := json.Unmarshal(body, into); err != nil {
		return unreadable(err.Error())
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

// schemaNames are the names of types whose package's name says something, or whose name another package has too.
var schemaNames = map[string]string{
	"HearHit": "HeardHit", "HearEdit": "HearEdit", "PatternHit": "Hit", "DrummapMap": "DrumMap", "PatternEdit": "PatternChange", "PatternSettings": "PatternSettings",
	"ShelfResult": "FoundSamples", "ShelfItem": "Sample", "ShelfFound": "FoundSample", "LayoutSample": "SampleToLay", "LayoutOptions": "LayoutOptions",
	"KitLayer": "Layer", "ReadyPattern": "ReadyPattern", "ProjectNoLane": "NoLaneImported", "ProjectRecording": "RecordingDocument",
	"ServiceCutKit": "CutKitRequest", "PatternDouble": "DoublePattern", "PatternShape": "PatternShape", "KitShape": "Shape", "PatternLean": "LeanHits",
	"ProjectKeep": "KeepRecording", "ServiceEdit": "Edit", "ProjectPatternEdit": "EditPattern", "ProjectAddPattern": "AddPattern", "ProjectKitEdit": "KitChange",
	"PatternVelocity": "VelocityOp", "PlayDelta": "PassDelta", "ProjectStored[HexachordCorePatternPattern]": "StoredPattern", "ProjectStored[HexachordCoreFeelGroove]": "StoredGroove",
	"ProjectStored[HexachordCoreSongBlock]": "StoredBlock", "ProjectStored[HexachordCoreSongSection]": "StoredSection", "ViewSong": "Song", "SongSong": "SongTempi",
	"ViewPass": "RecordedPass", "TakeQuantise": "QuantiseIn", "TakeStrike": "PlayedStrike", "DemoPerformance": "Performance",
	"PlaySplice[HexachordCorePlayCue]": "SpliceOfCues", "PlaySplice[HexachordCorePlayStroke]": "SpliceOfStrokes",
}

// description is what the API says of itself, and the rules read from it.
type description struct {
	spec  []byte
	rules *ruleBook
}

func (s *Server) describe() (d description, err error) {
	if d.spec = s.config.Description; d.spec == nil {
		if d.spec, err = s.openAPI(); err != nil {
			return d, fmt.Errorf("the API's description cannot be made: %w", err)
		}
	}
	if d.rules, err = readRules(d.spec); err != nil {
		return d, fmt.Errorf("the API's description cannot be used: %w", err)
	}
	return d, nil
}

// descriptions are made once: they are the same for all servers of a program, and take most of a second.
var descriptions struct {
	sync.Mutex
	of map[string]func() (description, error)
}

func describedOnce(of string, describe func() (description, error)) func() (description, error) {
	descriptions.Lock()
	defer descriptions.Unlock()
	if f, ok := descriptions.of[of]; ok {
		return f
	}
	f := sync.OnceValues(describe)
	if descriptions.of == nil {
		descriptions.of = map[string]func() (description, error){}
	}
	descriptions.of[of] = f
	return f
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
			for _, pkg := range []string{"Server", "Store", "Service", "Project", "View", "Music", "Drummap", "Kit", "Pattern", "Feel", "Play", "Hear", "Shelf", "Kind", "Layout", "Sound"} {
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
	text, err := r.Spec.MarshalJSON()
	if err != nil {
		return nil, err
	}
	return bounded(text)
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
	s, _, err := New(nil, Config{Addr: "127.0.0.1:0", Version: version}) // nothing is listened on
	if err != nil {
		return nil, err
	}
	d, err := s.described()
	return d.spec, err
}
