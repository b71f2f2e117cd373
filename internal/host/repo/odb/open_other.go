//go:build !unix

package odb

const noWait = 0
