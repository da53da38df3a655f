import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState } from "react";
import { api, must, type Circuit, type NewEvidence } from "../api/client";
import { useBound } from "../app/keys";
import { evidence } from "../job/job";
import { share } from "../shared/format";
import * as words from "./words";

/**
 * The states in which a code is read: at key-on, and when the machine is asked to work. A code that comes only then is
 * said so with one touch.
 */
export function blinkStates(c: Circuit, o: { states: string[] }) {
  const of = (commands: boolean) =>
    o.states.find((s) => !!c.states.find((x) => x.id === s)?.commands === commands);
  return { rest: of(false), work: of(true) };
}

/** The evidence of a code read in a state: with late it came only when the machine was asked to work. */
export function blinkEvidence(
  c: Circuit,
  o: { id: string; states: string[] },
  state: string,
  code: number,
  late: boolean,
  more: Partial<NewEvidence> = {},
): NewEvidence[] {
  const { rest, work } = blinkStates(c, o);
  const read = (st: string, n: number) => evidence({ ...more, observe: o.id, state: st, outcome: String(n) });
  return late && rest && work ? [read(rest, 0), read(work, code)] : [read(state, code)];
}

/** Tap along with the lamp: space bar or touch. The core groups the taps by their pauses. */
export function BlinkCounter({
  busy,
  canBeLate = false,
  onCode,
}: {
  busy: boolean;
  canBeLate?: boolean;
  onCode: (code: number, late: boolean) => void;
}) {
  const [late, setLate] = useState(false);
  const [taps, setTaps] = useState<number[]>([]);
  const [now, setNow] = useState(0);
  const [typed, setTyped] = useState("");
  const tap = () => setTaps((t) => [...t, performance.now() / 1000]);
  useBound({ flash: tap });
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
      <button type="button" className="blink-tap" onClick={tap} aria-label={words.tapWithEachFlash}>
        {taps.length || "●"}
        <small>{words.tapWithTheLamp}</small>
      </button>
      <div>
        <p role="status">{c?.says ?? ""}</p>
        {canBeLate && (
          <div className="answers" role="group" aria-label={words.whenDoesItFlash}>
            <Button aria-pressed={!late} type={late ? "default" : "primary"} onClick={() => setLate(false)}>
              {words.fromKeyOn}
            </Button>
            <Button aria-pressed={late} type={late ? "primary" : "default"} onClick={() => setLate(true)}>
              {words.onlyAfterTheLever}
            </Button>
          </div>
        )}
        {c && c.rounds.length > 0 && <p className="quiet">{words.rounds(c.rounds.join(" – "))}</p>}
        <div className="answers">
          {c && c.code > 0 && (
            <Button type="primary" disabled={busy} onClick={() => onCode(c.code, late)}>
              {words.codeSureRecord(c.code, share(c.sure))}
            </Button>
          )}
          <Button disabled={busy} onClick={() => onCode(0, false)}>
            {words.noCode}
          </Button>
          <input
            className="blink-type"
            aria-label={words.orTypeTheCode}
            placeholder={words.orTypeIt}
            inputMode="numeric"
            maxLength={2}
            value={typed}
            onChange={(e) => setTyped(e.target.value.replace(/\D/g, ""))}
            onKeyDown={(e) => {
              if (e.key === "Enter" && typed !== "") onCode(Number(typed), late);
            }}
          />
          {typed !== "" && (
            <Button type="primary" disabled={busy} onClick={() => onCode(Number(typed), late)}>
              {words.codeRecord(typed)}
            </Button>
          )}
          {taps.length > 0 && <Button onClick={() => setTaps([])}>{words.beginAgain}</Button>}
        </div>
      </div>
    </div>
  );
}
