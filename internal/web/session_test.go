package web_test

import (
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
)

// openRoutes are answered without a session; every other route must be refused.
var openRoutes = []string{
	"GET /healthz", "GET /readyz",
	"POST /api/session",
	"DELETE /api/session",
	"GET /api/setup", "POST /api/setup", "POST /api/setup/restore",
	"POST /api/invitation", "POST /api/invitation/accept",
	"GET /api/shift", "POST /api/shift",
	"GET /api/openapi.json", "GET /api/openapi.yaml", "GET /api/openapi-3.0.json", "GET /api/openapi-3.0.yaml",
	"GET /api/schemas/{schema}",
}

// Every operation of the OpenAPI document and every route of the router is called without
// a session, with a body that the document itself calls valid, and is refused for the
// session alone. A route that is added is found here by itself.
func TestEveryRouteNeedsASession(t *testing.T) {
	c, _ := serve(t)
	doc := c.srv.API()
	var called []string
	require.NoError(t, chi.Walk(c.srv.Routes(), func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		name := method + " " + route
		called = append(called, name)
		if slices.Contains(openRoutes, name) {
			return nil
		}
		op := operation(doc, method, route)
		var p problem
		code := c.do(method, at(route, store.NewID().String())+requiredQuery(op), validBody(t, doc, op, name), &p)
		assert.Equal(t, 401, code, "%s: %s", name, p.Detail)
		assert.Contains(t, p.Detail, "Sign in", name)
		return nil
	}))
	for path, item := range doc.Paths {
		for method := range methods(item) {
			assert.Contains(t, called, method+" "+path, "an operation that the router does not know")
		}
	}
	for _, r := range openRoutes {
		assert.Contains(t, called, r, "openRoutes names a route that is gone")
	}
	assert.Greater(t, len(called), 70)
}

func methods(item *huma.PathItem) map[string]*huma.Operation {
	all := map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "PATCH": item.Patch, "DELETE": item.Delete}
	for m, op := range all {
		if op == nil {
			delete(all, m)
		}
	}
	return all
}

// operation is a route's entry in the document; nil for the raw routes, which have none.
func operation(doc *huma.OpenAPI, method, route string) *huma.Operation {
	if item := doc.Paths[route]; item != nil {
		return methods(item)[method]
	}
	return nil
}

// requiredQuery gives the query parameters without which an operation is refused by its form.
func requiredQuery(op *huma.Operation) string {
	var b strings.Builder
	if op != nil {
		for _, p := range op.Parameters {
			if p.In == "query" && p.Required {
				b.WriteString("&" + p.Name + "=1")
			}
		}
	}
	return strings.Replace(b.String(), "&", "?", 1)
}

// validBody makes the smallest body that an operation's own schema accepts, and checks that it does.
func validBody(t *testing.T, doc *huma.OpenAPI, op *huma.Operation, name string) any {
	t.Helper()
	if op == nil || op.RequestBody == nil {
		return nil
	}
	media := op.RequestBody.Content["application/json"]
	if media == nil { // a file, as it is
		return []byte("a,b\n1,2\n")
	}
	reg := doc.Components.Schemas
	v := instance(reg, media.Schema)
	// As a request has it: numbers, lists and objects of JSON.
	b, err := json.Marshal(v)
	require.NoError(t, err)
	var plain any
	require.NoError(t, json.Unmarshal(b, &plain))
	res := &huma.ValidateResult{}
	huma.Validate(reg, media.Schema, huma.NewPathBuffer([]byte("body"), 4), huma.ModeWriteToServer, plain, res)
	require.Empty(t, res.Errors, "%s: %s is not valid", name, b)
	return b
}

// instance makes a small value that a schema accepts.
func instance(reg huma.Registry, s *huma.Schema) any {
	if s.Ref != "" {
		s = reg.SchemaFromRef(s.Ref)
	}
	switch {
	case len(s.Enum) > 0:
		return s.Enum[0]
	case len(s.OneOf) > 0:
		return instance(reg, s.OneOf[0])
	case len(s.AnyOf) > 0:
		return instance(reg, s.AnyOf[0])
	}
	switch s.Type {
	case huma.TypeObject:
		m := map[string]any{}
		for _, k := range s.Required {
			m[k] = instance(reg, s.Properties[k])
		}
		return m
	case huma.TypeArray:
		list := []any{}
		for range least(s.MinItems) {
			list = append(list, instance(reg, s.Items))
		}
		return list
	case huma.TypeInteger, huma.TypeNumber:
		if s.Minimum != nil {
			return *s.Minimum
		}
		return 1
	case huma.TypeBoolean:
		return true
	case huma.TypeString:
		switch s.Format {
		case "uuid":
			return store.NewID().String()
		case "date-time":
			return "2026-03-01T08:00:00Z"
		case "date":
			return "2026-03-01"
		}
		return strings.Repeat("x", max(1, least(s.MinLength)))
	}
	return map[string]any{}
}

func least(n *int) int {
	if n == nil {
		return 0
	}
	return *n
}
