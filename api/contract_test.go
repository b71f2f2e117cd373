package contract_test

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	contract "wexo/api"
)

func TestOperations(t *testing.T) {
	list, err := contract.Operations()
	require.NoError(t, err)
	assert.Greater(t, len(list), 20)
	byID := map[string]contract.Operation{}
	for _, o := range list {
		byID[o.ID] = o
		assert.True(t, o.Open != (len(o.Roles) > 0), "%s is open, or names its roles", o.ID)
	}
	for _, open := range []string{"getHealth", "getReady", "createSession"} {
		assert.True(t, byID[open].Open, open)
		delete(byID, open)
	}
	for id, o := range byID {
		assert.False(t, o.Open, id)
	}
	assert.Equal(t, []string{"owner"}, byID["createToken"].Roles)
	assert.Equal(t, int64(5<<20), byID["sendInventory"].MostBytes)
	assert.Equal(t, int64(64<<10), byID["createToken"].MostBytes)
	assert.Zero(t, byID["startSurvey"].MostBytes)

	check := func(query string) string {
		values, err := url.ParseQuery(query)
		require.NoError(t, err)
		if err := byID["listFindings"].Check(values); err != nil {
			return err.Error()
		}
		return ""
	}
	for query, want := range map[string]string{
		"":                             "",
		"asOf=2026-11-16":              "",
		"severity=error&severity=note": "",
		"limit=1000&offset=0&age=0":    "",
		"asOf=":                        "the parameter asOf should be a date such as 2026-11-16, and it is \"\"",
		"asOf=2026-02-30":              "the parameter asOf should be a date such as 2026-11-16, and it is \"2026-02-30\"",
		"asOf=2026-11-16&asOf=":        "the parameter asOf is given 2 times; it may be given once",
		"severity=bad":                 "the parameter severity should be error, warning or note, and it is \"bad\"",
		"age=-1":                       "the parameter age should be a whole number not below 0, and it is \"-1\"",
		"limit=1001":                   "the parameter limit should be a whole number from 1 to 1000, and it is \"1001\"",
		"offset=99999999999999999999":  "the parameter offset should be a whole number not below 0, and it is \"99999999999999999999\"",
		"q=a%00b":                      "the parameter q should be text in UTF-8, and it is \"a\\x00b\"",
	} {
		assert.Equal(t, want, check(query), query)
	}
	assert.Contains(t, check("q="+url.QueryEscape(long(201))), "the parameter q should be at most 200 characters long")
	assert.Empty(t, check("q="+url.QueryEscape(long(200))))
}

func long(n int) string {
	out := make([]rune, n)
	for i := range out {
		out[i] = 'ä'
	}
	return string(out)
}
