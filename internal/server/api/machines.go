package api

import (
	"context"
	"encoding/json"
	"net/http"

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

// SendInventory stores a machine's inventory.
func (s *Server) SendInventory(ctx context.Context, r SendInventoryRequestObject) (SendInventoryResponseObject, error) {
	data, err := json.Marshal(r.Body)
	if err != nil {
		return nil, err
	}
	inv, err := inventory.Parse(data)
	if err != nil {
		return nil, problem(http.StatusUnprocessableEntity, "The inventory cannot be taken: "+err.Error()+".")
	}
	if inv.TakenAt.IsZero() {
		inv.TakenAt = s.Now()
	}
	if err := s.Store.SaveInventory(ctx, inv, s.Now()); err != nil {
		return nil, err
	}
	return SendInventory200JSONResponse(summary(inv)), nil
}

// GetMachine gives a machine's newest inventory.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	inv, err := s.Store.Inventory(ctx, r.Name)
	if err != nil {
		return nil, named(err, "machine", r.Name)
	}
	return GetMachine200JSONResponse(inv), nil
}
