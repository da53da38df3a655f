import { lazy, memo, Suspense, useCallback, useDeferredValue, useMemo, useState } from "react";
import type { Job, Suggestion } from "../api/client";
import { useApp } from "../app/context";
import { useBound } from "../app/keys";
import {
  answer,
  JobContext,
  statesOf,
  subject,
  tiesOf,
  useJob,
  useWrites,
  type JobCircuit,
  type JobState,
} from "../job/job";
import { minutes, quantity, range } from "../shared/format";
import { toCard, useNarrow } from "../shared/hooks";
import { CurrentPath } from "./CurrentPath";
import { NextReading, type Entering } from "./NextReading";
import { askedOf, basisOf, whole, type Own } from "./own";
import { OwnPicker, type Picking } from "./OwnPicker";
import { PathStrip } from "./PathStrip";
import { Side } from "./Side";
import { States } from "./States";
import { VerdictCard } from "./VerdictCard";
import { places, Walk } from "./Walk";
import { Heard } from "./Heard";
import * as words from "./words";

const StationCard = lazy(async () => ({ default: (await import("./StationCard")).StationCard }));

/** The heart: the current path above, what to do next on the left, the suspects on the right. */
export default function Measure() {
  const now = useHeld(useJob());
  const { job, circuit, state, setState, then, setThen } = now;
  // The card of what to do next is drawn after the picture and the suspects: taking it away and
  // building the next one is most of the work.
  const later = useDeferredValue(now);
  const app = useApp();
  const mayWrite = app.mayWrite && then === undefined;
  const { enter, strike, change } = useWrites(job.id, state, true);
  const narrow = useNarrow();
  const next = job.diagnosis.next;
  const basis = basisOf(job);
  const [pick, setPick] = useState({ basis, at: 0 });
  const at = pick.basis === basis ? pick.at : 0;
  // Probes the technician chose on the picture instead of the adviser's.
  const [own, setOwn] = useState<Own>(null);
  const [more, setMore] = useState(""); // the basis on which "one more reading" was asked for
  const [shown, setShown] = useState<string | null>(null);
  const pic = job.picture;
  const [walk, setWalk] = useState<string[] | null>(null);
  const [red, setRed] = useState<string>();
  const st = circuit.states.find((s) => s.id === state);
  const asked = askedOf(next, circuit, state, own, at);
  const stands = !own && more !== basis && settled(job);
  const route = routeOf(job, circuit, state);
  const mayWalk = mayWrite && route.length > 1;
  const [redAt, blackAt] = walk
    ? [red, "bat_neg"]
    : !stands && asked?.from && asked.state === state
      ? [asked.from, asked.to]
      : [];
  // What is drawn changes with the job alone: not while an entry is on its way.
  const probes = useMemo(() => (redAt ? { red: redAt, black: blackAt } : undefined), [redAt, blackAt]);
  const ties = useMemo(() => tiesOf(circuit), [circuit]);

  const another = () => setPick({ basis, at: next.length ? (at + 1) % next.length : 0 });
  const unreachable = () => {
    const id = placeOf(asked);
    if (id && mayWrite) change.mutate({ cannot_reach: id });
  };
  const last = job.evidence.filter((e) => !e.struck).at(-1);
  useBound({
    another: () => {
      setOwn(null);
      another();
    },
    cannot: unreachable,
    walk: () => (mayWalk ? setWalk(route) : false),
    strike: () => {
      if (last && mayWrite) strike.mutate({ evidence: last.id, out: true });
    },
    state: () => {
      const list = statesOf(circuit);
      const i = list.findIndex((s) => s.id === state);
      setState(list[(i + 1) % list.length]!.id);
    },
    leave: () => {
      toCard();
      setOwn(null);
      setShown(null);
      setWalk(null);
      setThen(undefined);
    },
  });
  const mains = st?.supply === "mains";
  const onNode = useCallback(
    (id: string) =>
      setOwn((o) => {
        if (mains) return null;
        if (!o?.from || whole(o)) return { from: id, to: id === "bat_neg" ? "bat_pos" : undefined };
        return id === o.from ? null : { ...o, to: id };
      }),
    [mains],
  );

  // While the card of the last entry still stands, an answer would be given to it twice. A card drawn anew with the
  // same question takes what is entered: an Enter must not be lost because the same advice came once more.
  const busy = enter.isPending || basisOf(later.job) !== basis || later.state !== state;
  const { mutate, mutateAsync, reset, error } = enter;
  const entering = useMemo(
    () => ({ mutate, mutateAsync, reset, error, isPending: busy }),
    [mutate, mutateAsync, reset, error, busy],
  );

  if (!pic) return null;
  const amps =
    pic.amps_read !== undefined
      ? quantity(pic.amps_read, "current")
      : !pic.amps || !pic.flows
        ? null
        : Math.max(Math.abs(pic.amps.high), Math.abs(pic.amps.low)) < 0.05
          ? words.noCurrentExpected
          : // The other way round the motor it is as many amperes.
            words.expectedWithHigh(
              pic.amps.high <= 0
                ? range(-pic.amps.high, -pic.amps.low, "current")
                : range(pic.amps.low, pic.amps.high, "current"),
            );
  const count = job.evidence.filter((e) => !e.struck).length;
  const path = narrow ? (
    <PathStrip picture={pic} probes={probes} onNode={onNode} onStation={setShown} />
  ) : (
    <CurrentPath picture={pic} probes={probes} ties={ties} onNode={onNode} onStation={setShown} />
  );
  const card = (
    <JobContext value={later}>
      <Card
        own={own}
        pick={pick}
        more={more}
        walk={walk}
        entering={entering}
        mayWrite={mayWrite}
        onPick={setPick}
        onOwn={setOwn}
        onMore={setMore}
        onWalk={setWalk}
        onRed={setRed}
        onChange={change.mutate}
      />
    </JobContext>
  );
  return (
    <main className="measure">
      <Heard />
      {then !== undefined && <Replay />}
      <States states={statesOf(circuit)} at={state} onGo={setState}>
        <span className="states-info">
          {[
            amps,
            `${count} ${words.entries(count)}`,
            words.spent(minutes(pic.spent_minutes)),
            pic.to_go_minutes > 0 ? words.aboutToGo(minutes(pic.to_go_minutes)) : "",
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
      </States>
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
      {shown && (
        <Suspense>
          <StationCard
            id={shown}
            onClose={() => setShown(null)}
            onOwn={
              mayWrite && !mains
                ? (o) => {
                    setShown(null);
                    setOwn(o);
                  }
                : undefined
            }
          />
        </Suspense>
      )}
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
        {words.before}
      </button>
      <span>
        {words.asItStoodAfter(then, all)}
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
        {words.measureAfter}
      </button>
      <button type="button" className="link" onClick={() => setThen(undefined)}>
        {words.backToNowEsc}
      </button>
    </div>
  );
}

/**
 * The job with what to do next held still: it is weighed anew after every change, and what rests on the same evidence
 * comes out the same. A card that went away for a moment under the hand took a reading for another place.
 */
function useHeld(now: JobState): JobState {
  const { job } = now;
  const basis = basisOf(job);
  const [held, setHeld] = useState({ basis: "", next: [] as Suggestion[] });
  if (!job.thinking && held.next !== job.diagnosis.next) setHeld({ basis, next: job.diagnosis.next });
  return useMemo(
    () =>
      job.thinking && held.basis === basis
        ? { ...now, job: { ...job, thinking: false, diagnosis: { ...job.diagnosis, next: held.next } } }
        : now,
    [now, job, held, basis],
  );
}

/** Whether there is a verdict to act on. */
const settled = (job: Job) =>
  ["isolated", "nothing_wrong", "contradiction"].includes(job.diagnosis.verdict.status) ||
  job.diagnosis.verdict.repair !== undefined;

/** Where a walk leads: offered where volts under load are read, once its caution is understood. */
function routeOf(job: Job, circuit: JobCircuit, state: string): string[] {
  const st = circuit.states.find((s) => s.id === state);
  const pic = job.picture;
  if (!pic || st?.supply !== "battery" || !pic.flows || job.intermittent) return [];
  return st.caution && !job.acknowledged.includes(st.id) ? [] : places(pic, "bat_neg");
}

/** What cannot be reached, when a suggestion cannot be taken. */
const placeOf = (s?: Suggestion) => s?.observe ?? s?.through ?? (s?.from === "bat_pos" ? s.to : s?.from);

/** What to do next, or the verdict. */
const Card = memo(function Card({
  own,
  pick,
  more,
  walk,
  entering,
  mayWrite,
  onPick,
  onOwn,
  onMore,
  onWalk,
  onRed,
  onChange,
}: {
  own: Own;
  pick: { basis: string; at: number };
  more: string;
  walk: string[] | null;
  entering: Entering;
  mayWrite: boolean;
  onPick: (p: { basis: string; at: number }) => void;
  onOwn: (o: Own) => void;
  onMore: (basis: string) => void;
  onWalk: (route: string[] | null) => void;
  onRed: (n?: string) => void;
  onChange: (body: Record<string, unknown>) => void;
}) {
  const { job, circuit, state } = useJob();
  const next = job.diagnosis.next;
  const basis = basisOf(job);
  const at = pick.basis === basis ? pick.at : 0;
  const asked = askedOf(next, circuit, state, own, at);
  const route = routeOf(job, circuit, state);
  const [picking, setPicking] = useState<Picking>({});
  const picker = <OwnPicker picking={picking} onPicking={setPicking} onOwn={onOwn} />;
  if (walk) return <Walk route={walk} enter={entering} onRed={onRed} onEnd={() => onWalk(null)} />;
  if (!own && more !== basis && settled(job))
    return <VerdictCard onMore={() => onMore(basis)} canMore={next.length > 0} picker={mayWrite && picker} />;
  if (job.thinking && !own)
    return (
      <section className="card next" aria-label={words.nextReading} aria-busy>
        <p className="next-head">{words.measureNext}</p>
        <h1 className="quiet">{words.weighingWhatToDo}</h1>
      </section>
    );
  return (
    <NextReading
      key={`${asked?.measure}${asked?.observe}${asked?.state}${asked?.from}${asked?.to}${asked?.through}`}
      asked={asked}
      own={own}
      enter={entering}
      onAnother={() => {
        onOwn(null);
        onPick({ basis, at: next.length ? (at + 1) % next.length : 0 });
      }}
      onCannot={() => {
        const id = placeOf(asked);
        if (id && mayWrite) onChange({ cannot_reach: id });
      }}
      onOwn={onOwn}
      picker={picker}
      onWalk={mayWrite && route.length > 1 && !own ? () => onWalk(route) : undefined}
      others={next.length}
    />
  );
});
