package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"mime"
	"net/http"

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

func decode(r *http.Request, target any) error {
	d := json.NewDecoder(r.Body)
	err := d.Decode(target)
	var kind *json.UnmarshalTypeError
	switch {
	case isTooLarge(err):
		return err
	case errors.As(err, &kind) && kind.Field != "":
		return problem(http.StatusBadRequest, "The field "+kind.Field+" holds another kind of value than it should.")
	case err != nil || d.More():
		return problem(http.StatusBadRequest, "The body is not one JSON object as the contract says.")
	}
	return nil
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
