package console_test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// TestMachines: how ready they are, what one has and needs, and two side by side.
func TestMachines(t *testing.T) {
	b := signedIn(t)
	b.click("nav a", "Machines")
	b.sees("h1", "Machines")
	b.sees("main", "0 of 4 machines are ready for all that matters to them.")
	b.sees("main section li", "Build agents")
	b.sees("main section li", "10 of 33")
	b.sees("main table tr", "kiosk-image container image")
	b.accessible("machines")

	b.click("main table a", "potting-bench")
	b.sees("h1", "potting-bench")
	b.sees("main", "Ready for 28 of the 33 repositories that it matters to.")
	for _, says := range []string{"Python 3.13.1", "no repository, and nothing points at it", "it is the system's own"} {
		b.sees("main table td", says)
	}
	b.sees("main section", "Node.js 26.10.0 supported until 30 Apr 2029")
	b.sees("main section", "no release is known that would do")
	b.sees("main section", "Not mended by this")
	b.sees("main section", "the pin can never meet the bound")
	b.sees("main section", "Not seen, and so what rests on it is not known")
	b.sees("main section li", "volunteer-rota package.json:4")
	b.sees("main section", "Since 9 Nov 2026")
	b.sees("main section li", "3.12.7, was 3.9.18")
	b.sees("main table th", "/home/fern/.toolshed/shims")
	b.sees("main table td", "3.12.7 by proxy")
	b.sees("main table td", "3.11.2 shadowed")
	b.sees("main section", "JetBrains IDE gives new projects Java 17.0.15+6")
	b.sees("main section h3", "Go: installation unneeded")
	b.accessible("a machine")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("section[aria-label='PATH, name by name']").focus()`))
	b.until("what scrolls sideways is reached by keys", `document.activeElement.tagName === "SECTION"`)
	b.click("main table a", "specimen-web")
	b.sees("h1", "specimen-web")

	b.go_("/machines/potting-bench")
	b.click("main a", "Compare with another")
	b.sees("h1", "Two machines")
	assert.Equal(t, "/compare?a=potting-bench", b.path())
	b.sees("main h2", "differ")
	b.do(chromedp.Focus(chromedp.CSS(`main label:nth-of-type(2) select`)))
	b.press(kb.End)
	b.until("the other one is in the address", `location.search.includes("b=seed-agent")`)
	b.sees("main table th", "seed-agent")
	b.sees("main table td", "17.0.15+6")
	b.accessible("two machines")
	b.go_("/machines/nobody")
	b.sees("[role=alert]", "No machine is called nobody")
}

// TestMachinesOnASmallScreen: nothing is cut off, and the pages stay accessible.
func TestMachinesOnASmallScreen(t *testing.T) {
	b := signedIn(t)
	for _, width := range []int64{640, 320} {
		b.do(chromedp.EmulateViewport(width, 800))
		for path, says := range map[string]string{"/machines": "All machines", "/machines/potting-bench": "What PATH runs", "/compare?a=orchid-desk&b=seed-agent": "differ"} {
			b.go_(path)
			b.sees("main h2", says)
			wide := value[string](b, `JSON.stringify([...document.querySelectorAll("main *")].filter(e => !e.closest("section[aria-label^=PATH] table") && !e.closest("thead") && !e.closest("svg") && e.getBoundingClientRect().right > innerWidth + 1 && e.innerText).map(e => e.outerHTML.slice(0, 200)))`)
			assert.Equal(t, "[]", wide, "%d pixels %s", width, path)
			b.until("nothing scrolls sideways but PATH", `document.documentElement.scrollWidth <= innerWidth`)
			b.accessible(path)
		}
	}
}

// TestFindingsOfMachines stand among the others, with the machines in place of a repository.
func TestFindingsOfMachines(t *testing.T) {
	b := signedIn(t)
	b.go_("/findings?class=default-mismatch&each=1")
	b.sees("main h3", "Node.js: default mismatch")
	b.sees("main h3", "orchid-desk, seed-agent")
	b.sees("main", "nothing there follows version files")
	b.accessible("findings of machines")
	b.go_("/findings?class=installation-unneeded")
	b.sees("main h3", "serves no repository")
}
