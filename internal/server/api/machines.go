package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"time"

	openapi_types "github.com/oapi-codegen/runtime/types"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
	"wexo/internal/core/remedy"
	"wexo/internal/report"
	"wexo/internal/server/store"
	"wexo/internal/server/view"
)

// ListMachines lists the machines and their groups.
func (s *Server) ListMachines(ctx context.Context, _ ListMachinesRequestObject) (ListMachinesResponseObject, error) {
	v, err := s.view(ctx, nil, nil)
	if err != nil {
		return nil, err
	}
	machines, groups := v.Standings(s.Views.Estate.Policy)
	out := MachineList{Machines: []MachineSummary{}, Groups: []Group{}}
	stale := map[string]bool{}
	for _, m := range machines {
		one := s.standing(m)
		stale[one.Name] = one.Stale
		out.Machines = append(out.Machines, one)
	}
	for _, g := range groups {
		one := Group{Tag: g.Tag, Title: g.Title, Machines: g.Machines, Repositories: g.Repositories, Ready: g.Ready}
		for _, name := range g.Machines {
			if stale[name] {
				one.Stale++
			}
		}
		out.Groups = append(out.Groups, one)
	}
	return ListMachines200JSONResponse(out), nil
}

// summary is what an inventory alone tells of a machine.
func (s *Server) summary(inv inventory.Inventory) MachineSummary {
	m, due := inv.Machine, s.Views.Estate.Due(inv)
	out := MachineSummary{Name: m.Name, Os: m.OS, Arch: m.Arch, Kind: m.Kind, Parent: m.Parent, Tags: s.Views.Estate.Policy.TagsOf(m.Name), TakenAt: inv.TakenAt, Due: due,
		Stale: s.Views.Estate.Late(inv), Installations: len(inv.Installations)}
	if out.Tags == nil {
		out.Tags = []string{}
	}
	return out
}

// standing is a machine with how it stands.
func (s *Server) standing(m view.Standing) MachineSummary {
	out := s.summary(m.Inventory)
	out.Broken, out.Repositories, out.Ready = m.Broken, m.Repositories, m.Ready
	return out
}

// ahead is how far a machine's clock may be before the service's.
const ahead = 5 * time.Minute

// SendInventory stores a machine's inventory. A collector speaks for one machine.
func (s *Server) SendInventory(ctx context.Context, _ SendInventoryRequestObject) (SendInventoryResponseObject, error) {
	inv, now := sentInventory(ctx), s.Now()
	switch {
	case inv.TakenAt.IsZero():
		inv.TakenAt = now
	case inv.TakenAt.After(now.Add(ahead)):
		return nil, problem(http.StatusUnprocessableEntity, fmt.Sprintf("The field takenAt lies in the future: it is %s, and here it is %s. Set the machine's clock.",
			inv.TakenAt.UTC().Format(time.RFC3339), now.UTC().Format(time.RFC3339)))
	}
	if who := callerOf(ctx); who.role == string(Collector) {
		if who.token.ID == 0 {
			return nil, problem(http.StatusForbidden, "A collector sends inventories with its token, not with a session.")
		}
		bound := who.token.Machine
		if bound == "" {
			var err error
			if bound, err = s.Store.BindToken(ctx, who.token.ID, inv.Machine.Name); err != nil {
				return nil, err
			}
		}
		if bound == "" {
			return nil, problem(http.StatusForbidden, "Somebody else has sent "+inv.Machine.Name+", or another collector's token speaks for it; make a token that is bound to it: wexo tokens add NAME --role collector --machine "+inv.Machine.Name+".")
		}
		if bound != inv.Machine.Name {
			return nil, problem(http.StatusForbidden, "This token speaks for "+bound+", and not for "+inv.Machine.Name+".")
		}
	}
	if err := s.Store.SaveInventory(ctx, inv, now); err != nil {
		return nil, err
	}
	return SendInventory200JSONResponse(s.summary(inv)), nil
}

// RemoveMachine forgets a machine.
func (s *Server) RemoveMachine(ctx context.Context, r RemoveMachineRequestObject) (RemoveMachineResponseObject, error) {
	if err := s.Store.RemoveMachine(ctx, r.Name); err != nil {
		return nil, s.missing(ctx, err, "machine", r.Name)
	}
	return RemoveMachine204Response{}, nil
}

// GetMachine gives a machine's newest inventory.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	inv, err := s.Store.Inventory(ctx, r.Name)
	if err != nil {
		return nil, s.missing(ctx, err, "machine", r.Name)
	}
	out, err := inventoryOf(inv)
	return GetMachine200JSONResponse(out), err
}

// inventoryOf puts an inventory into the contract's form, which is the same.
func inventoryOf(inv inventory.Inventory) (Inventory, error) {
	var out Inventory
	data, err := json.Marshal(inv)
	if err == nil {
		err = json.Unmarshal(data, &out)
	}
	return out, err
}

// machineIn finds a machine in a view.
func machineIn(v *view.View, name string) (int, error) {
	for i, m := range v.Judgement.Fleet.Machines {
		if m.Name() == name {
			return i, nil
		}
	}
	return 0, unfound("machine", name, v.Teller.Machines)
}

