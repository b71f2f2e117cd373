//go:build !unix

package repo

const noWait = 0

func isNoFolder(error) bool { return false }
