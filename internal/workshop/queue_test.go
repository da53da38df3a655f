package workshop

import (
	"context"
	"math/rand/v2"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// thought is a piece of reasoning that takes so long once it has a place.
type thought struct {
	job  uuid.UUID
	u    urgency
	long time.Duration
}

// in goes through a queue and says when it was over.
func (x thought) in(t *testing.T, q *queue, over *time.Time) {
	leave, err := q.enter(t.Context(), x.job, x.u)
	if assert.NoError(t, err) {
		time.Sleep(x.long)
		leave()
		*over = time.Now()
	}
}

// A job that takes a minute holds one place: a light one is answered at once beside it, and so it is when the
// heavy one asks again and again.
func TestAHeavyJobDoesNotStopALightOne(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, heavy, light := newQueue(2), uuid.New(), uuid.New()
		began := time.Now()
		var slow [4]time.Time
		var quick time.Time
		for k := range slow {
			go thought{heavy, answer, time.Minute}.in(t, q, &slow[k])
		}
		synctest.Wait()
		go thought{light, answer, time.Second}.in(t, q, &quick)
		time.Sleep(5 * time.Minute)
		synctest.Wait()
		assert.Equal(t, time.Second, quick.Sub(began))
		for k := range slow {
			assert.Zero(t, slow[k].Sub(began)%time.Minute, "one after the other")
		}
	})
}

// What nobody waits for gives way: it leaves a place free, and whoever waits goes before it, an answer before
// what is next.
func TestWhatNobodyWaitsForGivesWay(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := newQueue(2)
		began := time.Now()
		var foreseen [3]time.Time
		for k := range foreseen {
			go thought{uuid.New(), ahead, time.Minute}.in(t, q, &foreseen[k])
			synctest.Wait()
		}
		var first, second, third, fourth time.Time
		go thought{uuid.New(), answer, 10 * time.Second}.in(t, q, &first)
		synctest.Wait()
		go thought{uuid.New(), next, 10 * time.Second}.in(t, q, &third)
		synctest.Wait()
		go thought{uuid.New(), answer, 10 * time.Second}.in(t, q, &second)
		synctest.Wait()
		go thought{uuid.New(), next, 50 * time.Second}.in(t, q, &fourth)
		time.Sleep(10 * time.Minute)
		synctest.Wait()
		assert.Equal(t, 10*time.Second, first.Sub(began), "beside the first that nobody waits for")
		assert.Equal(t, 20*time.Second, second.Sub(began), "an answer goes before what is next")
		assert.Equal(t, 30*time.Second, third.Sub(began))
		assert.Equal(t, 80*time.Second, fourth.Sub(began))
		assert.Equal(t, time.Minute, foreseen[0].Sub(began))
		assert.Equal(t, 140*time.Second, foreseen[1].Sub(began), "not while somebody is served in the last place")
		assert.Equal(t, 200*time.Second, foreseen[2].Sub(began))
	})
}

// One place is enough for all of them in turn.
func TestOnePlaceServesAll(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := newQueue(1)
		var over [3]time.Time
		for u := range over {
			go thought{uuid.New(), urgency(u), time.Second}.in(t, q, &over[u])
		}
		time.Sleep(time.Minute)
		synctest.Wait()
		for u := range over {
			assert.False(t, over[u].IsZero())
		}
	})
}

// Whoever gives up leaves no place taken, at whatever moment: with hundreds that come, wait and give up there
// are never more at work than places, never two on one job, and in the end all places are free.
func TestNoPlaceIsLost(t *testing.T) {
	q := newQueue(3)
	jobs := []uuid.UUID{uuid.New(), uuid.New(), uuid.New(), uuid.New(), uuid.New()}
	var mu sync.Mutex
	at, most := map[uuid.UUID]int{}, 0
	var wg sync.WaitGroup
	for k := range 400 {
		rng := rand.New(rand.NewPCG(7, uint64(k)))
		wg.Go(func() {
			ctx, cancel := context.WithTimeout(t.Context(), time.Duration(rng.IntN(20_000))*time.Microsecond)
			defer cancel()
			job, u := jobs[rng.IntN(len(jobs))], urgency(rng.IntN(3))
			leave, err := q.enter(ctx, job, u)
			if err != nil {
				return
			}
			mu.Lock()
			if u != ahead {
				at[job]++
				assert.Equal(t, 1, at[job])
			}
			most++
			assert.LessOrEqual(t, most, 3)
			mu.Unlock()
			time.Sleep(time.Duration(rng.IntN(500)) * time.Microsecond)
			mu.Lock()
			if u != ahead {
				at[job]--
			}
			most--
			mu.Unlock()
			leave()
		})
	}
	wg.Wait()
	for range 3 {
		_, err := q.enter(t.Context(), uuid.New(), answer)
		require.NoError(t, err)
	}
	assert.Zero(t, q.free)
	assert.Empty(t, q.waiting[answer])
}
