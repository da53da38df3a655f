//go:build js && wasm

// Command corriente-wasm is the core in the browser: the same reasoning, run by
// the interface's worker where there is no server to ask. It puts functions
// on the global object: corrienteCarry(kit, writes, question), corrientePreview(reading),
// corrienteTrain(question) and those of the trace; texts in, JSON text out: {"ok": …} or {"error": "one sentence"}.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"syscall/js"

	"corriente/core/casefile"
	"corriente/core/desk"
	"corriente/core/record"
)

func main() {
	d := &desk.Desk{}
	js.Global().Set("corrientePreview", js.FuncOf(func(_ js.Value, args []js.Value) any {
		var t casefile.Typed
		if len(args) != 1 {
			return answer(nil, errors.New("a reading is needed"))
		}
		if err := json.Unmarshal([]byte(args[0].String()), &t); err != nil {
			return answer(nil, err)
		}
		p, err := d.Preview(t.Evidence())
		return answer(p, err)
	}))
	js.Global().Set("corrienteCarry", js.FuncOf(func(_ js.Value, args []js.Value) any {
		var writes []record.Write
		var ask desk.Asked
		if len(args) != 3 {
			return answer(nil, errors.New("a job, what waits to be sent, and a question are needed"))
		}
		if err := errors.Join(json.Unmarshal([]byte(args[1].String()), &writes),
			json.Unmarshal([]byte(args[2].String()), &ask)); err != nil {
			return answer(nil, err)
		}
		t, err := d.Carry(context.Background(), []byte(args[0].String()), writes, ask)
		return answer(t, err)
	}))
	js.Global().Set("corrienteTrain", js.FuncOf(func(_ js.Value, args []js.Value) any {
		var q desk.Training
		if len(args) != 1 {
			return answer(nil, errors.New("a question is needed"))
		}
		if err := json.Unmarshal([]byte(args[0].String()), &q); err != nil {
			return answer(nil, err)
		}
		t, err := d.Train(context.Background(), &q)
		return answer(t, err)
	}))
	traces()
	select {}
}

func answer(v any, err error) string {
	m := map[string]any{"ok": v}
	if err != nil {
		m = map[string]any{"error": err.Error()}
	}
	b, err := json.Marshal(m)
	if err != nil {
		return `{"error":"the answer cannot be written"}`
	}
	return string(b)
}
