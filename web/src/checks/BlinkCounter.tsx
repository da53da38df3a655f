import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState } from "react";
import { api, must } from "../api/client";
import { share } from "../shared/format";
import { useKeys } from "../shared/hooks";

/** Tap along with the lamp: space bar or touch. The core groups the taps by their pauses. */
export function BlinkCounter({ busy, onCode }: { busy: boolean; onCode: (code: number) => void }) {
  const [taps, setTaps] = useState<number[]>([]);
  const [now, setNow] = useState(0);
  const [typed, setTyped] = useState("");
  const tap = () => setTaps((t) => [...t, performance.now() / 1000]);
  useKeys((k) => {
    if (k !== " ") return false;
    tap();
    return true;
  });
  const last = taps.at(-1) ?? 0;
  // A round is over when nothing more comes: look again for a while after each tap.
  useEffect(() => {
    if (last === 0) return;
    const t = [0, 700, 1500, 3200].map((ms) => setTimeout(() => setNow(performance.now() / 1000), ms));
    return () => t.forEach(clearTimeout);
  }, [last]);
  const count = useQuery({
    queryKey: ["blink", taps.length, now],
    queryFn: () => must(api.POST("/api/blink", { body: { taps, now: Math.max(now, last) } })),
    placeholderData: (p) => p,
  });
  const c = count.data;
  return (
    <div className="blink">
      <button type="button" className="blink-tap" onClick={tap} aria-label="Tap with each flash">
        {taps.length || "●"}
        <small>tap with the lamp, or space bar</small>
      </button>
      <div>
        <p role="status">{c?.says ?? ""}</p>
        {c && c.rounds.length > 0 && <p className="quiet">Rounds: {c.rounds.join(" – ")}</p>}
        <div className="answers">
          {c && c.code > 0 && (
            <Button type="primary" disabled={busy} onClick={() => onCode(c.code)}>
              Code {c.code}, {share(c.sure)} sure: record
            </Button>
          )}
          <Button disabled={busy} onClick={() => onCode(0)}>
            No code
          </Button>
          <input
            className="blink-type"
            aria-label="Or type the code"
            placeholder="or type it"
            inputMode="numeric"
            maxLength={2}
            value={typed}
            onChange={(e) => setTyped(e.target.value.replace(/\D/g, ""))}
            onKeyDown={(e) => {
              if (e.key === "Enter" && typed !== "") onCode(Number(typed));
            }}
          />
          {taps.length > 0 && <Button onClick={() => setTaps([])}>Begin again</Button>}
        </div>
      </div>
    </div>
  );
}
