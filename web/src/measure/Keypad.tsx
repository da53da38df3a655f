import * as words from "./words";
const keys = ["7", "8", "9", "m", "4", "5", "6", "k", "1", "2", "3", "OL", "0", ".", "-", "⌫"];

/** Our own keypad for the phone: the system keyboard would cover the card. */
export function Keypad({ onKey }: { onKey: (k: string) => void }) {
  return (
    <div className="keypad" role="group" aria-label={words.keypad}>
      {keys.map((k) => (
        <button key={k} type="button" onClick={() => onKey(k)} aria-label={k === "⌫" ? "delete" : k}>
          {k}
        </button>
      ))}
    </div>
  );
}
