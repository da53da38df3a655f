package workshop

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/internal/store"
)

// What is kept of each kind, the longest unused out first.
const (
	keepPrepared = 64  // prepared circuits: jobs whose circuits agree in every value share one
	keepWeighed  = 128 // opinions by what is said: of jobs, and of readings that are just being entered
	keepJobs     = 128 // jobs whose latest opinion is known: looking at another state or typing weighs nothing anew
)

// keepBytes bounds what the prepared circuits have solved together, besides the latest few.
const (
	keepBytes  = 400 << 20
	keepAnyway = 4
)

// Advisers reasons about jobs, as many at a time as there are cores, two at least, and keeps prepared circuits and the latest
// opinions. It is safe for concurrent use.
type Advisers struct {
	Patience time.Duration // how long one answer may take

	queue    *queue
	prepared *lru.Cache[[32]byte, *entry]
	weighed  *lru.Cache[[32]byte, *diagnose.Opinion] // by what is said, see [sayKey]
	weighing singleflight.Group                      // by the same
	thinking singleflight.Group

	mu       sync.Mutex                     // of changes to what follows
	opinions *lru.Cache[uuid.UUID, opinion] // of jobs
	looks    *lru.Cache[uuid.UUID, int]     // the latest look ahead of each job
	turn     int
}

type entry struct {
	key  [32]byte
	once sync.Once
	a    *diagnose.Adviser
	err  error
	done atomic.Bool // a and err are there
}

// opinion is what a job amounts to at one revision.
type opinion struct {
	revision int
	key      [32]byte
	op       *diagnose.Opinion
	stored   bool // its verdict is in the database
}

// kept makes an empty cache.
func kept[K comparable, V any](n int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](n)
	if err != nil {
		panic(err) // of a size below one
	}
	return c
}

// NewAdvisers makes an empty cache whose answers may take so long.
func NewAdvisers(patience time.Duration) *Advisers {
	return &Advisers{Patience: patience, queue: newQueue(max(2, runtime.GOMAXPROCS(0))),
		prepared: kept[[32]byte, *entry](keepPrepared), weighed: kept[[32]byte, *diagnose.Opinion](keepWeighed),
		opinions: kept[uuid.UUID, opinion](keepJobs), looks: kept[uuid.UUID, int](keepJobs)}
}

// Forget forgets what jobs amount to: they were taken out, and others may come under their ids.
func (c *Advisers) Forget() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.opinions.Purge()
	c.looks.Purge()
	c.weighed.Purge()
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
	e, err := c.named(ci)
	if err != nil {
		return nil, err
	}
	return e, e.prepare(ci)
}

// prepare prepares the circuit where that was not done yet; it is the one that the entry is named after.
func (e *entry) prepare(ci *circuit.Circuit) error {
	e.once.Do(func() {
		e.a, e.err = diagnose.NewAdviser(ci)
		e.done.Store(true)
	})
	return e.err
}

// named finds the place of a circuit, which may not be prepared yet.
func (c *Advisers) named(ci *circuit.Circuit) (*entry, error) {
	b, err := json.Marshal(ci)
	if err != nil {
		return nil, err
	}
	key := sha256.Sum256(b)
	if e, ok := c.prepared.Get(key); ok {
		return e, nil
	}
	e := &entry{key: key}
	if had, ok, _ := c.prepared.PeekOrAdd(key, e); ok {
		return had, nil
	}
	return e, nil
}

// trim empties circuits that were not used for longest, until what all have solved is within so many bytes; the
// latest few are left alone.
func (c *Advisers) trim(most int) {
	es := c.prepared.Values() // the longest unused first
	es = slices.DeleteFunc(es, func(e *entry) bool { return !e.done.Load() || e.err != nil })
	sum := 0
	for _, e := range es {
		sum += e.a.Bytes()
	}
	for k := 0; sum > most && k < len(es)-keepAnyway; k++ {
		sum -= es[k].a.Bytes()
		es[k].a.Empty()
	}
}

// Stored reports whether the verdict on a job as it stands was put into the database
// already.
func (c *Advisers) Stored(j *store.Job) bool {
	o, ok := c.opinions.Get(j.ID)
	return ok && o.revision == j.Revision && o.stored
}

// SetStored says that it was.
func (c *Advisers) SetStored(j *store.Job) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if o, ok := c.opinions.Get(j.ID); ok && o.revision == j.Revision {
		o.stored = true
		c.opinions.Add(j.ID, o)
	}
}

// Weigh reasons about a job as it is stored, what to do next included. Two who
// ask at once share one answer.
func (c *Advisers) Weigh(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	op, key, err := c.glance(ctx, j)
	if err != nil || op.Thought {
		return op, err
	}
	leave, err := c.queue.enter(ctx, j.ID, next)
	if err != nil {
		return nil, err
	}
	defer leave()
	full, err := c.think(ctx, key, op)
	if err != nil {
		return nil, err
	}
	full = full.For(op.Job)
	c.keep(j, key, full)
	return full, nil
}

