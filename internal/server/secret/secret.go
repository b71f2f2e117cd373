// Package secret masks secrets in texts by the rules of a library that many keep, beside those of
// Wexo's own: it knows how the makers of hundreds of services mark their tokens.
package secret

import (
	"strings"
	"sync"

	"github.com/rs/zerolog"
	"github.com/zricethezav/gitleaks/v8/detect"
	"github.com/zricethezav/gitleaks/v8/logging"
)

// masked stands for a secret.
const masked = "•••"

// detector is made when the first text is masked: it takes a tenth of a second.
var detector = sync.OnceValues(func() (*detect.Detector, error) {
	logging.Logger = zerolog.Nop() // it would write of what it finds
	return detect.NewDetectorDefaultConfig()
})

var turn sync.Mutex // the library is for one text at a time

// Mask is a text without the secrets that the library's rules find, and nothing of it where
// they cannot be asked.
func Mask(text string) string {
	d, err := detector()
	if err != nil {
		return ""
	}
	turn.Lock()
	defer turn.Unlock()
	for _, found := range d.DetectString(text) {
		if found.Secret != "" {
			text = strings.ReplaceAll(text, found.Secret, masked)
		}
	}
	return text
}
