package assess

// Standing is where a finding counts. Every number that is shown is made of it, so that no two
// places count differently.
type Standing int

// The standings.
const (
	Open      Standing = iota // of a repository: in every count
	Apart                     // in folders of test data, examples or vendored code: only told apart
	OfMachine                 // of machines themselves, or of the configuration: counted, and of no repository
)

// Standing is where the finding counts.
func (f *Finding) Standing() Standing {
	switch {
	case f.Apart:
		return Apart
	case f.Repository == nil || f.Repository.Name == "":
		return OfMachine
	}
	return Open
}

// Tally counts findings. The zero value has counted none.
type Tally struct {
	Counted    int // but for those that stand apart
	Apart      int
	ByClass    map[*Class]int
	BySeverity map[Severity]int
}

// Add counts a finding.
func (t *Tally) Add(f *Finding) {
	if f.Standing() == Apart {
		t.Apart++
		return
	}
	if t.ByClass == nil {
		t.ByClass, t.BySeverity = map[*Class]int{}, map[Severity]int{}
	}
	t.Counted++
	t.ByClass[f.Class]++
	t.BySeverity[f.Severity]++
}

// TallyOf counts a list.
func TallyOf(list []*Finding) Tally {
	var t Tally
	for _, f := range list {
		t.Add(f)
	}
	return t
}
