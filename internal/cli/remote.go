package cli

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"reflect"
	"strings"
	"time"

	openapi_types "github.com/oapi-codegen/runtime/types"
	"github.com/spf13/cobra"

	"wexo/internal/client"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
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

// unanswered says why a call failed, without the call.
func unanswered(err error) string {
	var call *url.Error
	if !errors.As(err, &call) {
		return err.Error()
	}
	at := call.URL
	if u, bad := url.Parse(call.URL); bad == nil {
		at = u.Scheme + "://" + u.Host
	}
	var refused *os.SyscallError
	var unknown *net.DNSError
	switch {
	case errors.As(err, &refused):
		return fmt.Sprintf("%s: %v", at, refused.Err)
	case errors.As(err, &unknown):
		return fmt.Sprintf("%s: no machine is called %s here", at, unknown.Name)
	case call.Timeout():
		return at + ": it took too long"
	}
	return fmt.Sprintf("%s: %v", at, call.Err)
}

// asksService reports whether an argument is meant for the service that WEXO_SERVER names: it
// is no folder here, nor one of a folder's.
func asksService(arg string) bool {
	dir, _ := splitRepository(arg)
	return os.Getenv("WEXO_SERVER") != "" && !isFolder(dir)
}

// answered turns a failed call into the service's own words. The response is one of the
// generated ones, a nil pointer where the call failed.
func answered(err error, response interface{ StatusCode() int }, want int) error {
	var tooMuch *http.MaxBytesError
	if errors.As(err, &tooMuch) {
		return failed("the service's answer is larger than %d MB", tooMuch.Limit>>20)
	}
	if err != nil {
		return failed("the service does not answer: %s", unanswered(err))
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

// findings prints findings as the survey does.
func (r *remote) findings(s Streams, list client.FindingList) error {
	if r.output == "json" {
		return writeJSON(s.Out, list)
	}
	k, err := knowledge()
	if err != nil {
		return err
	}
	found, err := recast[[]report.Finding](list.Findings)
	if err != nil {
		return err
	}
	if err := report.FindingsText(s.Out, found, k.Catalogue, styleFor(s.Out)); err != nil {
		return failed("%v", err)
	}
	err = terminal.Printf(s.Out, "\n%d of %d findings\n", len(list.Findings), list.Total)
	return err
}

// recast puts what the service sent into a type of the same form.
func recast[T any](from any) (T, error) {
	var out T
	data, err := json.Marshal(from)
	if err == nil {
		err = json.Unmarshal(data, &out)
	}
	if err != nil {
		return out, failed("the service sent what cannot be read: %v", err)
	}
	return out, nil
}

// onlyHere are the options that say how repositories are read, which a service decides itself.
var onlyHere = []string{"inventory", "ref", "worktree", "fresh", "verbose"}

// surveyOnServer starts a survey of a running service, follows it, prints the service's
// report and judges it as one made here.
func surveyOnServer(cmd *cobra.Command, s Streams, r remote, g gate, only choosing, dirs []string) error {
	if len(dirs) > 0 {
		return usage("a service surveys its own repositories; add more with: wexo repositories add PATH")
	}
	for _, name := range onlyHere {
		if cmd.Flags().Changed(name) {
			return usage("--%s goes with a survey of this machine; a service reads its repositories by its own configuration", name)
		}
	}
	k, err := knowledge()
	if err != nil {
		return err
	}
	day, err := givenDay(cmd)
	if err != nil {
		return err
	}
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
	p := only.report()
	p.AsOf = day
	got, err := c.GetReportWithResponse(cmd.Context(), &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	document, err := report.ReadDocument(bytes.NewReader(got.Body))
	if err != nil {
		return failed("the service's answer: %v", err)
	}
	if len(document.Repositories) == 0 && only.said() == "" {
		return failed("the service has no repositories; add some with: wexo repositories add PATH")
	}
	if g.output == "json" {
		_, err = terminal.JSON(s.Out).Write(got.Body)
		tellUnseen(s, document.Unseen)
	} else {
		err = report.Text(s.Out, document.Telling(), k.Catalogue, styleFor(s.Out), g.each)
	}
	if left := only.said(); left != "" {
		_ = terminal.Printf(s.Err, "%s: only %s told and judged.\n", left, sentence.Count(document.Summary.Count(), "finding is", "findings are"))
	}
	switch {
	case err != nil:
		return failed("the report cannot be written: %v", err)
	case cmd.Context().Err() != nil:
		return failed("the survey was stopped")
	}
	return g.ending(document.Summary, document.Unseen)
}

// givenDay is the day that was asked for, by option, variable or configuration; nil leaves
// it to the service.
func givenDay(cmd *cobra.Command) (*openapi_types.Date, error) {
	_, cfg, err := configured(cmd)
	if err != nil || cfg.AsOf == "" {
		return nil, err
	}
	day, err := cfg.day()
	return dateOf(day), err
}

func dateOf(day time.Time) *openapi_types.Date { return &openapi_types.Date{Time: day} }

// follow reads the survey's events until its end.
func follow(ctx context.Context, c *client.ClientWithResponses, s Streams, id int64) (client.Survey, error) {
	var last client.Survey
	response, err := c.WatchSurvey(ctx, id)
	if err != nil {
		return last, failed("the service does not answer: %s", unanswered(err))
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
	_ = terminal.Printf(s.Err, "Survey %d: %d of %s read.\n", last.Id, last.Done, sentence.Count(last.Total, "repository", "repositories"))
	return last, nil
}

// traceOnServer prints the trace of a repository that a running service knows.
func traceOnServer(cmd *cobra.Command, s Streams, r remote, repository string, tool *catalogue.Tool, c *catalogue.Catalogue) error {
	api, err := r.open()
	if err != nil {
		return err
	}
	name, folder := splitRepository(repository)
	p := client.GetRepositoryParams{Folder: &folder, Tool: &tool.Name}
	if p.AsOf, err = givenDay(cmd); err != nil {
		return err
	}
	got, err := api.GetRepositoryWithResponse(cmd.Context(), name, &p)
	if err := answered(err, got, http.StatusOK); err != nil {
		return err
	}
	at, found, err := detailOf(*got.JSON200, folder, tool)
	if err != nil {
		return err
	}
	t, err := recast[report.Trace](found)
	if err != nil {
		return err
	}
	t.Repository, t.Folder = name, at
	gaps, err := recast[[]unseen.Gap](got.JSON200.Unseen)
	if err != nil {
		return err
	}
	t.Unseen = unseen.For(gaps, at, tool.Name)
	return writeTrace(s, t, c, r.output)
}

// detailOf finds the tool in the folder or in the nearest folder above that speaks of it.
func detailOf(r client.RepositoryDetail, folder string, tool *catalogue.Tool) (string, client.ToolDetail, error) {
	for at := folder; ; at = claim.Above(at) {
		for _, f := range r.Folders {
			for _, t := range f.Tools {
				if f.Path == at && t.Tool == tool.Name {
					return at, t, nil
				}
			}
		}
		if at == "" {
			break
		}
	}
	var has, folders []string
	for _, f := range r.Folders {
		for _, t := range f.Tools {
			has = append(has, strings.TrimSuffix(t.Tool+" in "+f.Path, " in "))
			if t.Tool == tool.Name {
				folders = append(folders, r.Name+":"+f.Path)
			}
		}
	}
	return "", client.ToolDetail{}, saysNothing(r.Name, tool, has, folders)
}
