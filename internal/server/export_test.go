package server

// ShowAround has a service show the lines around claims.
func (s *Service) ShowAround() { s.api.Around = true }
