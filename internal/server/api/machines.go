package api

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"wexo/internal/core/inventory"
)

// ListMachines lists the machines.
func (s *Server) ListMachines(ctx context.Context, _ ListMachinesRequestObject) (ListMachinesResponseObject, error) {
	all, err := s.Store.Inventories(ctx)
	if err != nil {
		return nil, err
	}
	out := MachineList{Machines: []MachineSummary{}}
	for _, inv := range all {
		out.Machines = append(out.Machines, summary(inv))
	}
	return ListMachines200JSONResponse(out), nil
}

func summary(inv inventory.Inventory) MachineSummary {
	m := inv.Machine
	return MachineSummary{Name: m.Name, Os: m.OS, Arch: m.Arch, Kind: m.Kind, TakenAt: inv.TakenAt, Installations: len(inv.Installations)}
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
		bound, err := s.Store.BindToken(ctx, who.token.ID, inv.Machine.Name)
		if err != nil {
			return nil, err
		}
		if bound == "" {
			return nil, problem(http.StatusForbidden, "Another collector's token speaks for "+inv.Machine.Name+"; remove that token first.")
		}
		if bound != inv.Machine.Name {
			return nil, problem(http.StatusForbidden, "This token speaks for "+bound+", and not for "+inv.Machine.Name+".")
		}
	}
	if err := s.Store.SaveInventory(ctx, inv, now); err != nil {
		return nil, err
	}
	return SendInventory200JSONResponse(summary(inv)), nil
}

// RemoveMachine forgets a machine.
func (s *Server) RemoveMachine(ctx context.Context, r RemoveMachineRequestObject) (RemoveMachineResponseObject, error) {
	if err := s.Store.RemoveMachine(ctx, r.Name); err != nil {
		return nil, named(err, "machine", r.Name)
	}
	return RemoveMachine204Response{}, nil
}

// GetMachine gives a machine's newest inventory.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	inv, err := s.Store.Inventory(ctx, r.Name)
	if err != nil {
		return nil, named(err, "machine", r.Name)
	}
	return GetMachine200JSONResponse(inventoryOf(inv)), nil
}
