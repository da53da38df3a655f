package workshop

import (
	"container/list"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/singleflight"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/internal/store"
)

// keepAdvisers is how many prepared circuits are kept: jobs whose circuits
// agree in every value share one.
const keepAdvisers = 24

// Advisers is a cache of prepared circuits, the longest unused one out first, and of the
// latest opinions. It is safe for concurrent use.
type Advisers struct {
	Patience time.Duration // how long one answer may take

	mu    sync.Mutex
	order *list.List // of *entry, latest first
	byKey map[[32]byte]*list.Element

	opinions map[uuid.UUID]opinion
	thinking singleflight.Group

	// What readings that are just being entered would amount to, the latest first.
	foreseen   []foreseen
	foreseeing singleflight.Group
	looks      map[uuid.UUID]int // the latest look ahead of each job
	turn       int
}

// Forget forgets what jobs amount to: they were taken out, and others may come under their ids.
func (a *Advisers) Forget() {
	a.mu.Lock()
	defer a.mu.Unlock()
	clear(a.opinions)
	clear(a.looks)
	a.foreseen = nil
}

// keepForeseen is how many opinions on what is being entered are kept: one for whoever
// types a reading just now, and one for each answer of the question before them.
const keepForeseen = 24

type foreseen struct {
	key [32]byte
	op  *diagnose.Opinion
}

type entry struct {
	key  [32]byte
	once sync.Once
	a    *diagnose.Adviser
	err  error
}

// NewAdvisers makes an empty cache whose answers may take so long.
func NewAdvisers(patience time.Duration) *Advisers {
	return &Advisers{Patience: patience, order: list.New(), byKey: map[[32]byte]*list.Element{}, opinions: map[uuid.UUID]opinion{}, looks: map[uuid.UUID]int{}}
}

// Get returns the prepared adviser of a circuit; the error says why it cannot be reasoned on.
func (c *Advisers) Get(ci *circuit.Circuit) (*diagnose.Adviser, error) {
	e, err := c.entry(ci)
	if err != nil {
		return nil, err
	}
	return e.a, e.err
}

func (c *Advisers) entry(ci *circuit.Circuit) (*entry, error) {
	b, err := json.Marshal(ci)
	if err != nil {
		return nil, err
	}
	key := sha256.Sum256(b)
	c.mu.Lock()
	el, ok := c.byKey[key]
	if ok {
		c.order.MoveToFront(el)
	} else {
		el = c.order.PushFront(&entry{key: key})
		c.byKey[key] = el
		for c.order.Len() > keepAdvisers {
			last := c.order.Back()
			delete(c.byKey, last.Value.(*entry).key)
			c.order.Remove(last)
		}
	}
	e := el.Value.(*entry)
	c.mu.Unlock()
	e.once.Do(func() { e.a, e.err = diagnose.NewAdviser(ci) })
	return e, e.err
}

// keepOpinions is how many jobs' latest opinions are kept: looking at another
// state or typing a reading weighs nothing anew.
const keepOpinions = 64

type opinion struct {
	revision int
	op       *diagnose.Opinion
	stored   bool // its verdict is in the database
}

// Stored reports whether the verdict on a job as it stands was put into the database
// already.
func (c *Advisers) Stored(j *store.Job) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	o, ok := c.opinions[j.ID]
	return ok && o.revision == j.Revision && o.stored
}

// SetStored says that it was.
func (c *Advisers) SetStored(j *store.Job) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if o, ok := c.opinions[j.ID]; ok && o.revision == j.Revision {
		o.stored = true
		c.opinions[j.ID] = o
	}
}

// Weigh reasons about a job as it is stored, what to do next included. Two who
// ask at once share one answer.
func (c *Advisers) Weigh(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	op, err := c.Glance(ctx, j)
	if err != nil || op.Thought {
		return op, err
	}
	v, err, _ := c.thinking.Do(fmt.Sprint(j.ID, j.Revision), func() (any, error) {
		// The one who asked first may leave; the others still want it.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), c.Patience)
		defer cancel()
		return op.Think(ctx)
	})
	if err != nil {
		return nil, err
	}
	full := v.(*diagnose.Opinion)
	c.keep(j, full)
	return full, nil
}

