import { useCallback, useMemo, useState } from "react";
import type { Suggestion } from "../api/client";
import { useApp } from "../app/context";
import { answer, statesOf, subject, tiesOf, useJob, useWrites } from "../job/job";
import { minutes, quantity, range } from "../shared/format";
import { useKeys, useNarrow } from "../shared/hooks";
import { CurrentPath } from "./CurrentPath";
import { NextReading } from "./NextReading";
import { PathStrip } from "./PathStrip";
import { Side } from "./Side";
import { StationCard } from "./StationCard";
import { VerdictCard } from "./VerdictCard";
import { places, Walk } from "./Walk";

/** The heart: the current path above, what to do next on the left, the suspects on the right. */
export default function Measure() {
  const { job, circuit, state, setState, then, setThen } = useJob();
  const app = useApp();
  const mayWrite = app.mayWrite && then === undefined;
  const { enter, strike, change } = useWrites(job.id, state, true);
  const narrow = useNarrow();
  const next = job.diagnosis.next;
  const [pick, setPick] = useState({ revision: job.revision, at: 0 });
  const at = pick.revision === job.revision ? pick.at : 0;
  // Probes the technician chose on the picture instead of the adviser's.
  const [own, setOwn] = useState<{ from?: string; to?: string } | null>(null);
  const [more, setMore] = useState(-1); // the revision at which "one more reading" was asked for
  const [shown, setShown] = useState<string | null>(null);
  const pic = job.picture;
  const [walk, setWalk] = useState<string[] | null>(null);
  const [red, setRed] = useState<string>();
  const onRed = useCallback((n?: string) => setRed(n), []);
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
  const st0 = circuit.states.find((s) => s.id === state);
  // A walk is offered where volts under load are read, once its caution is understood.
  const route = pic && st0?.supply === "battery" && pic.flows ? places(pic, "bat_neg") : [];
  const mayWalk =
    mayWrite &&
    route.length > 1 &&
    !(st0?.caution && !job.acknowledged.includes(st0.id)) &&
    !job.intermittent;
  const [redAt, blackAt] = walk
    ? [red, "bat_neg"]
    : !stands && asked?.from && asked.state === state
      ? [asked.from, asked.to]
      : [];
  // What is drawn changes with the job alone: not while an entry is on its way.
  const probes = useMemo(() => (redAt ? { red: redAt, black: blackAt } : undefined), [redAt, blackAt]);
  const ties = useMemo(() => tiesOf(circuit), [circuit]);

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
    else if (low === "w" && mayWalk) setWalk(route);
    else if (low === "u") {
      if (last && mayWrite) strike.mutate({ evidence: last.id, out: true });
    } else if (low === "s") {
      const list = statesOf(circuit);
      const i = list.findIndex((s) => s.id === state);
      setState(list[(i + 1) % list.length]!.id);
    } else if (k === "Escape") {
      setOwn(null);
      setShown(null);
      setWalk(null);
      setThen(undefined);
    } else return false;
    return true;
  });
  const mains = st?.supply === "mains";
  const onNode = useCallback(
    (id: string) =>
      setOwn((o) => {
        if (mains) return null;
        if (!o?.from || o.to) return { from: id, to: id === "bat_neg" ? "bat_pos" : undefined };
        return id === o.from ? null : { from: o.from, to: id };
      }),
    [mains],
  );

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
    <CurrentPath picture={pic} probes={probes} ties={ties} onNode={onNode} onStation={setShown} />
  );
  const card = walk ? (
    <Walk route={walk} enter={enter} onRed={onRed} onEnd={() => setWalk(null)} />
  ) : stands ? (
    <VerdictCard onMore={() => setMore(job.revision)} canMore={next.length > 0} />
  ) : job.thinking && !own ? (
    <section className="card next" aria-label="Next reading" aria-busy>
      <p className="next-head">Next</p>
      <h1 className="quiet">Weighing what to do next …</h1>
    </section>
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
      onWalk={mayWalk && !own ? () => setWalk(route) : undefined}
      others={next.length}
    />
  );
  return (
    <main className="measure">
      {then !== undefined && <Replay />}
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
          <Side onStrike={strike.mutate} problem={strike.error?.message} folded />
          {path}
        </>
      ) : (
        <>
          {path}
          <div className="lower">
            {card}
            <Side onStrike={strike.mutate} problem={strike.error?.message} />
          </div>
        </>
      )}
      {shown && <StationCard id={shown} onClose={() => setShown(null)} />}
    </main>
  );
}

/** The job as it stood earlier: stepped through, reading by reading. */
function Replay() {
  const { then = 0, setThen, all, job, circuit } = useJob();
  const e = job.evidence.at(-1);
  return (
    <div className="replay" role="status">
      <button type="button" className="link" disabled={then === 0} onClick={() => setThen(then - 1)}>
        ◀ before
      </button>
      <span>
        As it stood after {then} of {all}
        {e && (
          <>
            :{" "}
            <b>
              {subject(circuit, e)}, {answer(circuit, e)}
            </b>
          </>
        )}
        . {job.diagnosis.verdict.says}
      </span>
      <button type="button" className="link" onClick={() => setThen(then + 1 >= all ? undefined : then + 1)}>
        after ▶
      </button>
      <button type="button" className="link" onClick={() => setThen(undefined)}>
        back to now (Esc)
      </button>
    </div>
  );
}
