package document

import (
	"context"
	"errors"
)

// Budget is what reading one repository may still cost. Every reader spends from it as it
// goes, so a limit holds inside a file too, wherever the work is done. A nil budget is
// endless: it belongs to texts that nobody hostile wrote.
type Budget struct {
	ctx       context.Context
	all, file int64 // steps left
	unasked   int64 // steps since ctx was asked last
	reason    error // why nothing more of the repository is read
}

// NewBudget is what reading one repository may cost; where ctx ends, so does the budget.
func NewBudget(ctx context.Context) *Budget {
	return &Budget{ctx: ctx, all: allSteps, file: fileSteps}
}

// overspent is thrown where a budget runs out, from however deep inside a library; within
// catches it.
type overspent struct{ err error }

var (
	errFileSteps = errors.New("it takes more work than one file may")
	errAllSteps  = errors.New("reading it takes more work than one repository may")
)

// What work costs, in steps.
const (
	StepCost = 4   // looking at one value
	LookCost = 100 // looking at a value that may be a version
)

// askEvery is after how many steps the context is asked whether to go on.
const askEvery = 100_000

// Spend takes steps from the budget. It does not return where none are left.
func (b *Budget) Spend(steps int) {
	if b == nil {
		return
	}
	b.file -= int64(steps)
	b.all -= int64(steps)
	if b.unasked += int64(steps); b.unasked >= askEvery {
		b.unasked = 0
		if b.ctx.Err() != nil {
			b.reason = context.Cause(b.ctx)
		}
	}
	if b.all < 0 && b.reason == nil {
		b.reason = errAllSteps
	}
	if b.reason != nil {
		panic(overspent{b.reason})
	}
	if b.file < 0 {
		panic(overspent{errFileSteps})
	}
}

// Charge takes steps from the whole that were spent outside of it, and returns: what is left
// shows when the next is spent or asked for.
func (b *Budget) Charge(steps int64) {
	if b.all -= steps; b.all < 0 && b.reason == nil {
		b.reason = errAllSteps
	}
}

// Spent reports whether all that one repository may cost is spent: it would be the next time
// too, whatever else the machine does.
func (b *Budget) Spent() bool { return errors.Is(b.reason, errAllSteps) }

// Over is why nothing more of the repository is read; nil while there is something left.
func (b *Budget) Over() error { return b.reason }

// Ended tells whether nothing more is to be read.
func (b *Budget) Ended() bool {
	if b.reason == nil && b.ctx.Err() != nil {
		b.reason = context.Cause(b.ctx)
	}
	return b.reason != nil
}

// Within runs do with a fresh budget for one file. It gives what of the budget ran out, and
// what do threw otherwise.
func (b *Budget) Within(do func()) (spent error, thrown any) {
	b.file = fileSteps
	defer func() {
		b.file = allSteps // between files only the whole counts
		thrown = recover()
		if out, ok := thrown.(overspent); ok {
			spent, thrown = out.err, nil
		}
	}()
	do()
	return nil, nil
}

// Whole runs do, a part of reading that is no single file. Nothing more is read where it
// runs out.
func (b *Budget) Whole(do func()) {
	spent, thrown := b.Within(do)
	if thrown != nil {
		panic(thrown)
	}
	if spent != nil && b.reason == nil {
		b.reason = spent
	}
}
