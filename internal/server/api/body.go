package api

import (
	"context"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/labstack/echo/v5"

	"wexo/internal/core/inventory"
)

// binder reads bodies: JSON and nothing else, as it comes, and no further than permitted.
type binder struct{}

// Bind is echo.Binder; the generated server takes parameters from the URL by itself.
func (binder) Bind(c *echo.Context, target any) error {
	r := c.Request()
	if kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type")); err != nil || kind != "application/json" {
		return problem(http.StatusUnsupportedMediaType, "Send JSON, with Content-Type: application/json.")
	}
	var err error
	if _, ok := target.(*Inventory); ok { // read by its own rules, as it comes
		var inv inventory.Inventory
		inv, err = inventory.Read(r.Body)
		switch {
		case err == nil:
			c.SetRequest(r.WithContext(context.WithValue(r.Context(), inventoryKey{}, inv)))
		case isTooLarge(err):
		case errors.Is(err, inventory.ErrNoJSON):
			return problem(http.StatusBadRequest, "The body cannot be read: "+err.Error()+".")
		default:
			return problem(http.StatusUnprocessableEntity, "The inventory cannot be taken: "+err.Error()+".")
		}
	} else {
		err = decode(r, target)
	}
	if isTooLarge(err) {
		var limit *http.MaxBytesError
		errors.As(err, &limit)
		return problem(http.StatusRequestEntityTooLarge, tooLarge(limit.Limit))
	}
	return err
}

type inventoryKey struct{}

// sentInventory is the inventory that a request brought.
func sentInventory(ctx context.Context) inventory.Inventory {
	inv, _ := ctx.Value(inventoryKey{}).(inventory.Inventory)
	return inv
}

// decode reads one JSON object: each field once, by its own name, and nothing behind it. Of two
// that say something else it is not for this service to choose.
func decode(r *http.Request, target any) error {
	err := json.UnmarshalRead(r.Body, target, json.RejectUnknownMembers(true))
	var meaning *json.SemanticError
	var form *jsontext.SyntacticError
	switch {
	case err == nil:
		return nil
	case isTooLarge(err):
		return err
	case errors.As(err, &form) && errors.Is(err, jsontext.ErrDuplicateName):
		return problem(http.StatusBadRequest, "The field "+fieldOf(form.JSONPointer)+" is given twice.")
	case errors.Is(err, json.ErrUnknownName) && errors.As(err, &meaning):
		return problem(http.StatusBadRequest, "There is no field "+fieldOf(meaning.JSONPointer)+" here.")
	case errors.As(err, &meaning) && meaning.JSONPointer != "":
		return problem(http.StatusBadRequest, "The field "+fieldOf(meaning.JSONPointer)+" holds another kind of value than it should.")
	}
	return problem(http.StatusBadRequest, "The body is not one JSON object as the contract says.")
}

// fieldOf is a place in a body as people write it.
func fieldOf(at jsontext.Pointer) string {
	var parts []string
	for part := range at.Tokens() {
		parts = append(parts, fmt.Sprintf("%.60s", part))
	}
	return strings.Join(parts, ".")
}

func isTooLarge(err error) bool {
	var limit *http.MaxBytesError
	return errors.As(err, &limit)
}

func tooLarge(most int64) string {
	if most == 0 {
		return "This call takes no body."
	}
	return fmt.Sprintf("The body is too large; at most %d KB are taken here.", most>>10)
}
