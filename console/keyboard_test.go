package console_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/server/store"
)

// widths are those of a desk, of half a desk or a tablet, and of a page that is magnified four
// times.
var widths = []int64{1280, 640, 320}

// at sets the window's width and calls do; nothing may be cut off afterwards, and nobody shut out.
func (b *browser) atEachWidth(page string, do func(width int64)) {
	b.t.Helper()
	for _, width := range widths {
		b.do(chromedp.EmulateViewport(width, 800))
		do(width)
		b.until(fmt.Sprintf("%s fits into %d pixels", page, width), `document.documentElement.scrollWidth <= innerWidth`)
		b.accessible(fmt.Sprintf("%s at %d pixels", page, width))
	}
}

const focusedText = `document.activeElement.innerText.replace(/\s+/g, " ").trim()`

// TestEveryPageHasATitleAndTakesTheFocus: who navigates by keys is at the page's heading.
func TestEveryPageHasATitleAndTakesTheFocus(t *testing.T) {
	b := signedIn(t)
	b.atEachWidth("words", func(int64) {
		for _, page := range []string{"Matrix", "Findings", "Machines", "Overview", "Words"} {
			b.enter("nav a", page)
			b.sees("h1", page)
			b.until("the focus is on the heading of "+page, `document.activeElement.tagName === "H1" && document.activeElement.innerText === "`+page+`"`)
			b.until("the title of "+page, `document.title === "`+page+` · Wexo"`)
		}
	})
	b.go_("/findings?each=1")
	b.enter("main h3 a", "plant-labels")
	b.until("a repository's title", `document.title === "plant-labels · Wexo" && document.activeElement.tagName === "H1"`)
	b.enter("nav a", "Machines")
	b.enter("main table a", "seed-agent")
	b.until("a machine's title", `document.title === "seed-agent · Wexo" && document.activeElement.tagName === "H1"`)
	b.go_("/no-such-page")
	b.until("a page that is none", `document.title === "This did not work · Wexo"`)
}

// TestGoingBack undoes filters and lenses one by one, and brings back where one was.
func TestGoingBack(t *testing.T) {
	b := signedIn(t)
	b.go_("/findings?each=1")
	b.enter("fieldset button", "error")
	b.until("errors alone", `location.search === "?each=1&severity=error"`)
	b.enter("fieldset button[aria-pressed]", "Missing 5")
	b.until("missing ones alone", `location.search.includes("class=toolchain-missing")`)
	b.back()
	b.until("errors again", `location.search === "?each=1&severity=error"`)
	b.back()
	b.until("all again", `location.search === "?each=1"`)
	b.sees("[role=status]", "33 findings")
	b.until("the focus stays where it was", focusedText+`.startsWith("Missing") || `+focusedText+`.startsWith("error")`)

	b.do(chromedp.EmulateViewport(1280, 500))
	last := `[...document.querySelectorAll("main h3 a")].at(-1)`
	b.until("the last one has the focus", `(e => (e.focus(), e.scrollIntoView(), document.activeElement === e))(`+last+`)`)
	name := value[string](b, focusedText)
	top := value[float64](b, `document.querySelector("main").scrollTop`)
	assert.Greater(t, top, 500.0)
	b.until("where it was is noted", `new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => { window.noted = true; done() }))) && window.noted`)
	b.press(kb.Enter)
	b.until("the repository's heading", `document.activeElement.tagName === "H1" && location.pathname.startsWith("/repositories/")`)
	assert.Zero(t, value[float64](b, `document.querySelector("main").scrollTop`), "a new page begins at its top")
	b.back()
	b.until("back at "+name, focusedText+` === `+fmt.Sprintf("%q", name))
	b.until("and as far down as before", fmt.Sprintf(`Math.abs(document.querySelector("main").scrollTop - %f) < 2`, top))

	b.enter("nav a", "Matrix")
	b.sees("[role=grid]", "bee-counter")
	b.do(chromedp.Focus(chromedp.CSS("input[type=search]")))
	b.press("s", "e", "e", "d")
	b.until("four letters are typed", `location.search === "?q=seed"`)
	b.back()
	b.until("they were one step", `location.search === "" && document.querySelector("input[type=search]").value === ""`)
}

