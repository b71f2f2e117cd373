//go:build race

package survey_test

// step is how many days lie between the days that are looked at: with the race detector,
// which makes it five times as slow, it is seven. `make test` runs it without as well.
const step = 7
