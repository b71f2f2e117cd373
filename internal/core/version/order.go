package version

import "sort"

// Order is versions of one scheme, sorted, in which sets find theirs without looking at each. It
// is never changed after it is made.
type Order struct {
	all    []Version // class by class, each sorted
	blocks [classes][2]int
}

// NewOrder sorts versions of one scheme. Where several spell the same, one of them stays.
func NewOrder(list []Version) *Order {
	o := &Order{}
	for c := range class(classes) {
		begin := len(o.all)
		for _, v := range list {
			if v.class == c && !v.IsZero() {
				o.all = append(o.all, v)
			}
		}
		block := o.all[begin:]
		sort.SliceStable(block, func(i, j int) bool { return block[i].Compare(block[j]) < 0 })
		kept := begin
		for i := begin; i < len(o.all); i++ {
			if kept == begin || o.all[i].Compare(o.all[kept-1]) != 0 {
				o.all[kept] = o.all[i]
				kept++
			}
		}
		o.all = o.all[:kept]
		o.blocks[c] = [2]int{begin, kept}
	}
	return o
}

// Len is how many versions there are.
func (o *Order) Len() int { return len(o.all) }

// At is the version at a place.
func (o *Order) At(i int) Version { return o.all[i] }

// Runs are the places of the versions that a set contains: from each first number up to, and not
// with, each second one.
func (o *Order) Runs(s Set) [][2]int {
	var out [][2]int
	for c, block := range o.blocks {
		part := o.all[block[0]:block[1]]
		if len(part) == 0 || part[0].scheme != s.scheme {
			continue
		}
		for _, i := range s.list(class(c)) {
			from := sort.Search(len(part), func(n int) bool { return i.From.below(part[n].key) })
			to := sort.Search(len(part), func(n int) bool { return i.To.below(part[n].key) })
			if from < to {
				out = append(out, [2]int{block[0] + from, block[0] + to})
			}
		}
	}
	return out
}