// TestADayIsTyped, and applied when one is done with it.
func TestADayIsTyped(t *testing.T) {
	b := signedIn(t)
	b.atEachWidth("a day that is none", func(int64) {
		b.go_("/repositories/specimen-web")
		b.sees("h3", "Node.js: support ending")
		b.asOf("As of", "16 Nov 2026")
		b.do(chromedp.Focus(chromedp.CSS("header label input")))
		for _, key := range "2027-05-01" {
			b.press(string(key))
			assert.Equal(t, "/repositories/specimen-web", b.path(), "no letter is applied by itself")
		}
		b.until("what is typed can be seen", `(e => e.value === "2027-05-01" && getComputedStyle(e).opacity === "1")(document.activeElement)`)
		b.press(kb.Enter)
		b.sees("h3", "Node.js: end of life")
		b.asOf("As it will be on", "1 May 2027")
		b.until("the focus stays", `document.activeElement.matches("header label input")`)
		b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`))
		b.press("1", " ", "D", "e", "c", " ", "2026", kb.Tab)
		b.asOf("As it will be on", "1 Dec 2026")
		b.do(chromedp.Focus(chromedp.CSS("header label input")))
		b.press("3", "1", ".", "2", ".", "2027", kb.Enter)
		b.sees("header [role=alert]", "Write a day such as 2027-05-01")
		assert.Equal(t, "/repositories/specimen-web?asOf=2026-12-01", b.path())
	})
	b.press(kb.Escape)
	b.asOf("As it will be on", "1 Dec 2026")
}

// TestSeenFromByKeyboard: Enter opens it, Space chooses, Escape leaves it.
func TestSeenFromByKeyboard(t *testing.T) {
	b := signedIn(t)
	b.atEachWidth("machines to choose from", func(int64) {
		b.go_("/matrix")
		b.enter("header button", "Seen from All 4 machines")
		b.sees("label", "orchid-desk")
		b.press(kb.Tab, kb.Tab, " ")
		b.until("a machine is chosen", `location.search === "?machine=orchid-desk"`)
		b.sees("header button", "Seen from orchid-desk")
		b.accessibleIn("header", "machines to choose from")
		b.press(kb.Escape)
		b.until("the focus is back on the button", focusedText+`.startsWith("Seen from")`)
	})
	machines, err := b.service.Store.Inventories(t.Context())
	require.NoError(t, err)
	for _, m := range machines {
		require.NoError(t, b.service.Store.RemoveMachine(t.Context(), m.Machine.Name))
	}
	b.service.Store.Changed()
	b.go_("/matrix")
	b.enter("header button", "Seen from no machine yet")
	b.sees("body", "No machine has sent its inventory yet. On each: wexo machines send")
	b.accessible("no machine")
	b.go_("/repositories/plant-labels?tool=node")
	b.sees("main", "No machine has sent its inventory")
	b.until("that nothing is known is not called sound", `!document.querySelector("main").innerText.includes("Nothing is wrong")`)
}

// TestTheServerGoesAway and comes back: what is on the page stays, one line says since when,
// and nobody has to do anything.
func TestTheServerGoesAway(t *testing.T) {
	b := signedIn(t)
	b.enter("nav a", "Matrix")
	b.sees("[role=grid]", "bee-counter")
	b.stop()
	b.enter("nav a", "Findings")
	b.sees("[role=status]", "The service has not answered since")
	b.sees("main", "The service does not answer. The causes will be read as soon as it does.")
	b.atEachWidth("a service that is away", func(int64) {
		b.enter("nav a", "Matrix")
		b.sees("[role=grid]", "bee-counter")
		b.sees("[role=status]", "The service has not answered since")
	})
	b.until("no words of a library", `!/failed to fetch|networkerror|undefined/i.test(document.body.innerText)`)
	b.do(chromedp.EmulateViewport(1280, 800))
	b.enter("nav a", "Findings")
	b.startAgain()
	b.sees("main [role=status]", "29 causes")
	b.until("the line is gone", `!document.body.innerText.includes("has not answered")`)
	b.sees("h1", "Findings")
}

// TestASessionThatEndsSaysSo, and one goes on where one was.
func TestASessionThatEndsSaysSo(t *testing.T) {
	b := signedIn(t)
	b.enter("nav a", "Findings")
	b.sees("h1", "Findings")
	sessions, err := b.service.Store.Sessions(t.Context(), b.service.Clock())
	require.NoError(t, err)
	require.NoError(t, b.service.Store.DeleteSession(t.Context(), sessions[0].ID))
	b.enter("fieldset button", "error")
	b.sees("[role=status]", "Your session has ended. Sign in again to go on where you were.")
	b.accessible("an ended session")
	_, secret, err := b.service.Store.CreateToken(t.Context(), "moss", "lead", "", b.service.Clock())
	require.NoError(t, err)
	b.do(chromedp.SendKeys(chromedp.CSS("#token"), secret+kb.Enter))
	b.sees("h1", "Findings")
	assert.Equal(t, "/findings?severity=error", b.path())
}

// TestAUsedLinkGoesOn for who is signed in, and is told to others.
func TestAUsedLinkGoesOn(t *testing.T) {
	b := open(t)
	code, err := b.service.Store.CreateCode(t.Context(), 0, "fern", "lead", b.service.Clock().Add(time.Hour))
	require.NoError(t, err)
	for range 2 {
		b.go_("/sign-in?code=" + code)
		b.sees("h1", "Overview")
	}
	b.enter("nav button", "Sign out")
	b.sees("h1", "Sign in")
	b.go_("/sign-in?code=" + code)
	b.sees("[role=alert]", "the one-time link was used or has expired")
}

// TestRoles: who may see nothing is told so at the door, and nobody sees a button that would
// be refused.
func TestRoles(t *testing.T) {
	b := open(t)
	_, collector, err := b.service.Store.CreateToken(t.Context(), "agent", "collector", "", b.service.Clock())
	require.NoError(t, err)
	_, reader, err := b.service.Store.CreateToken(t.Context(), "moss", "reader", "", b.service.Clock())
	require.NoError(t, err)
	b.go_("/")
	b.sees("main", "a collector’s only sends inventories and may see nothing")
	b.do(chromedp.SendKeys(chromedp.CSS("#token"), collector+kb.Enter))
	b.sees("[role=alert]", "This is a collector's token: it sends inventories and may see nothing.")
	sessions, err := b.service.Store.Sessions(t.Context(), b.service.Clock())
	require.NoError(t, err)
	assert.Empty(t, sessions, "no session is left behind")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("#token").select()`))
	b.press(reader, kb.Enter)
	b.sees("h1", "Overview")
	b.sees("main [role=status]", "Surveyed 16 Nov 2026")
	b.until("a reader surveys nothing", `![...document.querySelectorAll("button")].some(b => b.innerText.includes("Survey now"))`)
}

