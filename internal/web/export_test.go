package web

import (
	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
)

// Routes are all that the server answers, for tests that must miss none.
func (s *Server) Routes() chi.Routes { return s.mux.(chi.Routes) }

// Rest waits until what goes on in the background has ended.
func (s *Server) Rest() { s.work.Wait() }

// API is the server's own OpenAPI document.
func (s *Server) API() *huma.OpenAPI { return s.api.OpenAPI() }