// GetMachineDetail tells of a machine whom its installations serve.
func (s *Server) GetMachineDetail(ctx context.Context, r GetMachineDetailRequestObject) (GetMachineDetailResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, nil)
	if err != nil {
		return nil, err
	}
	at, err := machineIn(v, r.Name)
	if err != nil {
		return nil, err
	}
	machines, _ := v.Standings(s.Views.Estate.Policy)
	inv := v.Judgement.Fleet.Machines[at].Inventory
	out := MachineDetail{AsOf: v.Day.Format(time.DateOnly), Machine: s.standing(machines[at]), Serving: []Serving{}, Notes: report.Lagging(inv, s.Catalogue), Findings: []Finding{}}
	if out.Notes == nil {
		out.Notes = []string{}
	}
	if out.Inventory, err = inventoryOf(inv); err != nil {
		return nil, err
	}
	for _, one := range v.Serving() {
		if one.Machine != at {
			continue
		}
		names := []string{}
		for _, p := range one.Repositories {
			names = append(names, p.Name)
		}
		out.Serving = append(out.Serving, Serving{Tool: one.Tool.Name, Title: one.Tool.Title, Version: one.Version, Path: one.Path, Repositories: names, Held: one.Held})
	}
	var own []*assess.Finding
	for _, f := range v.Machinery() {
		if f.Machines.Has(at) {
			own = append(own, f)
		}
	}
	out.Findings = findings(v, own)
	return GetMachineDetail200JSONResponse(out), nil
}

// GetMachineNeeds tells what to install on a machine, and what could go.
func (s *Server) GetMachineNeeds(ctx context.Context, r GetMachineNeedsRequestObject) (GetMachineNeedsResponseObject, error) {
	v, err := s.view(ctx, r.Params.AsOf, nil)
	if err != nil {
		return nil, err
	}
	at, err := machineIn(v, r.Name)
	if err != nil {
		return nil, err
	}
	wanted := value(r.Params.Repository)
	var results []*assess.Result
	var reads []report.Read
	for _, read := range v.Reads {
		if len(wanted) == 0 || slices.Contains(wanted, read.Name) {
			results, reads = append(results, read.Result), append(reads, read)
		}
	}
	for _, name := range wanted {
		if _, known := v.Of(name); !known {
			return nil, named(store.ErrNotFound, "repository", name)
		}
	}
	found, err := remedy.Of(ctx, v.Needing(results, at))
	if err != nil {
		return nil, err
	}
	needs := report.NewNeeds(found, r.Name, v.Day)
	needs.Taken, needs.Unseen = report.TakenOf(reads), report.UnseenOn(reads, at)
	var out Needs
	data, err := json.Marshal(needs)
	if err == nil {
		err = json.Unmarshal(data, &out)
	}
	return GetMachineNeeds200JSONResponse(out), err
}

// GetMachineChanges tells what came to a machine, went and changed.
func (s *Server) GetMachineChanges(ctx context.Context, r GetMachineChangesRequestObject) (GetMachineChangesResponseObject, error) {
	now, err := s.Store.Inventory(ctx, r.Name)
	if err != nil {
		return nil, s.missing(ctx, err, "machine", r.Name)
	}
	kept, err := s.Store.Kept(ctx, r.Name)
	if err != nil {
		return nil, err
	}
	out := MachineChanges{Machine: r.Name, To: now.TakenAt.UTC().Format(time.RFC3339), Came: []Change{}, Went: []Change{}, Changed: []Change{}, Kept: kept}
	before, found, err := s.earlier(ctx, r.Name, r.Params.Since, kept)
	if err != nil || !found {
		return GetMachineChanges200JSONResponse(out), err
	}
	out.From = before.TakenAt.UTC().Format(time.RFC3339)
	for _, c := range inventory.Changes(before, now) {
		one := Change{What: ChangeWhat(c.What), Tool: c.Tool, Title: s.Catalogue.Title(c.Tool), Path: c.Path, Before: c.Before, Now: c.Now}
		switch {
		case c.Came():
			out.Came = append(out.Came, one)
		case c.Went():
			out.Went = append(out.Went, one)
		default:
			out.Changed = append(out.Changed, one)
		}
	}
	return GetMachineChanges200JSONResponse(out), nil
}

// earlier is what a machine had at the end of a day, or before its newest inventory.
func (s *Server) earlier(ctx context.Context, name string, since *openapi_types.Date, kept []string) (inv inventory.Inventory, found bool, err error) {
	var at time.Time
	switch {
	case since != nil:
		at = since.AddDate(0, 0, 1).Add(-time.Second)
	case len(kept) > 1:
		if at, err = time.Parse(time.RFC3339, kept[1]); err != nil {
			return inv, false, err
		}
	default:
		return inv, false, nil
	}
	inv, err = s.Store.InventoryAt(ctx, name, at)
	if errors.Is(err, store.ErrNotFound) {
		return inv, false, nil
	}
	return inv, err == nil, err
}