// TestASurveyTellsWhatItChanged: how far it is, what came of it and when; the focus stays.
func TestASurveyTellsWhatItChanged(t *testing.T) {
	b := signedInToItsOwn(t)
	b.enter("main button", "Survey now")
	b.until("a survey more", `fetch("/api/surveys").then(r => r.json()).then(s => { window.done = s.surveys[0].id === 4 && s.surveys[0].state === "finished" }) && window.done`)
	b.sees("main [role=status]", ": nothing changed")
	b.until("the focus is where it was", focusedText+` === "Survey now"`)
	git := func(args ...string) {
		c := exec.Command("git", append([]string{"-C", filepath.Join(b.repositories, "plant-labels"), "-c", "user.name=fern", "-c", "user.email=fern@trust.invalid"}, args...)...)
		out, err := c.CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	require.NoError(t, os.WriteFile(filepath.Join(b.repositories, "plant-labels", ".node-version"), []byte("22.23.3\n"), 0o644))
	git("commit", "-qam", "Node.js that is there")
	b.press(kb.Enter)
	b.sees("main [role=status]", "1 finding opened, 1 closed")
	b.until("with the time of day", `/Surveyed \d+ Nov 2026, \d\d:\d\d: /.test([...document.querySelectorAll("main [role=status]")].map(e => e.innerText).join())`)
	b.accessible("after a survey")
}

// TestTheMatrixByKeys: from the search into the grid, to the headings, and what is shown is what
// is counted.
func TestTheMatrixByKeys(t *testing.T) {
	b := signedIn(t)
	column := `document.activeElement.closest("[aria-colindex]")?.ariaColIndex`
	b.atEachWidth("the matrix, found by a word", func(int64) {
		b.go_("/matrix")
		b.sees("[role=grid]", "bee-counter")
		b.do(chromedp.Focus(chromedp.CSS("input[type=search]")))
		b.press("s", "e", "e", "d", "-")
		b.sees("[role=status]", "2 of 33 repositories, 3 tools")
		b.until("chips count what is shown", `[...document.querySelectorAll("button[aria-pressed] b")].reduce((n, e) => n + Number(e.innerText), 0) >= document.querySelectorAll("[role=rowheader]").length && ![...document.querySelectorAll("button[aria-pressed] b")].some(e => Number(e.innerText) > 6)`)
		b.press(kb.ArrowDown)
		b.until("the arrow leads into the grid", `document.activeElement.role === "rowheader" && document.activeElement.innerText.startsWith("seed-clock")`)
		b.press(kb.ArrowUp, kb.ArrowRight)
		b.until("and up to the headings", column+` === "2" && document.activeElement.tagName === "A"`)
	})
	b.do(chromedp.EmulateViewport(1280, 800))
	b.go_("/matrix")
	b.sees("[role=grid]", "bee-counter")
	b.do(chromedp.Focus(chromedp.CSS(`[data-at="true"]`)))
	for range 3 {
		b.press(kb.ArrowRight)
	}
	pinned := value[string](b, `document.querySelector("[role=columnheader][aria-colindex='4'] a").innerText.trim()`)
	b.until("the fourth column", column+` === "4"`)
	b.press("p")
	b.until("it is pinned, and one stays on it", `location.search.includes("pin=") && `+column+` === "2"`)
	b.until("it comes first", `document.querySelector("[role=columnheader][aria-colindex='2']").innerText.includes("`+pinned+`")`)
	b.press("p")
	b.until("and it is let go", `!location.search.includes("pin=") && document.activeElement.dataset.at === "true" && `+column+` === "4"`)
	b.press(kb.ArrowUp)
	b.until("the heading above it", `document.activeElement.tagName === "A" && `+column+` === "4"`)
	b.press(kb.Enter)
	b.sees("h1", "Findings")
	b.until("a heading leads to the findings of its tool", `location.search.startsWith("?tool=") && location.search.endsWith("&each=1")`)
	b.back()
	b.sees("[role=grid]", "bee-counter")
	b.do(chromedp.Evaluate[chromedp.Void](`(s => { Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, "need"); s.dispatchEvent(new Event("change", {bubbles: true})) })(document.querySelector("main label select"))`))
	b.until("what needs most comes first", `location.search === "?sort=need" && document.querySelector("[role=rowheader]").innerText.includes("to look at")`)
	b.accessible("the matrix by need")
}

// TestFindingsByControls: every filter is a control, and what is selected can be copied.
func TestFindingsByControls(t *testing.T) {
	b := signedIn(t)
	b.do(chromedp.Evaluate[chromedp.Void](`Object.defineProperty(navigator, "clipboard", {value: {writeText: text => { window.copied = text; return Promise.resolve() }}})`))
	b.enter("nav a", "Findings")
	b.enter("main fieldset button", "Each finding")
	b.sees("[role=status]", "33 findings")
	b.until("the worst stand first", `[...document.querySelectorAll("main h3 span")].map(e => e.innerText).filter(s => /^(error|warning|note)$/.test(s)).every((s, i, all) => i === 0 || ["error", "warning", "note"].indexOf(all[i - 1]) <= ["error", "warning", "note"].indexOf(s))`)
	b.enter("main button", "Tool any")
	b.sees("label", "Node.js")
	b.until("the focus goes in", `(e => (e?.focus(), document.activeElement === e))([...document.querySelectorAll("label")].find(l => l.innerText.includes("Node.js"))?.querySelector("input"))`)
	b.press(" ", kb.Escape)
	b.until("of Node.js alone", `location.search.includes("tool=node")`)
	b.sees("main button", "Tool Node.js")
	b.enter("main button", "Repository any")
	b.sees("label", "plant-labels")
	b.until("the focus goes in", `(e => (e?.focus(), document.activeElement === e))([...document.querySelectorAll("label")].find(l => l.innerText.includes("plant-labels"))?.querySelector("input"))`)
	b.press(" ", kb.Escape)
	b.sees("[role=status]", "1 finding matches, in plant-labels, on node")
	b.press(kb.Escape)
	b.enter("main button", "Copy remedies")
	b.until("the remedy is copied", `window.copied?.startsWith("plant-labels: Install Node.js 24.11.1")`)
	b.sees("[role=status]", "1 remedy copied")
	b.enter("main button", "Copy places")
	b.until("the place is copied", `window.copied === "plant-labels/.node-version:1\n"`)
	b.enter("main button", "show all")
	b.until("two are selected", `(boxes => boxes.length > 30 && (boxes[0].checked || boxes[0].click(), boxes[1].checked || boxes[1].click(), true))(document.querySelectorAll("main li input[type=checkbox]"))`)
	b.sees("main label", "2 selected")
	b.enter("main button", "Copy remedies of 2 selected")
	b.sees("[role=status]", "2 remedies copied")
	b.atEachWidth("findings with their controls", func(int64) {
		b.go_("/findings?each=1")
		b.sees("[role=status]", "33 findings")
	})
	b.go_("/findings?each=1&tag=glasshouse")
	b.sees("main button", "Tag glasshouse")
	b.sees("[role=status]", "with the tag glasshouse")
	b.go_("/findings?tool=nod")
	b.sees("[role=alert]", `did you mean "node"?`)
}

// TestOwnRulesAreTold: what a repository's own rules take away stands on the overview and on its
// page, with the line of each rule.
func TestOwnRulesAreTold(t *testing.T) {
	b := signedIn(t)
	b.atEachWidth("a repository's own rules", func(int64) {
		b.go_("/")
		b.sees("main", "Repositories’ own rules take away 3 findings and 1 claim, in wood-archive.")
		b.go_("/repositories/wood-archive")
		b.sees("main", "Taken away by its own rules")
		b.sees("main", "leave-out old-scanner")
		b.sees("main", "3 errors, 1 claim")
		b.enter("main table button", ".wexo.yaml:2")
		b.sees("main table [role=status]", "leave-out: [old-scanner]")
	})
}

// TestAClaimOpensItsText: the line of the file as it was read, with its value and key alone, where
// the host shows it, and what each claim means.
func TestAClaimOpensItsText(t *testing.T) {
	b := signedInToItsOwn(t)
	out, err := exec.Command("git", "-C", filepath.Join(b.repositories, "gift-shop"), "remote", "add", "origin", "https://git.trust.invalid/shops/gift-shop.git").CombinedOutput()
	require.NoError(t, err, "%s", out)
	b.atEachWidth("a claim with its text", func(int64) {
		b.go_("/repositories/gift-shop?tool=node")
		b.sees("main table", "one value of matrix.node")
		b.enter("main table button", "Dockerfile:2")
		b.sees("main table [role=status]", "node:")
		b.sees("main table [role=status] button", "copy the place")
		b.until("its own line alone, in bold", `(e => e.querySelectorAll(".grid").length === 1 && e.querySelector(".font-semibold").innerText.startsWith("2"))(document.querySelector("main table [role=status]"))`)
		b.until("the button says that it is open", `document.activeElement.ariaExpanded === "true"`)
	})
	b.until("every claim says what it means", `[...document.querySelectorAll("main table tr")].filter(r => r.cells?.length === 4).every(r => r.cells[3].innerText.trim() !== "")`)
	link := value[string](b, `[...document.querySelectorAll("main table a")].find(a => a.innerText.startsWith("open")).href`)
	assert.Regexp(t, `^https://git\.trust\.invalid/shops/gift-shop/src/[0-9a-f]{40}/[^#]+#L\d+$`, link)
	b.go_("/repositories/gift-shop?tool=zig")
	b.sees("main [role=status]", "Nothing in the root folder speaks of zig")
	_, err = b.service.Store.Repositories(t.Context())
	require.NoError(t, err)
	require.NoError(t, b.service.Store.AddRepository(t.Context(), store.Repository{Name: "gone", Path: filepath.Join(b.repositories, "gone"), Kind: "git"}))
	b.do(chromedp.Evaluate[chromedp.Void](`fetch("/api/repositories/gift-shop/lines?file=package.json&line=99").then(r => r.json()).then(p => { window.refused = p.detail })`))
	b.until("other lines are nobody's business", `window.refused?.includes("only lines that a claim or a finding rests on are shown")`)
}

// TestWordsLeadToWhatTheyMean.
func TestWordsLeadToWhatTheyMean(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/gift-shop?tool=node")
	b.enter("main h2 a", "Ladder")
	b.sees("h1", "Words")
	b.until("the word has the focus", focusedText+` === "ladder"`)
	b.sees("main dd", "the ordered places a version can come from")
	b.atEachWidth("words", func(int64) {})
	b.back()
	b.sees("h1", "gift-shop")
	b.enter("main table a", "bound")
	b.until("the word has the focus", focusedText+` === "bound"`)
}
