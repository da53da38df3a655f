//go:build js && wasm

// Command corriente-wasm is the core in the browser: the same reasoning, run by
// the interface's worker where there is no server to ask. It puts two functions
// on the global object: corrienteWeigh(case, state, glance) and corrientePreview(reading),
// texts in, JSON text out: {"ok": …} or {"error": "one sentence"}.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"syscall/js"

	"corriente/core/desk"
)

func main() {
	d := &desk.Desk{}
	js.Global().Set("corrienteWeigh", js.FuncOf(func(_ js.Value, args []js.Value) any {
		if len(args) != 3 {
			return answer(nil, errors.New("a case, a state, and whether a glance will do, are needed"))
		}
		s, err := d.Weigh(context.Background(), []byte(args[0].String()), args[1].String(), args[2].Bool())
		return answer(s, err)
	}))
	js.Global().Set("corrientePreview", js.FuncOf(func(_ js.Value, args []js.Value) any {
		var t desk.Typed
		if len(args) != 1 {
			return answer(nil, errors.New("a reading is needed"))
		}
		if err := json.Unmarshal([]byte(args[0].String()), &t); err != nil {
			return answer(nil, err)
		}
		p, err := d.Preview(t.Evidence())
		return answer(p, err)
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
