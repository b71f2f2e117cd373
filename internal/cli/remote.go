package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"reflect"
	"strings"
	"time"

	openapi_types "github.com/oapi-codegen/runtime/types"
	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/host/probe"
	"wexo/internal/report"
	"wexo/internal/terminal"
)

// maxAnswer is the largest answer that is taken of a service, which need not be one of
// Wexo's, in bytes.
const maxAnswer = 256 << 20

// answers are calls whose answers are limited.
type answers struct{ http.RoundTripper }

func (a answers) RoundTrip(q *http.Request) (*http.Response, error) {
	response, err := a.RoundTripper.RoundTrip(q)
	if err == nil {
		response.Body = http.MaxBytesReader(nil, response.Body, maxAnswer)
	}
	return response, err
}

// answered turns a failed call into the service's own words. The response is one of the
// generated ones, a nil pointer where the call failed.
func answered(err error, response interface{ StatusCode() int }, want int) error {
	var tooMuch *http.MaxBytesError
	if errors.As(err, &tooMuch) {
		return failed("the service's answer is larger than %d MB", tooMuch.Limit>>20)
	}
	if err != nil {
		return failed("the service does not answer: %v", err)
	}
	status := response.StatusCode()
	if status == want {
		return nil
	}
	var p client.Problem
	body := reflect.ValueOf(response).Elem().FieldByName("Body").Bytes() // every generated response has one
	if json.Unmarshal(body, &p) == nil && p.Detail != nil && *p.Detail != "" {
		return failed("the service says: %s", *p.Detail)
	}
	return failed("the service answered %d %s", status, http.StatusText(status))
}

// toSend are the inventories in files, or that of this machine.
func toSend(ctx context.Context, files []string, name, kind string) ([]inventory.Inventory, error) {
	var out []inventory.Inventory
	for _, file := range files {
		inv, err := readInventory(ctx, file)
		if err != nil {
			return nil, err
		}
		out = append(out, inv)
	}
	if len(files) == 0 {
		c, reader, err := knowledge()
		if err != nil {
			return nil, err
		}
		out = append(out, probe.Take(ctx, c, reader, probe.Local(time.Now())))
	}
	if name != "" && len(out) != 1 {
		return nil, usage("--name goes with one inventory")
	}
	for i := range out {
		if name != "" {
			out[i].Machine.Name = name
		}
		if kind != "" {
			out[i].Machine.Kind = kind
		}
	}
	return out, nil
}

func dateGiven(text string) (*openapi_types.Date, error) {
	if text == "" {
		return nil, nil
	}
	day, err := dayOf(text)
	return &openapi_types.Date{Time: day}, err
}

// findings prints findings as the survey does.
func (r *remote) findings(s Streams, list client.FindingList) error {
	if r.output == "json" {
		return writeJSON(s.Out, list)
	}
	c, _, err := knowledge()
	if err != nil {
		return err
	}
	if err := report.FindingsText(s.Out, local(list.Findings), c, styleFor(s.Out)); err != nil {
		return failed("%v", err)
	}
	err = terminal.Printf(s.Out, "\n%d of %d findings\n", len(list.Findings), list.Total)
	return err
}

func local(list []client.Finding) []assess.Finding {
	out := make([]assess.Finding, 0, len(list))
	for _, f := range list {
		configuration := ""
		if f.Configuration != nil {
			configuration = *f.Configuration
		}
		out = append(out, assess.Finding{Configuration: configuration, Fingerprint: f.Fingerprint, Class: assess.Class(f.Class), Severity: assess.Severity(f.Severity), Repository: f.Repository,
			Folder: f.Folder, Tool: f.Tool, Machines: f.Machines, Message: f.Message, Evidence: f.Evidence, Remedy: f.Remedy, Waived: f.Waived})
	}
	return out
}

// surveyOnServer starts a survey of a running service, follows it and prints its findings.
func surveyOnServer(cmd *cobra.Command, s Streams, l looking, server, token, output, failOn string, dirs []string) error {
	if len(dirs) > 0 {
		return usage("a service surveys its own repositories; add more with: wexo repositories add PATH")
	}
	r := remote{server: server, token: token, output: output}
	c, err := r.open()
	if err != nil {
		return err
	}
	started, err := c.StartSurveyWithResponse(cmd.Context())
	if err := answered(err, started, http.StatusAccepted); err != nil {
		return err
	}
	end, err := follow(cmd.Context(), c, s, started.JSON202.Id)
	if err != nil {
		return err
	}
	if end.State != client.Finished {
		return failed("the survey %s: %s", end.State, end.Message)
	}
	p := client.ListFindingsParams{Limit: ptr(1000)}
	if p.AsOf, err = dateGiven(l.asOf); err != nil {
		return err
	}
	got, err := c.ListFindingsWithResponse(cmd.Context(), &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	if err := r.findings(s, *got.JSON200); err != nil {
		return err
	}
	if (report.Report{Findings: local(got.JSON200.Findings)}).Worst() >= failLevels[failOn] {
		return &exitError{status: exitFindings}
	}
	return nil
}

func ptr[T any](v T) *T { return &v }

// follow reads the survey's events until its end.
func follow(ctx context.Context, c *client.ClientWithResponses, s Streams, id int64) (client.Survey, error) {
	var last client.Survey
	response, err := c.WatchSurvey(ctx, id)
	if err != nil {
		return last, failed("the service does not answer: %v", err)
	}
	defer response.Body.Close()
	lines := bufio.NewScanner(response.Body)
	for lines.Scan() {
		data, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		if err := json.Unmarshal([]byte(data), &last); err != nil {
			return last, failed("the service sent an event that cannot be read: %v", err)
		}
	}
	if last.State == "" || last.State == client.Running {
		return last, failed("the connection broke before the survey ended")
	}
	_ = terminal.Printf(s.Err, "Survey %d: %d of %d repositories read.\n", last.Id, last.Done, last.Total)
	return last, nil
}

// traceOnServer prints the trace of a repository that a running service knows.
func traceOnServer(cmd *cobra.Command, s Streams, l looking, server, token, repository string, tool *catalogue.Tool, c *catalogue.Catalogue, output string) error {
	r := remote{server: server, token: token, output: output}
	api, err := r.open()
	if err != nil {
		return err
	}
	name, folder := splitRepository(repository)
	p := client.GetRepositoryParams{}
	if p.AsOf, err = dateGiven(l.asOf); err != nil {
		return err
	}
	got, err := api.GetRepositoryWithResponse(cmd.Context(), name, &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	whole := report.Report{Repositories: []report.Repository{{Name: got.JSON200.Name}}}
	for _, f := range got.JSON200.Folders {
		at := report.Folder{Path: f.Path}
		for _, t := range f.Tools {
			at.Tools = append(at.Tools, report.Tool{Tool: t.Tool, Claims: t.Claims, Feasible: t.Feasible, Conflict: t.Conflict, Resolutions: t.Resolutions})
			whole.Findings = append(whole.Findings, local(t.Findings)...)
		}
		whole.Repositories[0].Folders = append(whole.Repositories[0].Folders, at)
	}
	t, err := traceOf(whole, folder, tool)
	if err != nil {
		return err
	}
	return writeTrace(s, t, c, output)
}
