package console_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/server/store"
)

func TestSigningIn(t *testing.T) {
	b := open(t)
	b.go_("/matrix?q=fern")
	b.sees("h1", "Sign in")
	b.accessible("sign in")
	b.do(chromedp.SendKeys(chromedp.CSS("#token"), "wexo_guess"+kb.Enter))
	b.sees("[role=alert]", "The token is unknown")
	_, secret, err := b.service.Store.CreateToken(t.Context(), "moss", "reader", "", b.service.Clock())
	require.NoError(t, err)
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("#token").select()`))
	b.press(secret, kb.Enter)
	b.sees("h1", "Matrix")
	assert.Equal(t, "/matrix?q=fern", b.path(), "where one wanted to go")
	tokens, err := b.service.Store.Tokens(t.Context())
	require.NoError(t, err)
	require.NoError(t, b.service.Store.DeleteToken(t.Context(), tokens[0].ID))
	b.click("nav a", "Overview")
	b.sees("h1", "Sign in")
	code, err := b.service.Store.CreateCode(t.Context(), 0, "fern", "lead", b.service.Clock().Add(time.Hour))
	require.NoError(t, err)
	b.go_("/sign-in?code=" + code)
	b.sees("h1", "Overview")
	b.click("button", "Sign out")
	b.sees("h1", "Sign in")
	b.go_("/")
	b.sees("h1", "Sign in")
}

func TestOverviewLeadsToWhatItCounts(t *testing.T) {
	b := signedIn(t)
	b.sees("main p", "in 16 of 33 repositories; 16 are sound")
	for _, says := range []string{"Toolchain missing", "End of life", "Node.js 22", "30 Apr 2027", "kiosk-image", "stale: 45 days ago", "What to do first", "All 29 causes", "Surveyed 16 Nov 2026, "} {
		b.sees("main", says)
	}
	errors := value[string](b, `[...document.querySelectorAll("main p a")].find(a => a.innerText.includes("errors")).innerText`)
	b.click("main p a", "errors")
	b.sees("h1", "Findings")
	b.sees("[role=status]", strings.TrimSuffix(errors, " errors")+" findings match")
	b.go_("/")
	b.click("th a", "End of life")
	b.sees("main h3", "Python: end of life")
	assert.Equal(t, "/findings?class=end-of-life&each=1", b.path())
	b.sees("main", "Support for Python 3.9 ended on 31 Oct 2025")
	b.click("main h3 a", "herbarium-scan")
	b.sees("h1", "herbarium-scan")
}

func TestMatrixByKeyboard(t *testing.T) {
	b := signedIn(t)
	b.go_("/matrix")
	b.sees("[role=grid]", "bee-counter")
	b.do(chromedp.Focus(chromedp.CSS(`[data-at="true"]`)))
	focused := `document.activeElement.closest("[role=row]").querySelector("[role=rowheader]").innerText.split("\n")[0] + "/" + (document.activeElement.ariaColIndex - 1)`
	steps := []struct{ key, at string }{
		{kb.ArrowDown, "bulb-shop/0"}, {kb.ArrowRight, "bulb-shop/1"}, {kb.ArrowUp, "bee-counter/1"},
		{kb.End, "bee-counter/9"}, {kb.ArrowDown, "bulb-shop/9"}, {kb.ArrowDown, "compost-ledger/9"}, {kb.ArrowDown, "fern-database/9"},
	}
	for _, s := range steps {
		b.press(s.key)
		b.until("focus at "+s.at, focused+` === "`+s.at+`"`)
	}
	b.press(kb.Enter)
	b.sees("h1", "fern-database")
	b.sees("main", "which leads to no Python")
	b.press(kb.Escape)
	b.sees("h1", "Matrix")
	b.until("focus on the cell it came from", focused+` === "fern-database/9"`)
	b.press(kb.End)
	b.do(chromedp.KeyEvent(kb.End, chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	b.until("the last row is reached through virtual rows", focused+` === "wood-archive/9"`)
}

func TestFiltersLiveInTheURL(t *testing.T) {
	b := signedIn(t)
	b.go_("/matrix")
	b.click("button[aria-pressed]", "Missing 5")
	b.sees("[role=status]", "5 of 33 repositories")
	assert.Equal(t, "/matrix?class=toolchain-missing", b.path())
	// The key as the page gets it: a synthetic one would also be typed into the box it moves to.
	b.do(chromedp.Evaluate[chromedp.Void](`document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "/", bubbles: true, cancelable: true}))`))
	b.until("the search box has the focus", `document.activeElement.type === "search"`)
	b.press("p", "l", "a", "n", "t")
	b.until("rows are filtered", `document.querySelectorAll("[role=rowheader]").length === 1`)
	b.sees("[role=rowheader]", "plant-labels")
	b.do(chromedp.Reload())
	b.sees("[role=rowheader]", "plant-labels")
	b.until("the filter is still there", `document.querySelectorAll("[role=rowheader]").length === 1`)
	b.click("button", "show all")
	b.sees("[role=status]", "33 repositories, 9 tools")
	b.go_("/matrix?q=nothing-like-this")
	b.sees("h2", "No repository matches")
}

// TestWhatIsReadIsExplained: where a claim's text comes from, and how to settle a file.
func TestWhatIsReadIsExplained(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/gift-shop?tool=node")
	for _, says := range []string{"one value of matrix.node", "written in Dockerfile:1 as NODE", "till-printer 3.1.4 demands ^20.19.0 || >=22.12.0 (line 13)"} {
		b.sees("main table", says)
	}
	b.accessible("claims with notes")
	b.go_("/repositories/glasshouse-sensors")
	b.sees("main section", "One place looks like a tool beside a version, and no claim was made of it. No verdict rests on it.")
	for _, says := range []string{"pypy-3.11", ".github/workflows/test.yml:7:38", "pypy is no vendor or build of Python that the catalogue knows"} {
		b.sees("main section:last-of-type td", says)
	}
	b.accessible("what was not understood")
	b.go_("/repositories/gift-shop")
	b.sees("main", "Claims")
	b.until("no section where all is understood", `!document.body.innerText.includes("Not understood")`)
	b.go_("/findings?class=file-unclaimed&each=1")
	b.sees("main code", "leave-out: - .zig-version")
	b.accessible("a finding with configuration")
}

func TestLenses(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/specimen-web")
	b.sees("h3", "Node.js: support ending")
	b.go_("/repositories/specimen-web?asOf=2027-05-01")
	b.sees("h3", "Node.js: end of life")
	b.asOf("As it will be on", "1 May 2027")
	b.click("header button", "back to today")
	b.sees("h3", "Node.js: support ending")

	b.go_("/matrix")
	b.click("header button", "Seen from")
	b.click("label", "orchid-desk")
	b.press(kb.Escape)
	b.sees("header button", "orchid-desk")
	b.until("the machine is in the URL", `location.search === "?machine=orchid-desk"`)
	b.sees("[role=grid]", "21.0.8")
	b.click("nav a", "Overview")
	b.until("the lens holds for every page", `location.pathname === "/" && location.search === "?machine=orchid-desk"`)
}

func TestRepositoryShowsWhatIsBehindAVerdict(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/weather-mast?machine=potting-bench")
	b.sees("h1", "weather-mast")
	for _, says := range []string{".python-version:1:1", ".vscode/settings.json:4:37", ">=3.12.0 <3.13.0", "by the pin: Python 3.12.7 runs", "none adopted", "a proxy: it passes the call on",
		"The editor runs Python 3.8.18", "Point .vscode/settings.json:4 at"} {
		b.sees("main", says)
	}
	label := value[string](b, `document.querySelector("figure svg").getAttribute("aria-label")`)
	assert.Contains(t, label, "pin 3.12 from .python-version line 1")
	assert.Contains(t, label, "3.12.7 on 1, chosen")
	assert.Contains(t, label, "The editor runs 3.8.18")
	b.go_("/repositories/garden-common")
	b.sees("main", "These cannot hold together: 24 (.toolchain:3:8) and ^22.12.0 (newsletter/package.json:6:14)")
	b.click("nav button", "Go gate-counter/")
	b.sees("main h2", "Go in gate-counter/")
	b.go_("/repositories/no-such")
	b.sees("[role=alert]", "No repository is called no-such.")
}

func TestSurveyFromTheConsole(t *testing.T) {
	b := signedIn(t)
	b.click("button", "Survey now")
	b.until("a second survey of the day is recorded", `fetch("/api/surveys").then(r => r.json()).then(s => { window.done = s.surveys[0].id === 4 && s.surveys[0].state === "finished" }) && window.done`)
	b.sees("button", "Survey now")
}

// TestSilenceIsNotSoundness: a repository without findings of which it is not known what
// runs is not counted among the sound ones.
func TestSilenceIsNotSoundness(t *testing.T) {
	b := signedIn(t)
	said := fact.Reading{Reading: claim.Reading{Claims: []claim.Claim{{Tool: "node", Role: claim.Pin, Raw: "ref:main", Reading: "kept", Dialect: "plain", File: ".pins", Line: 1, Column: 6}}}}
	content, err := json.Marshal(said)
	require.NoError(t, err)
	require.NoError(t, b.service.Store.AddRepository(t.Context(), store.Repository{Name: "orchard", Path: "/orchard", Kind: "plain"}))
	require.NoError(t, b.service.Store.SaveReadings(t.Context(), []store.Reading{store.Reading{Repository: "orchard", Path: "/orchard"}.Saying(content, b.service.Clock())}))
	b.service.Store.Changed()
	b.go_("/")
	b.sees("main p", "in 16 of 34 repositories; 16 are sound, and of 1 it cannot be told.")
	b.accessible("overview with what cannot be told")
	b.click("main p a:last-of-type", "1")
	b.sees("h1", "Matrix")
	b.sees("main", "1 of 34 repositories")
	b.sees("[role=grid]", "not all can be told")
	list, err := b.service.Store.Repositories(t.Context())
	require.NoError(t, err)
	for _, r := range list {
		if r.Name != "orchard" {
			require.NoError(t, b.service.Store.RemoveRepository(t.Context(), r.Name))
		}
	}
	machines, err := b.service.Store.Inventories(t.Context())
	require.NoError(t, err)
	for _, m := range machines { // of one machine that has nothing to spare
		if m.Machine.Name != "kiosk-image" {
			require.NoError(t, b.service.Store.RemoveMachine(t.Context(), m.Machine.Name))
			continue
		}
		m.Installations = slices.DeleteFunc(m.Installations, func(in inventory.Installation) bool { return in.Tool != "node" })
		m.TakenAt = m.TakenAt.Add(time.Hour)
		require.NoError(t, b.service.Store.SaveInventory(t.Context(), m, m.TakenAt))
	}
	b.go_("/findings")
	b.sees("main", "wexo.yaml: 3 entries match nothing")
	b.sees("main", "1 cause")
	b.go_("/")
	b.sees("main", "and of 1 it cannot be told")
}

// TestEmptyAndFailing: a service without anything says what to do; a failing call says why.
func TestEmptyAndFailing(t *testing.T) {
	b := signedIn(t)
	list, err := b.service.Store.Repositories(t.Context())
	require.NoError(t, err)
	for _, r := range list {
		require.NoError(t, b.service.Store.RemoveRepository(t.Context(), r.Name))
	}
	b.go_("/")
	b.sees("main", "No repository has been read yet")
	b.sees("main", "wexo repositories add PATH")
	b.accessible("empty overview")
	b.go_("/matrix")
	b.sees("main", "No repository has been read yet")
	b.go_("/findings")
	b.sees("main", "No repository has been read yet")
	b.accessible("empty findings")
	b.go_("/matrix?machine=nobody")
	b.sees("[role=alert]", `no machine is called "nobody"`)
	b.accessible("failure")
}

func TestFindingsAreFiltered(t *testing.T) {
	b := signedIn(t)
	b.go_("/findings?each=1")
	total := `document.querySelectorAll("main li h3").length`
	b.until("all findings are listed", total+` === 33`)
	b.click("button[aria-pressed]", "Missing 5")
	b.until("only missing toolchains are listed", total+` === 5`)
	b.click("button[aria-pressed]", "End of life 1")
	b.until("and those out of support", total+` === 6`)
	assert.Equal(t, "/findings?each=1&class=toolchain-missing&class=end-of-life", b.path())
	b.do(chromedp.Focus(chromedp.CSS("input[type=search]")))
	b.press("java")
	b.until("and only of Java", total+` === 1`)
	b.sees("main h3", "Java: toolchain missing")
	b.click("button", "show all")
	b.until("all are listed again", total+` === 33`)
	b.go_("/findings?each=1&age=7")
	b.until("what is new this week", total+` === 2`)
	b.sees("[role=status]", "first seen within 7 days")
	for _, says := range []string{"tour-planner", "specimen-web"} {
		b.sees("main h3", says)
	}
}

func TestThemeIsKept(t *testing.T) {
	b := signedIn(t)
	theme := `document.documentElement.dataset.theme`
	for _, choice := range []string{"dark", "light"} {
		b.until("the theme can be chosen", `(() => { const s = document.querySelector("nav select"); const set = Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set; set.call(s, "`+choice+`"); s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
		b.until("the theme changes at once", theme+` === "`+choice+`"`)
		b.do(chromedp.Reload())
		b.sees("h1", "Overview")
		assert.Equal(t, choice, value[string](b, theme), "and is kept")
	}
	assert.NotEqual(t, value[string](b, `getComputedStyle(document.body).backgroundColor`), "rgba(0, 0, 0, 0)")
}

