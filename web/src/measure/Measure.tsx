import { useState } from "react";
import type { Suggestion } from "../api/client";
import { useApp } from "../app/context";
import { statesOf, tiesOf, useJob, useWrites } from "../job/job";
import { minutes, quantity, range } from "../shared/format";
import { useKeys, useNarrow } from "../shared/hooks";
import { CurrentPath } from "./CurrentPath";
import { NextReading } from "./NextReading";
import { PathStrip } from "./PathStrip";
import { Side } from "./Side";
import { StationCard } from "./StationCard";
import { VerdictCard } from "./VerdictCard";

/** The heart: the current path above, what to do next on the left, the suspects on the right. */
export default function Measure() {
  const { job, circuit, state, setState } = useJob();
  const { mayWrite } = useApp();
  const { enter, strike, change } = useWrites(job.id, state);
  const narrow = useNarrow();
  const next = job.diagnosis.next;
  const [pick, setPick] = useState({ revision: job.revision, at: 0 });
  const at = pick.revision === job.revision ? pick.at : 0;
  // Probes the technician chose on the picture instead of the adviser's.
  const [own, setOwn] = useState<{ from?: string; to?: string } | null>(null);
  const [more, setMore] = useState(-1); // the revision at which "one more reading" was asked for
  const [shown, setShown] = useState<string | null>(null);
  const pic = job.picture;
  const st = circuit.states.find((s) => s.id === state);

  const asked: Suggestion | undefined = own?.from
    ? {
        measure:
          st && st.supply === "none"
            ? "resistance"
            : st?.reads?.[0] === "ac_voltage" && !own.from.startsWith("bat_")
              ? "ac_voltage"
              : "voltage",
        state,
        from: own.from,
        to: own.to ?? "",
        minutes: 0,
        people: st?.people ?? 1,
        bits: 0,
        because: "",
      }
    : next[at];
  const verdict = job.diagnosis.verdict.status;
  const stands =
    (["isolated", "nothing_wrong", "contradiction"].includes(verdict) ||
      job.diagnosis.verdict.repair !== undefined) &&
    !own &&
    more !== job.revision;
  const probes =
    !stands && asked?.from && asked.state === state ? { red: asked.from, black: asked.to } : undefined;

  const another = () => setPick({ revision: job.revision, at: next.length ? (at + 1) % next.length : 0 });
  const unreachable = () => {
    const id = asked?.observe ?? asked?.through ?? (asked?.from === "bat_pos" ? asked.to : asked?.from);
    if (id && mayWrite) change.mutate({ unreachable: [...job.unreachable, id] });
  };
  const last = job.evidence.filter((e) => !e.struck).at(-1);
  useKeys((k) => {
    const low = k.toLowerCase();
    if (low === "n") {
      setOwn(null);
      another();
    } else if (low === "c") unreachable();
    else if (low === "u") {
      if (last && mayWrite) strike.mutate({ evidence: last.id, out: true });
    } else if (low === "s") {
      const list = statesOf(circuit);
      const i = list.findIndex((s) => s.id === state);
      setState(list[(i + 1) % list.length]!.id);
    } else if (k === "Escape") {
      setOwn(null);
      setShown(null);
    } else return false;
    return true;
  });
  const onNode = (id: string) =>
    setOwn((o) => {
      if (st?.supply === "mains") return null;
      if (!o?.from || o.to) return { from: id, to: id === "bat_neg" ? "bat_pos" : undefined };
      return id === o.from ? null : { from: o.from, to: id };
    });

  if (!pic) return null;
  const amps =
    pic.amps_read !== undefined
      ? quantity(pic.amps_read, "current")
      : !pic.amps || !pic.flows
        ? null
        : Math.max(Math.abs(pic.amps.high), Math.abs(pic.amps.low)) < 0.05
          ? "no current expected"
          : `${range(pic.amps.low, pic.amps.high, "current")} expected`;
  const count = job.evidence.filter((e) => !e.struck).length;
  const path = narrow ? (
    <PathStrip picture={pic} probes={probes} onNode={onNode} onStation={setShown} />
  ) : (
    <CurrentPath picture={pic} probes={probes} ties={tiesOf(circuit)} onNode={onNode} onStation={setShown} />
  );
  const card = stands ? (
    <VerdictCard onMore={() => setMore(job.revision)} canMore={next.length > 0} />
  ) : (
    <NextReading
      key={`${asked?.measure}${asked?.observe}${asked?.state}${asked?.from}${asked?.to}${asked?.through}`}
      asked={asked}
      own={!!own}
      enter={enter}
      onAnother={() => {
        setOwn(null);
        another();
      }}
      onCannot={unreachable}
      onOwn={setOwn}
      others={next.length}
    />
  );
  return (
    <main className="measure">
      <div className="states" role="tablist" aria-label="State of the circuit">
        {statesOf(circuit).map((s) => (
          <button
            key={s.id}
            type="button"
            role="tab"
            aria-selected={s.id === state}
            className={s.id === state ? "on" : ""}
            title={s.how}
            onClick={() => setState(s.id)}
          >
            {s.label}
          </button>
        ))}
        <span className="states-info">
          {[
            amps,
            `${count} ${count === 1 ? "entry" : "entries"}`,
            `${minutes(pic.spent_minutes)} spent`,
            pic.to_go_minutes > 0 ? `about ${minutes(pic.to_go_minutes)} to go` : "",
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
      </div>
      {narrow ? (
        <>
          {card}
          <Side strike={strike} folded />
          {path}
        </>
      ) : (
        <>
          {path}
          <div className="lower">
            {card}
            <Side strike={strike} />
          </div>
        </>
      )}
      {shown && <StationCard id={shown} onClose={() => setShown(null)} />}
    </main>
  );
}
