// Schemas writes the JSON Schemas of docs/schemas: those of formats that a program writes or
// reads from the types behind them, with what their comments say; and into those of rules and
// configurations, which are written by hand, which tools, dialects and classes there are.
package main

import (
	"errors"
	"fmt"
	"os"
	"reflect"

	"wexo/internal/core/catalogue"
	"wexo/internal/report"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "schemas:", err)
		os.Exit(1)
	}
}

const folder = "docs/schemas/"

func run() error {
	words, err := known()
	if err != nil {
		return err
	}
	said, err := comments("internal/core/catalogue", "internal/report", "internal/core/claim", "internal/core/assess", "internal/core/rule")
	if err != nil {
		return err
	}
	reports, tools := reflected{"json", said, words, true}, reflected{"yaml", said, words, false}
	return errors.Join(
		contracted("api/openapi.yaml", folder+"inventory.schema.json"),
		reports.write(folder+"report.schema.json", report.Format, reflect.TypeFor[report.Document]()),
		reports.write(folder+"needs.schema.json", report.NeedsFormat, reflect.TypeFor[report.Needs]()),
		tools.write(folder+"tool.schema.json", "A tool of a catalogue folder: tools/*.yaml", reflect.TypeFor[catalogue.Tool]()),
		words.fill(folder+"wexo.schema.json"),
		words.fill(folder+"wexo-repository.schema.json"))
}