func TestNobodyIsShutOut(t *testing.T) {
	b := signedIn(t)
	for _, theme := range []string{"Light", "Dark"} {
		b.do(chromedp.SetValue(chromedp.CSS("nav select"), strings.ToLower(theme)))
		b.do(chromedp.Evaluate[chromedp.Void](`localStorage.setItem("wexo-theme", "` + strings.ToLower(theme) + `")`))
		for path, shows := range map[string]string{
			"/": "Support ending in the next", "/matrix": "bee-counter", "/matrix?q=nothing-like-this": "No repository matches",
			"/findings": "29 causes", "/findings?each=1": "first seen", "/findings?apart=1": "counts apart", "/repositories/seed-ledger": "cannot hold together", "/repositories/garden-common?asOf=2027-06-01": "newsletter", "/no-such-page": "no such page",
		} {
			b.go_(path)
			b.sees("main", shows)
			b.accessible(theme + " " + path)
		}
		assert.Equal(t, strings.ToLower(theme), value[string](b, `document.documentElement.dataset.theme`))
	}
}

// TestCausesLeadToTheirFindings: the first screen says what to do first, and each cause is one step
// from its findings.
func TestCausesLeadToTheirFindings(t *testing.T) {
	b := signedIn(t)
	b.sees("main h3", "Node.js 24.11.1: asked for by plant-labels, missing on every machine")
	b.click("main a", "All 29 causes")
	b.sees("[role=status]", "29 causes")
	b.sees("main h3", "Python 3.9: out of support since 31 Oct 2025, in use in herbarium-scan, and missing on 3 machines")
	b.click("button[aria-pressed]", "Missing 5")
	b.sees("[role=status]", "5 causes match")
	b.click("button", "show all")
	b.until("no filter is left", `[...document.querySelectorAll("[role=status]")].some(e => e.innerText.trim() === "29 causes")`)
	b.click("main h3 a", "Python 3.9: out of support")
	b.sees("[role=status]", "2 findings match, of one cause")
	b.sees("main h3", "Python: end of life")
	b.sees("main h3", "Python: toolchain missing")
	b.sees("main li", "Moving to a supported line, as said under end of life, mends this too.")
	b.click("button", "Causes")
	b.sees("[role=status]", "29 causes")
	b.go_("/")
	b.click("main a", "3 findings")
	b.sees("[role=status]", "3 findings match, in folders that count apart")
	b.sees("main h3", "moss-index/examples/old-herbals")
}

