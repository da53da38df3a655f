import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useApp } from "../app/context";
import { evidence, notSure, observationOf, question, stateOf, useJob, useWrites } from "../job/job";
import { tells, minutes, share, upper } from "../shared/format";
import { SymptomBar, useSymptom } from "../measure/Symptom";
import { BlinkCounter, blinkEvidence, blinkStates } from "./BlinkCounter";
import * as words from "./words";
import { Controller } from "../codes/Controller";
import { useLost } from "../offline/sync";

/** The technician's leaning: shown, and shifting the order. */
export function Leaning() {
  const { job, state } = useJob();
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const lost = useLost();
  const at = job.known.leaning ?? 0;
  return (
    <span className="leaning" role="group" aria-label={words.leaning}>
      {(
        [
          [-1, words.meterFirst],
          [0, "even"],
          [1, words.quickTricksFirst],
        ] as const
      ).map(([v, label]) => (
        <Button
          key={v}
          size="middle"
          disabled={!mayWrite || lost}
          title={lost ? words.needsTheConnection : undefined}
          type={Math.sign(at) === v ? "primary" : "default"}
          aria-pressed={Math.sign(at) === v}
          onClick={() => change.mutate({ known: { ...job.known, leaning: v } })}
        >
          {label}
        </Button>
      ))}
    </span>
  );
}

/** Look, listen, smell, turn: one tap each, evidence at once. The most telling for its minutes comes first. */
export default function Checks() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { enter, strike } = useWrites(job.id, state);
  const [symptom, setSymptom] = useSymptom(job);
  const [all, setAll] = useState(false);
  const given = job.evidence.filter((e) => !e.struck && e.observe);
  const isGiven = (o: string, s: string, t?: string) =>
    given.findLast((e) => e.observe === o && e.state === s && (e.through ?? "") === (t ?? ""));
  const best = Math.max(...job.looks.map((l) => l.bits / (l.minutes + 0.2)), 1e-9);
  // Quick means as it stands: nothing unbolted, nothing fed direct. A smell is a smell in any state: ask once.
  const open = job.looks.filter((l) => {
    const o = observationOf(circuit, l.observe);
    const anywhere = o && o.states.length > 3 && o.model === "rates";
    return stateOf(circuit, l.state)?.supply !== "feed" && !(anywhere && l.state !== o.states[0]);
  });
  const worth = open.filter((l) => l.bits / (l.minutes + 0.2) > best * 0.04 && l.bits > 0.005);
  const list = [
    ...(all || worth.length === 0 ? open : worth),
    ...given.map((e) => ({
      observe: e.observe ?? "",
      state: e.state ?? "",
      through: e.through,
      bits: 0,
      minutes: 0,
      people: 1,
    })),
  ].filter(
    (l, i, xs) =>
      xs.findIndex(
        (x) => x.observe === l.observe && x.state === l.state && (x.through ?? "") === (l.through ?? ""),
      ) === i,
  );
  const top = job.suspects[0];
  return (
    <main className="page">
      <div className="lead">
        {words.everyAnswerCountsAt}{" "}
        {top && job.evidence.length > 0 && (
          <>
            {words.likeliestSoFar} <b>{top.fault || top.label}</b>, {share(top.probability)}.{" "}
          </>
        )}
        <Link to="../measure">{words.goOnToMeasuring}</Link> <Leaning />
      </div>
      {job.intermittent && <SymptomBar value={symptom} onChange={setSymptom} />}
      {(enter.error ?? strike.error) && (
        <p className="wrong" role="alert">
          {(enter.error ?? strike.error)?.message}
        </p>
      )}
      <ul className="checks">
        {list.map((l, i) => {
          const o = observationOf(circuit, l.observe);
          if (!o) return null;
          const was = isGiven(l.observe, l.state, l.through);
          const st = stateOf(circuit, l.state);
          const record = (outcome: string) =>
            enter.mutate({
              evidence: [evidence({ observe: o.id, state: l.state, through: l.through, outcome, symptom })],
            });
          return (
            <li key={`${o.id}${l.state}${l.through}`} className={`card check ${was ? "given" : ""}`}>
              <p className="check-state">
                {st?.label}
                {!was && i === 0 && <b className="best"> {words.mostTellingNow}</b>}
              </p>
              <h2>{question(circuit, l)}</h2>
              {o.model === "blink_code" && !was ? (
                mayWrite && (
                  <>
                    <BlinkCounter
                      busy={enter.isPending}
                      canBeLate={!!blinkStates(circuit, o).work}
                      onCode={(n, late) =>
                        enter.mutate({ evidence: blinkEvidence(circuit, o, l.state, n, late, { symptom }) })
                      }
                    />
                    <Controller />
                  </>
                )
              ) : (
                <div className="answers" role="group" aria-label={o.label}>
                  {[...o.outcomes, { id: notSure, label: words.notSure }]
                    .filter((x) => o.model !== "blink_code" || x.id === was?.outcome)
                    .map((x) => {
                      const on = was?.outcome === x.id;
                      return (
                        <Button
                          key={x.id}
                          disabled={!mayWrite || enter.isPending || strike.isPending}
                          type={on ? "primary" : "default"}
                          aria-pressed={on}
                          onClick={() => {
                            if (was) strike.mutate({ evidence: was.id, out: true });
                            if (!on) record(x.id);
                          }}
                        >
                          {on ? "✓ " : ""}
                          {x.label}
                        </Button>
                      );
                    })}
                </div>
              )}
              <p className="quiet">
                {o.tells ? `${upper(o.tells)}. ` : ""}
                {!was &&
                  words.tellsNow(
                    upper(minutes(l.minutes)),
                    l.people > 1 ? words.secondPerson : "",
                    tells(l.bits),
                  )}
              </p>
              {!was && st?.caution && <p className="caution">⚠ {st.caution}</p>}
            </li>
          );
        })}
      </ul>
      {!all && worth.length > 0 && worth.length < open.length && (
        <p>
          <Button onClick={() => setAll(true)}>{words.showMoreThatTell(open.length - worth.length)}</Button>
        </p>
      )}
    </main>
  );
}
