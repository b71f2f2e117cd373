// Package pipeline reads what pipelines and containers set up: files of steps, jobs, stages and
// services, of any host. Names are looked up in scopes (the workflow, a job, a step, a matrix,
// a container's stage) here and nowhere else.
package pipeline