// TestAgesCountWhatTheyLeadTo: every number of the table of ages is that of the list behind it.
func TestAgesCountWhatTheyLeadTo(t *testing.T) {
	b := signedIn(t)
	b.sees("main", "Columns: how long ago")
	var links [][2]string
	require.NoError(t, json.Unmarshal([]byte(value[string](b, `JSON.stringify([...document.querySelectorAll("main table td a")].map(a => [a.innerText, a.pathname + a.search]))`)), &links))
	require.Greater(t, len(links), 20)
	for _, l := range links {
		path := strings.Replace(strings.Replace(l[1], "/findings?", "/api/findings?", 1), "&each=1", "", 1)
		b.do(chromedp.Evaluate[chromedp.Void](`window.total = undefined; fetch("` + path + `").then(r => r.json()).then(l => { window.total = l.total })`))
		b.until(l[1]+" has "+l[0], `window.total === `+l[0])
	}
}

// TestAllToolsTogether: what cannot hold together is drawn, with the chain and what would hold
// in words beside it; where all can hold it says so.
func TestAllToolsTogether(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/meadow-app?tool=gradle")
	b.sees("main h2", "All tools of the root folder together")
	b.sees("main ol", "Android plug-in 8.3 needs Gradle >=8.4")
	b.sees("main ul", "Gradle 8.5 in gradle/wrapper/gradle-wrapper.properties:1 instead of 8.2")
	drawn := value[string](b, `document.querySelector("main svg[role=img][aria-label*='rules between them']").getAttribute("aria-label")`)
	assert.Regexp(t, `^4 tools and components with \d rules between them, [1-9] of them broken$`, drawn)
	b.sees("main h3", "Gradle: tools incompatible")
	b.accessible("what cannot hold together")
	b.go_("/repositories/kiosk-menu")
	b.sees("main ol", "the baseline The kiosks' image")
	b.sees("main h3", "Node.js: companion missing")
	b.go_("/repositories/seed-clock?tool=java")
	b.sees("main", "All that is said here can hold together.")
	b.accessible("what can hold together")
}

