package claim

import (
	"context"
	"errors"
)

// budget is what reading one repository may still cost. Every reader spends from it as it
// goes, so a limit holds inside a file too, wherever the work is done. A nil budget is
// endless: it belongs to texts that nobody hostile wrote.
type budget struct {
	ctx       context.Context
	all, file int64 // steps left
	unasked   int64 // steps since ctx was asked last
	over      error // why nothing more of the repository is read
}

func newBudget(ctx context.Context) *budget {
	return &budget{ctx: ctx, all: allSteps, file: fileSteps}
}

// overspent is thrown where a budget runs out, from however deep inside a library; the
// reader of the file, or of the tree, catches it.
type overspent struct{ err error }

var (
	errFileSteps = errors.New("it takes more work than one file may")
	errAllSteps  = errors.New("reading it takes more work than one repository may")
)

// askEvery is after how many steps the context is asked whether to go on.
const askEvery = 100_000

// spend takes steps from the budget. It does not return where none are left.
func (b *budget) spend(steps int) {
	if b == nil {
		return
	}
	b.file -= int64(steps)
	b.all -= int64(steps)
	if b.unasked += int64(steps); b.unasked >= askEvery {
		b.unasked = 0
		if b.ctx.Err() != nil {
			b.over = context.Cause(b.ctx)
		}
	}
	if b.all < 0 && b.over == nil {
		b.over = errAllSteps
	}
	if b.over != nil {
		panic(overspent{b.over})
	}
	if b.file < 0 {
		panic(overspent{errFileSteps})
	}
}

// ended tells whether nothing more is to be read.
func (b *budget) ended() bool {
	if b.over == nil && b.ctx.Err() != nil {
		b.over = context.Cause(b.ctx)
	}
	return b.over != nil
}

// within runs do with a fresh budget for one file, and gives what of it ran out.
func (b *budget) within(do func()) (err error) {
	b.file = fileSteps
	defer func() {
		b.file = fileSteps
		if thrown := recover(); thrown != nil {
			spent, ok := thrown.(overspent)
			if !ok {
				panic(thrown)
			}
			err = spent.err
		}
	}()
	do()
	return nil
}
