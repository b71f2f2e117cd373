// Command attack breaks Wexo on purpose: repositories that anybody could have written,
// machines that lie, callers without permission, a process that is killed, a disk that is
// full. It runs the real binary, each attack bounded in time, and ends with a table of what
// was tried and what held. Its short form runs with the tests.
package main

import (
	"context"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

func main() {
	wexo := flag.String("wexo", "bin/wexo", "the binary to attack")
	short := flag.Bool("short", false, "fewer rounds of each attack")
	keep := flag.Bool("keep", false, "leave what was made, to look at")
	seed := flag.Uint64("seed", 1, "of everything that is drawn at random")
	only := flag.String("only", "", "the attacks whose name contains this")
	flag.Parse()
	held, err := run(context.Background(), options{*wexo, *short, *keep, *seed, *only}, os.Stdout)
	if err != nil {
		log.Fatal(err)
	}
	if !held {
		os.Exit(1)
	}
}

type options struct {
	wexo  string
	short bool
	keep  bool
	seed  uint64
	only  string
}

// arena is where attacks take place.
type arena struct {
	options
	dir   string
	mu    sync.Mutex // of the rest: some attacks try several things at a time
	notes []string   // what did not hold, or could not be tried
	tried int
	lost  int // of the tried ones
}

// check counts one try.
func (a *arena) check(held bool, format string, args ...any) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.tried++; !held {
		a.lost++
		if len(a.notes) < 20 {
			a.notes = append(a.notes, fmt.Sprintf(format, args...))
		}
	}
}

// note says something of an attack that is no failure.
func (a *arena) note(format string, args ...any) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.notes = append(a.notes, fmt.Sprintf(format, args...))
}

// rounds is how often something is tried.
func (a *arena) rounds(long, short int) int {
	if a.short {
		return short
	}
	return long
}

// attacks are all of them, each with the longest that it may take.
var attacks = []struct {
	name  string
	limit time.Duration
	run   func(context.Context, *arena) error
}{
	{"hostile repositories, surveyed together", 10 * time.Minute, hostileEstate},
	{"ways out of the roots", 2 * time.Minute, waysOut},
	{"a gate over what cannot be read", 2 * time.Minute, gates},
	{"outputs that are full or closed", 2 * time.Minute, outputs},
	{"every call by everybody", 3 * time.Minute, accessMatrix},
	{"bodies and inventories, mutated", 5 * time.Minute, bodies},
	{"many machines that send beside others that lie", 5 * time.Minute, sending},
	{"requests of other pages and hosts", time.Minute, otherPages},
	{"killed in the middle of a survey", 5 * time.Minute, killLoop},
	{"a second service on the data", time.Minute, secondService},
	{"a data file that others lock", time.Minute, lockedData},
	{"a full disk", 2 * time.Minute, fullDisk},
	{"a stranger's tree in a home", 20 * time.Minute, strangers},
	{"a stranger's tree on a machine and in an image", 3 * time.Minute, strangersRoots},
	{"secrets beside claims", 3 * time.Minute, neighbours},
	{"secrets in real files", 3 * time.Minute, realNeighbours},
	{"repositories that silence what is found in them", 2 * time.Minute, silencing},
	{"machines, bodies and paths of others", time.Minute, takingOver},
	{"other names of the data file", time.Minute, names},
	{"who asks and does not read", 3 * time.Minute, slowReaders},
	{"images that are traps", 3 * time.Minute, traps},
	{"thousands of folders", 5 * time.Minute, manyFolders},
}

func run(ctx context.Context, o options, out io.Writer) (held bool, err error) {
	if o.wexo, err = filepath.Abs(o.wexo); err != nil {
		return false, err
	}
	held = true
	fmt.Fprintln(out, "| attack | tried | held | took |\n| --- | ---: | ---: | ---: |")
	var notes []string
	for _, attack := range attacks {
		if !strings.Contains(attack.name, o.only) {
			continue
		}
		dir, err := os.MkdirTemp("", "wexo-attack-")
		if err == nil {
			dir, err = filepath.EvalSymlinks(dir) // as the system names it
		}
		if err != nil {
			return false, err
		}
		a := &arena{options: o, dir: dir}
		began := time.Now()
		limited, cancel := context.WithTimeout(ctx, attack.limit)
		err = attack.run(limited, a)
		cancel()
		if err != nil {
			a.check(false, "%v", err)
		}
		held = held && a.lost == 0
		fmt.Fprintf(out, "| %s | %d | %d | %.1f s |\n", attack.name, a.tried, a.tried-a.lost, time.Since(began).Seconds())
		for _, n := range a.notes {
			notes = append(notes, attack.name+": "+n)
		}
		if o.keep {
			notes = append(notes, attack.name+": "+dir)
		} else if err := os.RemoveAll(dir); err != nil {
			return false, err
		}
	}
	if len(notes) > 0 {
		fmt.Fprintf(out, "\n- %s\n", strings.Join(notes, "\n- "))
	}
	return held, nil
}