// TestReflow: at 320 pixels no page is wider than the screen, nothing is lost, and nobody is
// shut out; only the matrix moves sideways, within itself.
func TestReflow(t *testing.T) {
	b := signedIn(t)
	b.do(chromedp.EmulateViewport(320, 700))
	for path, shows := range map[string]string{
		"/": "Support ending in the next", "/matrix": "bee-counter", "/findings": "29 causes", "/findings?each=1": "first seen",
		"/repositories/seed-ledger": "cannot hold together", "/repositories/meadow-app": "cannot hold together", "/repositories/gift-shop?tool=node": "one value of matrix.node", "/?asOf=2027-06-01": "back to today",
	} {
		b.go_(path)
		b.sees("body", shows)
		b.until(path+" fits", `document.documentElement.scrollWidth <= 320`)
		for _, link := range []string{"Overview", "Matrix", "Findings"} {
			b.sees("nav a", link)
		}
		b.sees("nav button", "Sign out")
		wide := value[string](b, `JSON.stringify([...document.querySelectorAll("main *")].filter(e => !e.closest("[role=grid]") && !e.closest("svg") && e.getBoundingClientRect().right > 321 && e.innerText).map(e => e.outerHTML.slice(0, 200)))`)
		assert.Equal(t, "[]", wide, path)
		b.accessible("320 pixels " + path)
	}
}

