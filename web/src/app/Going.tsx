import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useBound } from "./keys";
import * as words from "./words";

/** Where one key after G leads. */
export interface Target {
  key: string;
  label: string;
  to: string;
}

/** G and then a letter or a number: says where they lead, and goes there. */
export function Going({ targets }: { targets: Target[] }) {
  const nav = useNavigate();
  const [going, setGoing] = useState(false);
  useBound({ go: () => setGoing(true) });
  useEffect(() => {
    if (!going) return;
    const on = (e: KeyboardEvent) => {
      if (e.key === "Shift") return;
      setGoing(false);
      const t = targets.find((x) => x.key === e.key.toLowerCase());
      if (t) void nav(t.to);
      e.preventDefault();
      e.stopImmediatePropagation();
    };
    window.addEventListener("keydown", on, { capture: true });
    return () => window.removeEventListener("keydown", on, { capture: true });
  });
  if (!going) return null;
  return (
    <div className="going" role="status">
      {words.goTo}{" "}
      {targets.map((t) => (
        <span key={t.key}>
          <kbd>{t.key.toUpperCase()}</kbd> {t.label}{" "}
        </span>
      ))}
    </div>
  );
}
