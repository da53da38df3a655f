import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from "react";
import { Link } from "react-router";
import { api, must, Refused, type Suggestion } from "../api/client";
import { useApp } from "../app/context";
import { useBound } from "../app/keys";
import { BlinkCounter, blinkEvidence, blinkStates } from "../checks/BlinkCounter";
import {
  evidence,
  instruction,
  notSure,
  observationOf,
  question,
  stateOf,
  stationOf,
  unitOf,
  useJob,
  useWrites,
} from "../job/job";
import { lower, minutes, quantity, range } from "../shared/format";
import { toCard, useNarrow, useRested } from "../shared/hooks";
import { preview as previewHere } from "../offline/core";
import { reach } from "../offline/sync";
import { Keypad } from "./Keypad";
import { beep, useLive, useMeter, withMeter } from "./live";
import { measureNames, whole, type Own } from "./own";
import { SymptomBar, useSymptom } from "./Symptom";
import * as words from "./words";

// Who reads a blink code fetches the list of controllers.
const Controller = lazy(async () => ({ default: (await import("../codes/Controller")).Controller }));

/** Entering evidence: under way, or refused with a reason. */
export type Entering = Pick<
  ReturnType<typeof useWrites>["enter"],
  "mutate" | "mutateAsync" | "reset" | "error" | "isPending"
>;

interface Props {
  asked?: Suggestion;
  own: Own;
  enter: Entering;
  onAnother: () => void;
  onCannot: () => void;
  onOwn: (p: Own) => void;
  picker: ReactNode; // for a reading of one's own
  onWalk?: () => void;
  others: number;
}

/** What to do next, in the words that one technician would say to another, and the one field to answer in. */
export function NextReading({
  asked,
  own,
  enter,
  onAnother,
  onCannot,
  onOwn,
  picker,
  onWalk,
  others,
}: Props) {
  const { job, circuit, state, setState } = useJob();
  const { mayWrite } = useApp();
  const [symptom, setSymptom] = useSymptom(job);
  const [condition, setCondition] = useState<string>();
  const { change } = useWrites(job.id, state);
  const st = stateOf(circuit, asked?.state);
  // A caution is read once per job, at the step where it applies.
  const warn = !!st?.caution && mayWrite && !job.acknowledged.includes(st.id);
  // What had the focus went away with the last card or its button: the work goes on here.
  useEffect(() => {
    if (document.activeElement === document.body) toCard();
  }, [warn]);

  if (!asked)
    return (
      <section className="card next" aria-label={words.nextReading}>
        <h1 tabIndex={-1}>{words.noReadingIsWorth}</h1>
        <p>{words.whatStandsOnThe}</p>
        {mayWrite && <div className="next-tools">{picker}</div>}
      </section>
    );
  const o = observationOf(circuit, asked.observe);
  const elsewhere = asked.state !== state;
  const head = own
    ? whole(own)
      ? words.yourOwnReading
      : words.yourOwnReadingTouch
    : words.next(minutes(asked.minutes), asked.people > 1 ? words.secondPerson : "");
  return (
    <section className="card next" aria-label={words.nextReading}>
      <p className="next-head">
        <span>{head}</span>
        {own && (
          <button type="button" className="link" onClick={() => onOwn(null)}>
            {words.backToTheAdvised}
          </button>
        )}
        {elsewhere && (
          <button type="button" className="link" onClick={() => setState(asked.state)}>
            {words.showThePath(lower(st?.label ?? ""))}
          </button>
        )}
      </p>
      <h1 tabIndex={-1}>
        {o
          ? question(circuit, asked)
          : own && !whole(own)
            ? words.redOnBlackOn(
                asked.measure === "voltage"
                  ? words.dcVolts
                  : (measureNames[asked.measure ?? "voltage"] ?? ""),
                circuit.nodes.find((n) => n.id === asked.from)?.label ?? "…",
              )
            : instruction(circuit, asked)}
      </h1>
      {st && (
        <p className="how">
          {st.how} {st.hold && <b>{st.hold}.</b>}
        </p>
      )}
      {!o && <Expect asked={asked} />}
      {asked.observe === "current_trace" && (
        <p>
          <Link to={`/jobs/${job.id}/trace`}>{words.readTheScopeS}</Link>
          {words.itAnswersByItself}
        </p>
      )}
      {!own && asked.because && o && <p className="expect">{asked.because}</p>}
      {st?.caution && (
        <p className="caution">
          ⚠ {st.caution}{" "}
          {warn && (
            <Button
              autoFocus
              loading={change.isPending}
              onClick={() => change.mutate({ acknowledge: st.id }, { onSettled: toCard })}
            >
              {words.understood}
            </Button>
          )}
        </p>
      )}
      {job.intermittent && !warn && (
        <>
          <SymptomBar value={symptom} onChange={setSymptom} />
          <ConditionBar value={condition} onChange={setCondition} />
        </>
      )}
      {mayWrite &&
        !warn &&
        (o?.model === "blink_code" ? (
          <>
            <BlinkCounter
              busy={enter.isPending}
              canBeLate={!!blinkStates(circuit, o).work}
              onCode={(n, late) =>
                enter.mutate({
                  evidence: blinkEvidence(circuit, o, asked.state, n, late, { symptom, condition }),
                })
              }
            />
            <Suspense>
              <Controller />
            </Suspense>
          </>
        ) : o ? (
          <Answers
            label={o.label}
            outcomes={o.outcomes}
            busy={enter.isPending}
            onAnswer={(outcome) =>
              enter.mutate({
                evidence: [
                  evidence({
                    observe: o.id,
                    state: asked.state,
                    through: asked.through,
                    outcome,
                    symptom,
                    condition,
                  }),
                ],
              })
            }
          />
        ) : (
          (!own || whole(own)) && (
            <Entry
              asked={asked}
              symptom={symptom}
              condition={condition}
              enter={enter}
              onDone={() => onOwn(null)}
            />
          )
        ))}
      {enter.error && (
        <p className="wrong" role="alert">
          {enter.error.message}
        </p>
      )}
      {mayWrite && (
        <div className="next-tools">
          {others > 1 && (
            <Button onClick={onAnother}>
              {words.anotherReading} <kbd>N</kbd>
            </Button>
          )}
          {onWalk && (
            <Button onClick={onWalk}>
              {words.walkThePath} <kbd>W</kbd>
            </Button>
          )}
          {!own && (
            <Button onClick={onCannot}>
              {words.cannotReach} <kbd>C</kbd>
            </Button>
          )}
          {picker}
        </div>
      )}
    </section>
  );
}

