package api

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPagesOfTheConsole(t *testing.T) {
	for path, want := range map[string]bool{
		"/": true, "/matrix": true, "/findings": true, "/repositories/ferns": true, "/repositories/a/shop": true, "/machines": true, "/machines/bench": true, "/compare": true, "/words": true, "/sign-in": true,
		"/metrics": false, "/openapi.yaml": false, "/matrix/": false, "/matrix/x": false, "/repositories": false, "/repositories/": false, "/x": false, "//": false, "": false, "/Matrix": false,
	} {
		assert.Equal(t, want, isPage(path), path)
	}
}

// TestCompressed: what gets no smaller is sent as it is.
func TestCompressed(t *testing.T) {
	assert.Nil(t, compressed([]byte("abc")))
	small := compressed(make([]byte, 10_000))
	assert.NotEmpty(t, small)
	assert.Less(t, len(small), 1_000)
}
