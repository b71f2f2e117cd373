package api

import (
	"context"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	contract "wexo/api"
)

// permits are the contract's operations by method and by the router's form of their path.
type permits map[string]contract.Operation

func newPermits() (permits, error) {
	list, err := contract.Operations()
	if err != nil {
		return nil, err
	}
	out := permits{}
	for _, o := range list {
		out[o.Method+" "+strings.NewReplacer("{", ":", "}", "").Replace(o.Path)] = o
	}
	return out, nil
}

// roleBytes is the largest body that a caller of a role may send, in bytes: before the
// limit of the call itself.
var roleBytes = map[string]int64{"": 16 << 10, "reader": 16 << 10, "collector": 8 << 20, "lead": 8 << 20, "owner": 8 << 20}

// permit lets a request through to its operation: first it is for this service at all,
// then the caller is known and may do this, then its parameters are such as the contract
// says. Only then may its body be read, as far as the role's limit and the call's.
func (s *Server) permit(all permits) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			if !s.forUs(r.Host) {
				return problem(http.StatusMisdirectedRequest, "This service does not answer for that host name; start it with --names to have it do so.")
			}
			op, known := all[r.Method+" "+c.Path()]
			if !known {
				if strings.HasPrefix(c.Path(), "/api/") && c.Path() != "/api/*" && c.Path() != contractPath { // nothing is open that the contract does not name
					return problem(http.StatusNotFound, "There is no such call.")
				}
				r.Body = http.MaxBytesReader(c.Response(), r.Body, 0)
				return next(c)
			}
			who := caller{}
			if !op.Open {
				var err error
				if who, err = s.identify(c); err != nil {
					return err
				}
				if !slices.Contains(op.Roles, who.role) {
					return problem(http.StatusForbidden, "The role "+who.role+" may not do this; it takes "+strings.Join(op.Roles, " or ")+".")
				}
			}
			query, err := url.ParseQuery(r.URL.RawQuery)
			if err != nil {
				return problem(http.StatusBadRequest, "The parameters are not written as in a URL.")
			}
			if err := op.Check(query); err != nil {
				return problem(http.StatusBadRequest, sentence(err.Error()))
			}
			most := min(op.MostBytes, roleBytes[who.role])
			if r.ContentLength > most {
				return problem(http.StatusRequestEntityTooLarge, tooLarge(most))
			}
			r.Body = http.MaxBytesReader(c.Response(), r.Body, most)
			c.SetRequest(r.WithContext(context.WithValue(r.Context(), callerKey{}, who)))
			return next(c)
		}
	}
}

// sentence is a text with a capital letter and a full stop.
func sentence(text string) string {
	return strings.ToUpper(text[:1]) + text[1:] + "."
}

// forUs tells whether a request names this service by one of its names. A page elsewhere
// whose name was made to lead here could otherwise speak with it as if it were one of ours.
func (s *Server) forUs(host string) bool {
	if len(s.Names) == 0 {
		return true
	}
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	return slices.Contains(s.Names, strings.ToLower(strings.Trim(name, "[]")))
}

// sameOrigin tells whether a request that a cookie signs was made by a page of this service.
func sameOrigin(r *http.Request) bool {
	origin := r.Header.Get("Origin")
	if origin == "" {
		return r.Header.Get("Sec-Fetch-Site") != "cross-site"
	}
	scheme := "http"
	if r.TLS != nil {
		scheme = "https"
	}
	return strings.EqualFold(origin, scheme+"://"+r.Host)
}
