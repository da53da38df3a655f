import { Button } from "antd";
import { Link } from "react-router";
import { useApp } from "../app/context";
import { evidence, stateOf, useJob, useWrites } from "../job/job";
import { minutes, share, upper } from "../shared/format";
import { SymptomBar, useSymptom } from "../measure/Symptom";

/** Look, listen, smell, turn: one tap each, evidence at once. The most telling comes first. */
export default function Checks() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { enter, strike } = useWrites(job.id, state);
  const [symptom, setSymptom] = useSymptom(job);
  const rank = new Map(job.diagnosis.next.map((n, i) => [`${n.observe}|${n.state}`, i]));
  const list = circuit.observations
    .flatMap((o) => o.states.map((s) => ({ o, s })))
    // Quick means as it stands: nothing unbolted, nothing fed direct. A smell is a smell in any state: ask once.
    .filter(({ o, s }) => stateOf(circuit, s)?.supply !== "feed" && (o.id !== "smell" || s === o.states[0]))
    .map((x, i) => ({
      ...x,
      given: job.evidence.filter((e) => !e.struck && e.observe === x.o.id && e.state === x.s).at(-1),
      rank: rank.get(`${x.o.id}|${x.s}`) ?? 100 + (x.s === circuit.run_state ? 0 : 50) + i,
    }))
    .sort((a, b) => Number(!!a.given) - Number(!!b.given) || a.rank - b.rank);
  const top = job.suspects[0];
  return (
    <main className="page">
      <p className="lead">
        Thirty seconds each; every answer counts at once.{" "}
        {top && job.evidence.length > 0 && (
          <>
            Likeliest so far: <b>{top.fault || top.label}</b>, {share(top.probability)}.{" "}
          </>
        )}
        <Link to="../measure">Go on to measuring</Link>
      </p>
      {job.intermittent && <SymptomBar value={symptom} onChange={setSymptom} />}
      {(enter.error ?? strike.error) && (
        <p className="wrong" role="alert">
          {(enter.error ?? strike.error)?.message}
        </p>
      )}
      <ul className="checks">
        {list.map(({ o, s, given }) => {
          const st = stateOf(circuit, s);
          return (
            <li key={o.id + s} className={`card check ${given ? "given" : ""}`}>
              <p className="check-state">{st?.label}</p>
              <h2>{o.question}</h2>
              <div className="answers" role="group" aria-label={o.label}>
                {o.outcomes.map((x) => {
                  const on = given?.outcome === x.id;
                  return (
                    <Button
                      key={x.id}
                      disabled={!mayWrite || enter.isPending || strike.isPending}
                      type={on ? "primary" : "default"}
                      aria-pressed={on}
                      onClick={() => {
                        if (given) strike.mutate({ evidence: given.id, out: true });
                        if (!on)
                          enter.mutate({
                            evidence: [evidence({ observe: o.id, state: s, outcome: x.id, symptom })],
                          });
                      }}
                    >
                      {on ? "✓ " : ""}
                      {x.label}
                    </Button>
                  );
                })}
              </div>
              <p className="quiet">
                {o.tells ? `${upper(o.tells)}. ` : ""}
                {upper(minutes((o.minutes ?? 0) + (st?.minutes ?? 0)))}
                {Math.max(o.people ?? 1, st?.people ?? 1) > 1 ? ", second person" : ""}.
              </p>
              {!given && st?.caution && <p className="caution">⚠ {st.caution}</p>}
            </li>
          );
        })}
      </ul>
    </main>
  );
}