/** The answers to a question, one touch or one key each. */
function Answers({
  label,
  outcomes,
  busy,
  onAnswer,
}: {
  label: string;
  outcomes: { id: string; label: string }[];
  busy: boolean;
  onAnswer: (outcome: string) => void;
}) {
  const give = (x?: string) => (x && !busy ? onAnswer(x) : false);
  useBound({ answer: (k) => give(outcomes[Number(k) - 1]?.id), unsure: () => give(notSure) });
  return (
    <div className="answers" role="group" aria-label={label} aria-busy={busy}>
      {outcomes.map((x, i) => (
        <Button key={x.id} size="large" onClick={() => !busy && onAnswer(x.id)}>
          {x.label} <kbd>{i + 1}</kbd>
        </Button>
      ))}
      <Button size="large" type="text" onClick={() => !busy && onAnswer(notSure)}>
        {words.notSure} <kbd>0</kbd>
      </Button>
    </div>
  );
}

/** Good and bad, in figures for this vehicle. */
function Expect({ asked }: { asked: Suggestion }) {
  const { circuit } = useJob();
  const m = asked.measure ?? "";
  const good = asked.good_ol ? "OL" : asked.good ? range(asked.good.low, asked.good.high, m) : null;
  // Only what would read otherwise than a good circuit is worth a sentence.
  const differs = (e: { low: number; high: number; ol?: boolean }) =>
    asked.good_ol
      ? !e.ol
      : !asked.good ||
        !!e.ol ||
        (e.low + e.high) / 2 < asked.good.low ||
        (e.low + e.high) / 2 > asked.good.high;
  const bad = (asked.expects ?? []).filter((e) => e.station !== "" && differs(e)).slice(0, 2);
  if (!good && bad.length === 0) return null;
  const name = (ids: string) =>
    ids
      .split("+")
      .map((id) => lower(stationOf(circuit, id)?.label ?? id))
      .join(" and ");
  return (
    <p className="expect">
      {good && (
        <>
          <b>{words.goodWithGood(good)}</b>{" "}
        </>
      )}
      {bad.map((e) => (
        <span key={e.station}>
          {words.ifItIsThe(e.ol ? "OL" : range(e.low, e.high, m), name(e.station))}{" "}
        </span>
      ))}
    </p>
  );
}

