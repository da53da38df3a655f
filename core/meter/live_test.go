package meter

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestLiveSettlesWhenTheLastDigitIsAllThatMoves(t *testing.T) {
	l := NewLive(*Handheld().DCVoltage)
	at := time.Unix(0, 0)
	feed := func(vs ...float64) (s State) {
		for _, v := range vs {
			at = at.Add(200 * time.Millisecond)
			s = l.Add(at, v, false)
		}
		return s
	}
	assert.False(t, feed(3, 6, 9, 11, 12).Settled, "still rising")
	s := feed(12.40, 12.41, 12.40, 12.40, 12.41, 12.40, 12.41)
	assert.True(t, s.Settled)
	assert.Equal(t, 12.0, s.Min, "the first moment is the dial's")
	assert.Equal(t, 12.41, s.Max)
	assert.Equal(t, 8, s.N)
	assert.False(t, feed(9.6).Settled, "a jump unsettles it")
}

func TestLiveOL(t *testing.T) {
	l := NewLive(*Handheld().Resistance)
	at := time.Unix(0, 0)
	var s State
	for range 8 {
		at = at.Add(200 * time.Millisecond)
		s = l.Add(at, 0, true)
	}
	assert.True(t, s.Settled)
	assert.True(t, s.Over)
	assert.Zero(t, s.N, "OL counts for no least, greatest or mean")
	s = l.Add(at.Add(200*time.Millisecond), 5, false)
	assert.False(t, s.Settled, "a number after OL is not at rest")
}