// think works out what to do next; who calls it has a place.
func (c *Advisers) think(ctx context.Context, key [32]byte, op *diagnose.Opinion) (*diagnose.Opinion, error) {
	if had, ok := c.weighed.Get(key); ok && had.Thought {
		return had, nil
	}
	v, err, _ := c.thinking.Do(string(key[:]), func() (any, error) {
		// The one who asked first may leave; the others still want it.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), c.Patience)
		defer cancel()
		full, err := op.Think(ctx)
		if err == nil {
			c.weighed.Add(key, full)
		}
		return full, err
	})
	if err != nil {
		return nil, err
	}
	return v.(*diagnose.Opinion), nil
}

func (c *Advisers) keep(j *store.Job, key [32]byte, op *diagnose.Opinion) {
	c.mu.Lock()
	defer c.mu.Unlock()
	o, ok := c.opinions.Get(j.ID)
	same := ok && o.revision == j.Revision
	if same && o.op.Thought {
		return
	}
	c.opinions.Add(j.ID, opinion{j.Revision, key, op, same && o.stored})
}

// Glance is weigh without what to do next. A revision never changes, so its
// opinion may be kept.
func (c *Advisers) Glance(ctx context.Context, j *store.Job) (*diagnose.Opinion, error) {
	op, _, err := c.glance(ctx, j)
	return op, err
}

func (c *Advisers) glance(ctx context.Context, j *store.Job) (*diagnose.Opinion, [32]byte, error) {
	if o, ok := c.opinions.Get(j.ID); ok && o.revision == j.Revision {
		return o.op, o.key, nil
	}
	op, key, err := c.reason(ctx, j, answer)
	if err == nil {
		c.keep(j, key, op)
	}
	return op, key, err
}

// reason weighs what a job says, or finds what came of it when it was weighed before or foreseen. Two
// who want the same share one answer. The key names what the job says.
func (c *Advisers) reason(ctx context.Context, j *store.Job, u urgency) (op *diagnose.Opinion, key [32]byte, err error) {
	e, err := c.named(j.Case.Circuit)
	if err != nil {
		return nil, key, err
	}
	dj := diagnose.JobOf(j.Case)
	dj.Known.Unreachable, dj.Complaint = j.Unreachable, j.Complaint
	if key, err = sayKey(e, dj); err != nil {
		return nil, key, err
	}
	if op, ok := c.weighed.Get(key); ok {
		return op.For(dj), key, nil
	}
	leave, err := c.queue.enter(ctx, j.ID, u)
	if err != nil {
		return nil, key, err
	}
	defer leave()
	if op, ok := c.weighed.Get(key); ok { // meanwhile
		return op.For(dj), key, nil
	}
	v, err, _ := c.weighing.Do(string(key[:]), func() (any, error) {
		// The one who asked first may leave; the others still want it.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), c.Patience)
		defer cancel()
		if err := e.prepare(j.Case.Circuit); err != nil {
			return nil, err
		}
		op, err := e.a.Glance(ctx, dj)
		if err == nil {
			c.weighed.Add(key, op)
			c.trim(keepBytes)
		}
		return op, err
	})
	if err != nil {
		return nil, key, err
	}
	return v.(*diagnose.Opinion).For(dj), key, nil
}

// Foresee weighs what a job would amount to with one more piece of evidence, while it is
// still being entered: who enters it then finds the picture ready, and, thought through,
// what to do next as well. It stores nothing, gives way to whoever waits for something, and does nothing once
// it is not wanted any more.
func (c *Advisers) Foresee(ctx context.Context, j *store.Job, e casefile.Evidence, think bool, wanted func() bool) error {
	then, with := *j, *j.Case
	with.Evidence = append(slices.Clip(with.Evidence), e)
	then.Case = &with
	op, key, err := c.reason(ctx, &then, ahead)
	if err != nil || !think || op.Thought {
		return err
	}
	leave, err := c.queue.enter(ctx, j.ID, ahead)
	if err != nil {
		return err
	}
	defer leave()
	if !wanted() {
		return nil
	}
	_, err = c.think(ctx, key, op)
	return err
}

// Spare waits for a place for what takes long and can wait: it leaves one free for others. leave gives it back.
func (c *Advisers) Spare(ctx context.Context, job uuid.UUID) (leave func(), err error) {
	return c.queue.enter(ctx, job, ahead)
}

// Look begins a new look ahead of a job; latest says whether none has begun since.
func (c *Advisers) Look(job uuid.UUID) (latest func() bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.turn++
	mine := c.turn
	c.looks.Add(job, mine)
	return func() bool {
		now, ok := c.looks.Get(job)
		return ok && now == mine
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
