package api

import (
	"context"
	"crypto/tls"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"
)

// adapter lets huma describe and validate operations while Echo routes them;
// the library has no adapter for this version of Echo.
type adapter struct {
	http.Handler
	group *echo.Group
}

func (a *adapter) Handle(op *huma.Operation, handler func(huma.Context)) {
	path := strings.NewReplacer("{", ":", "}", "").Replace(op.Path)
	a.group.Add(op.Method, path, func(c *echo.Context) error {
		handler(&exchange{op: op, c: c})
		return nil
	})
}

// exchange is one request and its response.
type exchange struct {
	op     *huma.Operation
	c      *echo.Context
	status int
}

var _ huma.Context = &exchange{}

func (x *exchange) Operation() *huma.Operation { return x.op }
func (x *exchange) Context() context.Context   { return x.c.Request().Context() }
func (x *exchange) Method() string             { return x.c.Request().Method }
func (x *exchange) Host() string               { return x.c.Request().Host }
func (x *exchange) RemoteAddr() string         { return x.c.RealIP() }
func (x *exchange) URL() url.URL               { return *x.c.Request().URL }
func (x *exchange) Param(name string) string   { return x.c.Param(name) }
func (x *exchange) Query(name string) string   { return x.c.QueryParam(name) }
func (x *exchange) Header(name string) string  { return x.c.Request().Header.Get(name) }
func (x *exchange) BodyReader() io.Reader      { return x.c.Request().Body }
func (x *exchange) TLS() *tls.ConnectionState  { return x.c.Request().TLS }
func (x *exchange) Status() int                { return x.status }
func (x *exchange) BodyWriter() io.Writer      { return x.c.Response() }

func (x *exchange) EachHeader(f func(name, value string)) {
	for name, values := range x.c.Request().Header {
		for _, v := range values {
			f(name, v)
		}
	}
}

func (x *exchange) GetMultipartForm() (*multipart.Form, error) { return x.c.MultipartForm() }

// SetReadDeadline changes nothing: how long a body may take is set for all routes alike.
func (x *exchange) SetReadDeadline(time.Time) error { return nil }

func (x *exchange) SetStatus(code int) {
	x.status = code
	x.c.Response().WriteHeader(code)
}

func (x *exchange) SetHeader(name, value string)    { x.c.Response().Header().Set(name, value) }
func (x *exchange) AppendHeader(name, value string) { x.c.Response().Header().Add(name, value) }

func (x *exchange) Version() huma.ProtoVersion {
	r := x.c.Request()
	return huma.ProtoVersion{Proto: r.Proto, ProtoMajor: r.ProtoMajor, ProtoMinor: r.ProtoMinor}
}