func (c *Advisers) keep(j *store.Job, op *diagnose.Opinion) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if o, ok := c.opinions[j.ID]; ok && o.revision == j.Revision && o.op.Thought {
		return
	}
	if len(c.opinions) >= keepOpinions {
		clear(c.opinions)
	}
	o, ok := c.opinions[j.ID]
	c.opinions[j.ID] = opinion{j.Revision, op, ok && o.revision == j.Revision && o.stored}
}

// Glance is weigh without what to do next. A revision never changes, so its
// opinion may be kept.
func (c *Advisers) Glance(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	c.mu.Lock()
	o, ok := c.opinions[j.ID]
	c.mu.Unlock()
	if ok && o.revision == j.Revision {
		return o.op, nil
	}
	op, _, err := c.reason(ctx, j)
	if err != nil {
		return nil, err
	}
	c.keep(j, op)
	return op, nil
}

// reason weighs a job's evidence, or finds what came of it when it was foreseen. Two
// who want the same share one answer. The key names what the job says.
func (c *Advisers) reason(ctx context.Context, j *store.Job) (op *diagnose.Opinion, key [32]byte, err error) {
	e, err := c.entry(j.Case.Circuit)
	if err != nil {
		return nil, key, err
	}
	dj := diagnose.JobOf(j.Case)
	dj.Known.Unreachable, dj.Complaint = j.Unreachable, j.Complaint
	if key, err = sayKey(e, dj); err != nil {
		return nil, key, err
	}
	c.mu.Lock()
	i := slices.IndexFunc(c.foreseen, func(f foreseen) bool { return f.key == key })
	if i >= 0 {
		op = c.foreseen[i].op
	}
	c.mu.Unlock()
	if i >= 0 {
		return op.For(dj), key, nil
	}
	v, err, _ := c.foreseeing.Do(string(key[:]), func() (any, error) {
		// The one who asked first may leave; the others still want it.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), c.Patience)
		defer cancel()
		return e.a.Glance(ctx, dj)
	})
	if err != nil {
		return nil, key, err
	}
	return v.(*diagnose.Opinion).For(dj), key, nil
}

// Foresee weighs what a job would amount to with one more piece of evidence, while it is
// still being entered: who enters it then finds the picture ready, and, thought through,
// what to do next as well. It stores nothing.
func (c *Advisers) Foresee(ctx context.Context, j *store.Job, e casefile.Evidence, think bool) error {
	then, with := *j, *j.Case
	with.Evidence = append(slices.Clip(with.Evidence), e)
	then.Case = &with
	op, key, err := c.reason(ctx, &then)
	if err != nil {
		return err
	}
	if think {
		if op, err = op.Think(ctx); err != nil {
			return err
		}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	i := slices.IndexFunc(c.foreseen, func(f foreseen) bool { return f.key == key })
	switch {
	case i >= 0 && !c.foreseen[i].op.Thought:
		c.foreseen[i].op = op
	case i < 0:
		c.foreseen = slices.Insert(c.foreseen, 0, foreseen{key, op})
		c.foreseen = c.foreseen[:min(len(c.foreseen), keepForeseen)]
	}
	return nil
}

// Look begins a new look ahead of a job; latest says whether none has begun since.
func (c *Advisers) Look(job uuid.UUID) (latest func() bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.looks) >= keepOpinions {
		clear(c.looks)
	}
	c.turn++
	mine := c.turn
	c.looks[job] = mine
	return func() bool {
		c.mu.Lock()
		defer c.mu.Unlock()
		return c.looks[job] == mine
	}
}

// sayKey names what a job says: its circuit and all that is reasoned from, without the
// ids of its evidence and when it was entered.
func sayKey(e *entry, j *diagnose.Job) (key [32]byte, err error) {
	say := *j
	say.Evidence = slices.Clone(j.Evidence)
	for i := range say.Evidence {
		say.Evidence[i].ID, say.Evidence[i].TakenAt = "", ""
	}
	say.Repairs = slices.Clone(j.Repairs)
	for i := range say.Repairs {
		say.Repairs[i] = casefile.Repair{Station: say.Repairs[i].Station, After: say.Repairs[i].After}
	}
	b, err := json.Marshal(say)
	return sha256.Sum256(append(b, e.key[:]...)), err
}