// TestColumnsAreChosen: tools are chosen, pinned and narrowed, and the URL keeps it.
func TestColumnsAreChosen(t *testing.T) {
	b := signedIn(t)
	b.go_("/matrix")
	b.sees("[role=columnheader]", "Gradle")
	b.click("button", "Columns all")
	b.sees("label", "Narrow columns")
	b.click("li label", "Gradle")
	b.sees("button", "Columns 8 of 9")
	b.click("li button", "pin Python")
	b.sees("button", "Columns 8 of 9, 1 pinned")
	b.click("label", "Narrow columns")
	b.press(kb.Escape)
	b.sees("button", "Columns 8 of 9, 1 pinned, narrow")
	b.until("Gradle is gone", `![...document.querySelectorAll("[role=columnheader]")].some(h => h.innerText.includes("Gradle"))`)
	b.until("Python comes first", `[...document.querySelectorAll("[role=columnheader]")].find(h => h.ariaColIndex === "2").innerText.includes("Python")`)
	b.do(chromedp.Reload())
	b.sees("button", "Columns 8 of 9, 1 pinned, narrow")
	b.accessible("chosen columns")
}

// TestLookingAheadAgesNobody: what is seen as of a later day is not stale by that.
func TestLookingAheadAgesNobody(t *testing.T) {
	b := signedIn(t)
	b.go_("/?asOf=2027-06-01")
	b.asOf("As it will be on", "1 Jun 2027")
	b.sees("main li", "potting-bench laptop today")
	b.sees("main li", "stale: 45 days ago")
	b.click("header button", "back to today")
	b.asOf("As of", "16 Nov 2026")
}

