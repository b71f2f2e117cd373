package server

import (
	"context"
	"errors"
	"time"

	"wexo/internal/server/survey"
)

// lookAtMost is how long the schedule waits before it looks again whether a survey is due.
const lookAtMost = time.Minute

// keepSurveying starts a survey whenever the last one began as long ago as is asked for,
// whoever started it, until ctx ends. What it missed while the service was stopped is one
// survey, at once.
func (s *Service) keepSurveying(ctx context.Context, every time.Duration) {
	tick := time.NewTicker(min(every, lookAtMost))
	defer tick.Stop()
	for {
		if err := s.surveyIfDue(ctx, every); err != nil && ctx.Err() == nil {
			s.log.Warn("the survey that is due did not start", "reason", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

func (s *Service) surveyIfDue(ctx context.Context, every time.Duration) error {
	last, err := s.Store.Surveys(ctx, 1)
	if err != nil {
		return err
	}
	if len(last) > 0 {
		began, err := time.Parse(time.RFC3339, last[0].StartedAt)
		since := s.Clock().Sub(began)
		if err == nil && since >= 0 && since < every { // one that begins later than now was begun by another clock
			return nil
		}
	}
	if _, err := s.Jobs.Start(ctx, s.day()); !errors.Is(err, survey.ErrRunning) {
		return err
	}
	return nil
}
