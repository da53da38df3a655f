//go:build js && wasm

package main

import (
	"encoding/binary"
	"encoding/json"
	"errors"
	"io"
	"math"
	"syscall/js"

	"corriente/core/trace"
)

// file reads a file of the page piece by piece: pull(at, length) returns a
// Uint8Array.
type file struct {
	pull js.Value
	at   int
	size int
}

func (f *file) Read(p []byte) (int, error) {
	if f.at >= f.size {
		return 0, io.EOF
	}
	n := js.CopyBytesToGo(p, f.pull.Invoke(f.at, min(len(p), f.size-f.at)))
	if n == 0 {
		return 0, io.ErrUnexpectedEOF
	}
	f.at += n
	return n, nil
}

// traces puts the functions for current traces on the global object:
// corrienteTrace(slot, pull, size, options), corrienteCapture(slot, bytes, interval, options),
// corrienteZoom(slot, from, to, columns), corrienteAlongside(slot, other, shift, from, to, columns)
// and corrienteCompare(slot, other).
func traces() {
	views := map[string]*trace.View{}
	options := func(v js.Value) (o trace.Options, err error) {
		err = json.Unmarshal([]byte(v.String()), &o)
		return o, err
	}
	keep := func(slot string, v *trace.View, err error) any {
		if err == nil {
			views[slot] = v
		}
		return answer(v, err)
	}
	js.Global().Set("corrienteTrace", js.FuncOf(func(_ js.Value, args []js.Value) any {
		o, err := options(args[3])
		if err != nil {
			return answer(nil, err)
		}
		delete(views, args[0].String())
		size := args[2].Int()
		v, err := trace.Open(&file{pull: args[1], size: size}, int64(size), o)
		return keep(args[0].String(), v, err)
	}))
	js.Global().Set("corrienteCapture", js.FuncOf(func(_ js.Value, args []js.Value) any {
		o, err := options(args[3])
		if err != nil {
			return answer(nil, err)
		}
		b := make([]byte, args[1].Get("length").Int())
		js.CopyBytesToGo(b, args[1])
		x := make([]float32, len(b)/4)
		for i := range x {
			x[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[4*i:]))
		}
		v, err := trace.Captured(x, args[2].Float(), o)
		return keep(args[0].String(), v, err)
	}))
	js.Global().Set("corrienteZoom", js.FuncOf(func(_ js.Value, args []js.Value) any {
		z, err := views[args[0].String()].Between(args[1].Float(), args[2].Float(), args[3].Int())
		return answer(z, err)
	}))
	js.Global().Set("corrienteAlongside", js.FuncOf(func(_ js.Value, args []js.Value) any {
		z, err := views[args[0].String()].Alongside(views[args[1].String()], args[2].Int(), args[3].Float(), args[4].Float(), args[5].Int())
		return answer(z, err)
	}))
	js.Global().Set("corrienteCompare", js.FuncOf(func(_ js.Value, args []js.Value) any {
		a, b := views[args[0].String()], views[args[1].String()]
		if a == nil || b == nil {
			return answer(nil, errors.New("two traces are needed"))
		}
		return answer(trace.Compare(a.Result, b.Result), nil)
	}))
}