// TestOneRepositoryDrownsNobody: what to do first stands on top, and of hundreds of folders
// those with findings are shown.
func TestOneRepositoryDrownsNobody(t *testing.T) {
	b := signedIn(t)
	b.go_("/repositories/volunteer-rota")
	b.sees("main h2", "What to do first")
	b.click("main h3 a", "Node.js: used, and nothing pins its version")
	b.sees("[role=status]", "1 finding matches, in volunteer-rota, of one cause")

	said := fact.Reading{}
	for n := range 300 {
		folder := fmt.Sprintf("beds/%03d", n)
		said.Claims = append(said.Claims, claim.Claim{Tool: "python", Role: claim.Pin, Raw: "3.12", Dialect: "plain", Folder: folder, File: folder + "/.python-version", Line: 1, Column: 1})
	}
	said.Claims[250].Raw = "3.8"
	content, err := json.Marshal(said)
	require.NoError(t, err)
	require.NoError(t, b.service.Store.AddRepository(t.Context(), store.Repository{Name: "orchard", Path: "/orchard", Kind: "plain"}))
	require.NoError(t, b.service.Store.SaveReadings(t.Context(), []store.Reading{store.Reading{Repository: "orchard", Path: "/orchard"}.Saying(content, b.service.Clock())}))
	b.service.Store.Changed()
	b.go_("/repositories/orchard")
	b.sees("nav[aria-label='Folders and tools'] button[aria-current]", "beds/250/")
	b.until("two dozen are shown", `document.querySelectorAll("nav[aria-label='Folders and tools'] button").length === 25`)
	b.accessible("a repository of many folders")
	b.click("button", "All 300 folders and tools")
	b.until("all are shown", `document.querySelectorAll("nav[aria-label='Folders and tools'] button").length === 301`)
}

// TestManyToolsByKeyboard: columns that are not drawn are reached, and pinned ones stay.
func TestManyToolsByKeyboard(t *testing.T) {
	b := signedIn(t)
	said := fact.Reading{}
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	for n, tool := range c.Tools() {
		said.Claims = append(said.Claims, claim.Claim{Tool: tool.Name, Role: claim.Pin, Raw: "9", Dialect: "plain", File: ".pins", Line: n + 1, Column: 1})
	}
	content, err := json.Marshal(said)
	require.NoError(t, err)
	require.NoError(t, b.service.Store.AddRepository(t.Context(), store.Repository{Name: "arboretum", Path: "/arboretum", Kind: "plain"}))
	require.NoError(t, b.service.Store.SaveReadings(t.Context(), []store.Reading{store.Reading{Repository: "arboretum", Path: "/arboretum"}.Saying(content, b.service.Clock())}))
	b.service.Store.Changed()
	b.go_("/matrix?pin=zig&pin=python")
	b.sees("[role=status]", fmt.Sprintf("34 repositories, %d tools", len(c.Tools())))
	b.sees("[role=rowheader]", "arboretum")
	b.do(chromedp.Focus(chromedp.CSS(`[data-at="true"]`)))
	column := `document.activeElement.ariaColIndex`
	last := fmt.Sprint(len(c.Tools()) + 1)
	b.press(kb.End)
	b.until("the last tool", column+` === "`+last+`"`)
	b.until("which is in view", `(r => r.left >= 0 && r.right <= innerWidth + 1)(document.activeElement.getBoundingClientRect())`)
	b.until("not all columns are drawn", `document.querySelectorAll("[role=columnheader]").length < `+last)
	b.until("the pinned one still is", `[...document.querySelectorAll("[role=columnheader]")].some(h => h.innerText.includes("Python") && h.getBoundingClientRect().left < 450)`)
	for n := range len(c.Tools()) {
		b.press(kb.ArrowLeft)
		b.until("one to the left", fmt.Sprintf(`%s === "%d"`, column, len(c.Tools())-n))
	}
	b.accessible("many tools")
}
