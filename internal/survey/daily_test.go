//go:build !race

package survey_test

// step is how many days lie between the days that are looked at.
const step = 1
