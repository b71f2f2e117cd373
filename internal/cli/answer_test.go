package cli_test

import (
	"bufio"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
)

// TestAnswersToLines: each line gets its answer, whatever its form; a bad one an error
// that says what is wrong.
func TestAnswersToLines(t *testing.T) {
	for _, c := range []struct{ line, want string }{
		{`{"dialect":"npm","range":"^1","version":"1.2.3"}`, `{"satisfies":true}`},
		{`{"version":"1.2.3", "range" : "^2",  "dialect":"npm" }`, `{"satisfies":false}`},
		{`{"dialect":"npm","range":"^1\u002e2","version":"1.2.3"}`, `{"satisfies":true}`},
		{`{"dialect":"npm","range":">=1","version":"1.2.3","asked":"by hand"}`, `{"satisfies":true}`},
		{`{"dialect":"maven","range":"[1,2)","version":"2-alpha"}`, `{"satisfies":true}`},
		{`{"dialect":"hex","range":"~> 1.14","version":"1.15.0"}`, `{"satisfies":true}`},
		{`{"dialect":"npm","range":"^^1","version":"1.2.3"}`, `"^^1\" is not a range in the dialect npm`},
		{`{"dialect":"npm","range":"^1","version":"1.2"}`, `it has fewer than three numbers`},
		{`{"dialect":"latin","range":"I","version":"I"}`, `unknown dialect`},
		{`{"dialect":"npm","range":7,"version":"1"}`, `\"range\" is not a string`},
		{`{"dialect":"npm","range":"1"`, `the line is no JSON object`},
		{`nonsense`, `the line is no JSON object`},
		{`{"dialect":"npm","range":"1","version":"ü"}`, `a number is missing`},
	} {
		_, out, _ := wexoReading(t, c.line+"\n", "satisfies", "--stdin")
		assert.Contains(t, out, c.want, c.line)
		assert.Equal(t, 1, strings.Count(out, "\n"), c.line)
	}
	for _, c := range []struct{ line, want string }{
		{`{"scheme":"debian","a":"1.0~rc1","b":"1.0"}`, `{"order":-1}`},
		{`{"scheme":"erlang","a":"26.2.5.10","b":"26.2.5.3"}`, `{"order":1}`},
		{`{"scheme":"numeric","a":"1.0","b":"1"}`, `{"order":0}`},
		{`{"scheme":"roman","a":"I","b":"V"}`, `unknown scheme`},
		{`{"scheme":"java","a":"x","b":"17"}`, `is not a java version`},
	} {
		_, out, _ := wexoReading(t, c.line, "order", "--stdin")
		assert.Contains(t, out, c.want, c.line)
	}
}

// TestAnswersKeepTheirOrder: many lines, worked through in parallel, are answered in order.
func TestAnswersKeepTheirOrder(t *testing.T) {
	var in, want strings.Builder
	for n := range 30_000 {
		fmt.Fprintf(&in, `{"dialect":"npm","range":"^%d","version":"%d.0.0"}`+"\n", n%100, n%7)
		fmt.Fprintf(&want, `{"satisfies":%t}`+"\n", n%100 == n%7)
	}
	_, out, _ := wexoReading(t, in.String(), "satisfies", "--stdin")
	assert.True(t, out == want.String(), "the answers are those of the lines, in order")
}

// TestAnswersComeAtOnce: a caller that waits for an answer before it asks on gets it.
func TestAnswersComeAtOnce(t *testing.T) {
	questions, ask := io.Pipe()
	answers, answer := io.Pipe()
	status := make(chan int)
	go func() {
		status <- cli.Run([]string{"order", "--stdin"}, cli.Streams{In: questions, Out: answer, Err: io.Discard})
	}()
	read := bufio.NewReader(answers)
	for _, c := range [][2]string{{`{"scheme":"go","a":"1.21","b":"1.21rc1"}`, `{"order":-1}`}, {`{"scheme":"go","a":"1.22","b":"1.9"}`, `{"order":1}`}} {
		_, err := io.WriteString(ask, c[0]+"\n")
		require.NoError(t, err)
		line, err := read.ReadString('\n')
		require.NoError(t, err)
		assert.Equal(t, c[1]+"\n", line)
	}
	require.NoError(t, ask.Close())
	assert.Equal(t, 0, <-status)
}

// TestLinesTooLong: a line without an end is refused before it fills the memory.
func TestLinesTooLong(t *testing.T) {
	status, _, problem := wexoReading(t, strings.Repeat("x", 3<<20), "order", "--stdin")
	assert.Equal(t, 3, status)
	assert.Contains(t, problem, "a line is longer than")
}

// TestWhyNot: --why tells of each version that is not in the range why.
func TestWhyNot(t *testing.T) {
	status, out, why := wexo(t, "satisfies", "npm", "^18.17 || >=20.9 <23", "18.16.1", "19.0.0", "20.11.1", "22.0.0-rc.1", "23.0.0", "--why")
	assert.Equal(t, 0, status)
	assert.Equal(t, "20.11.1\n", out)
	assert.Equal(t, strings.Join([]string{
		"18.16.1 is below the lower bound 18.17.0.",
		"19.0.0 is in the gap from 19.0.0 to below 20.9.0.",
		"22.0.0-rc.1 is a prerelease, and the range admits none of its number.",
		"23.0.0 is not below the upper bound 23.0.0.", ""}, "\n"), why)

	status, out, why = wexo(t, "satisfies", "--scheme", "java", "image-tag", "17-jdk-jammy", "17.0.9+9", "21", "--why")
	assert.Equal(t, 0, status)
	assert.Equal(t, "17.0.9+9\n", out)
	assert.Equal(t, "21 is not below the upper bound 18.\n", why)

	for _, args := range [][]string{{"satisfies", "--scheme", "roman", "plain", "1", "1"}, {"satisfies", "--scheme", "java", "npm", "1", "1"}, {"satisfies", "npm", "^1", "1.2"}} {
		status, _, _ = wexo(t, args...)
		assert.Equal(t, 2, status, args)
	}
}