const conditions: [string, string][] = [
  ["wiggle", "wiggled"],
  ["hot", "hot"],
  ["cold", "cold"],
  ["after_tap", words.afterATap],
];

/** What brings an intermittent fault out. */
function ConditionBar({ value, onChange }: { value?: string; onChange: (v?: string) => void }) {
  return (
    <div className="symptom" role="group" aria-label={words.takenWhile}>
      {conditions.map(([v, label]) => (
        <Button
          key={v}
          size="middle"
          type={value === v ? "primary" : "default"}
          aria-pressed={value === v}
          onClick={() => onChange(value === v ? undefined : v)}
        >
          {label}
        </Button>
      ))}
      <span className="quiet">{words.bringItOutOn}</span>
    </div>
  );
}

function Entry({
  asked,
  symptom,
  condition,
  enter,
  onDone,
}: {
  asked: Suggestion;
  symptom?: string;
  condition?: string;
  enter: Props["enter"];
  onDone: () => void;
}) {
  const { job, state } = useJob();
  const narrow = useNarrow();
  const [text, setText] = useState("");
  const field = useRef<HTMLInputElement>(null);
  // Soon: what is typed is weighed while it stands there, so that the picture is ready when it is entered.
  const rested = useRested(text.trim(), 80);
  const m = asked.measure ?? "voltage";
  const { meter, fit, choose } = useMeter(m);
  const live = useLive(meter, asked);
  const r = live.reading;
  const e = {
    measure: m,
    state: asked.state,
    from: asked.from,
    to: asked.to,
    through: asked.through,
    value: text.trim(),
    symptom,
    condition,
    ...withMeter(meter, m),
  };
  const preview = useQuery({
    queryKey: [
      "preview",
      job.id,
      job.revision,
      m,
      asked.state,
      asked.from,
      asked.to,
      asked.through,
      meter?.name,
      rested,
    ],
    queryFn: async () => {
      try {
        return await reach(
          must(
            api.POST("/api/jobs/{id}/preview", {
              params: { path: { id: job.id } },
              body: { ...e, value: rested, id: "00000000-0000-7000-8000-000000000000" },
              signal: AbortSignal.timeout(5000),
            }),
          ),
        );
      } catch (x) {
        if (!(x instanceof Refused && x.status === 0)) throw x;
        return previewHere({ ...e, value: rested, instrument: undefined }).catch((y: Error) => {
          throw new Refused(422, y.message);
        });
      }
    },
    enabled: rested !== "",
    staleTime: Infinity,
    retry: false,
  });
  // Beginners write an empty display as zero; nothing and a dead short are as far apart as can be.
  const [empty, setEmpty] = useState(false);
  const record = (value = text.trim(), sure = false) => {
    if (value === "" || enter.isPending) return;
    if (m === "resistance" && !sure && /^0+([.,]0*)?\s*(Ω|ohms?|r)?$/i.test(value)) {
      setEmpty(true);
      return;
    }
    // A field that goes away while it has the focus makes the browser lay the page out anew.
    field.current?.blur();
    enter.mutate(
      { evidence: [evidence({ ...e, value })], state: asked.state === state ? state : asked.state },
      {
        onSuccess: () => {
          setText("");
          setEmpty(false);
          onDone();
          toCard();
        },
        onError: () => field.current?.focus(),
        onSettled: () => setArmed(false),
      },
    );
  };
  // Space takes the live value, at once or as soon as it has come to rest.
  const [armed, setArmed] = useState(false);
  useBound({
    // A figure typed anywhere starts a reading.
    digits: (k) => {
      setText((x) => x + k);
      field.current?.focus();
    },
    live: () => (!r || document.activeElement?.tagName === "BUTTON" ? false : setArmed(true)),
  });
  const ready = armed && !!r?.settled && !enter.isPending;
  const took = useRef(false);
  useEffect(() => {
    if (!ready) {
      took.current = false;
      return;
    }
    if (took.current) return;
    took.current = true;
    beep();
    record(r.take);
  });
  const p = preview.data;
  return (
    <form
      className="entry"
      onSubmit={(ev) => {
        ev.preventDefault();
        record();
      }}
    >
      <div className="entry-row">
        <div className="entry-field">
          <input
            ref={field}
            aria-label={words.whatTheMeterShows}
            placeholder={words.exampleReading}
            value={text}
            inputMode={narrow ? "none" : "text"}
            autoComplete="off"
            autoCorrect="off"
            spellCheck={false}
            maxLength={24}
            onChange={(ev) => {
              if (enter.error) enter.reset();
              setEmpty(false);
              setText(ev.target.value);
            }}
            onKeyDown={(ev) => {
              if (ev.key === "Escape") {
                field.current?.blur();
                toCard();
              }
            }}
          />
          <span className="entry-unit">{unitOf(m)}</span>
        </div>
        <div className="entry-says" role="status">
          {text.trim() === "" ? (
            <span className="quiet">{words.typeWhatTheMeter}</span>
          ) : preview.error instanceof Refused ? (
            // Recorded all the same, the same sentence stands below: once is enough.
            preview.error.message !== enter.error?.message && (
              <span className="wrong">{preview.error.message}</span>
            )
          ) : p && rested === text.trim() ? (
            <>
              <span className={`judged ${p.verdict}`}>
                {p.over ? "OL" : `${p.text} ± ${quantity((p.high - p.low) / 2, m)}`}
                {p.verdict === "good" ? words.asInAGood : p.verdict === "bad" ? words.notWhatAGood : ""}
              </span>
              {p.warnings.map((w) => (
                <span key={w.code} className="warn">
                  {w.says}
                </span>
              ))}
            </>
          ) : (
            <span className="quiet">…</span>
          )}
        </div>
        <Button
          type="primary"
          size="large"
          htmlType="submit"
          aria-busy={enter.isPending}
          disabled={text.trim() === ""}
        >
          {words.record} <kbd>Enter</kbd>
        </Button>
      </div>
      {empty && (
        <div className="answers zero" role="group" aria-label={words.whatDoesTheDisplay}>
          <b>{words.whatStandsOnTheDisplay}</b>
          <Button autoFocus size="large" onClick={() => record("0", true)}>
            {words.zeroOhms}
          </Button>
          <Button size="large" onClick={() => record("OL", true)}>
            {words.ol1OrOpen}
          </Button>
        </div>
      )}
      {fit.length > 0 && (
        <div className="live-row">
          <select
            aria-label={words.readWith}
            value={meter?.name ?? ""}
            onChange={(ev) => choose(ev.target.value)}
          >
            <option value="">{m === "current" ? words.anOrdinaryClamp : words.anOrdinaryMeter}</option>
            {fit.map((v) => (
              <option key={v.id}>{v.name}</option>
            ))}
          </select>
          {live.problem ? (
            <span className="warn" role="status">
              {live.problem}
            </span>
          ) : (
            r && (
              <>
                <b className={r.settled ? "live settled" : "live"} aria-label={words.liveReading}>
                  {r.text}
                </b>
                <span className="quiet">
                  {words.leastMostMean(
                    armed ? words.takenWhenItRests : r.settled ? words.atRest : words.moving,
                    r.min_text,
                    r.max_text,
                    r.mean_text,
                  )}
                </span>
                <Button onClick={() => setArmed(true)} aria-busy={enter.isPending}>
                  {words.take} <kbd>Space</kbd>
                </Button>
                {!r.over && <Button onClick={() => record(r.min_text)}>{words.takeTheLeast}</Button>}
              </>
            )
          )}
        </div>
      )}
      {narrow && (
        <Keypad onKey={(k) => setText((x) => (k === "⌫" ? x.slice(0, -1) : k === "OL" ? "OL" : x + k))} />
      )}
    </form>
  );
}
