import { useRef, type KeyboardEvent } from "react";
import * as words from "./words";

/** The states of a circuit in a row of plain words; the arrows go from one to the next. */
export function States({
  states,
  at,
  onGo,
  children,
}: {
  states: { id: string; label: string; how?: string }[];
  at: string;
  onGo: (id: string) => void;
  children?: React.ReactNode;
}) {
  const row = useRef<HTMLDivElement>(null);
  const onKey = (e: KeyboardEvent) => {
    const i = states.findIndex((s) => s.id === at);
    const to = { ArrowRight: i + 1, ArrowLeft: i - 1, Home: 0, End: states.length - 1 }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    const next = (to + states.length) % states.length;
    onGo(states[next]!.id);
    row.current?.querySelectorAll<HTMLElement>("[role=tab]")[next]?.focus();
  };
  return (
    <div className="states">
      <div
        className="states-row"
        role="tablist"
        aria-label={words.stateOfTheCircuit}
        ref={row}
        onKeyDown={onKey}
      >
        {states.map((s) => (
          <button
            key={s.id}
            type="button"
            role="tab"
            aria-selected={s.id === at}
            tabIndex={s.id === at ? 0 : -1}
            className={s.id === at ? "on" : ""}
            title={s.how}
            onClick={() => onGo(s.id)}
          >
            {s.label}
          </button>
        ))}
      </div>
      {children}
    </div>
  );
}
