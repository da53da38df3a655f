import { memo, useState } from "react";
import { useApp } from "../app/context";
import { answer, stateOf, subject, useJob, type useWrites } from "../job/job";
import { share } from "../shared/format";
import { Suspicion } from "./Suspicion";
import * as words from "./words";
import { Tabs } from "../shared/Tabs";
import { useLost } from "../offline/sync";

/** The suspects, and the readings behind them. */
export const Side = memo(function Side({
  onStrike,
  problem,
  folded,
}: {
  onStrike: ReturnType<typeof useWrites>["strike"]["mutate"];
  problem?: string;
  folded?: boolean;
}) {
  const { job } = useJob();
  const [tab, setTab] = useState<"suspects" | "readings" | "course">("suspects");
  const [open, setOpen] = useState(!folded);
  const top = job.suspects[0];
  if (!open)
    return (
      <button type="button" className="card side-fold" onClick={() => setOpen(true)}>
        {top ? (
          <>
            <b>{top.label}</b> {share(top.probability)}
          </>
        ) : (
          words.suspects
        )}{" "}
        ▾
      </button>
    );
  return (
    <section className="card side">
      <Tabs
        label={words.whatIsKnown}
        at={tab}
        onGo={setTab}
        tabs={[
          ["suspects", words.suspects, <Suspects key="suspects" />],
          [
            "readings",
            words.readings(job.evidence.length),
            <Readings key="readings" onStrike={onStrike} problem={problem} />,
          ],
          ["course", words.howItWent, <Suspicion key="course" />],
        ]}
      />
    </section>
  );
});

function Suspects() {
  const { job, circuit } = useJob();
  const line = (i: number | undefined, word: string) => {
    const e = i ? job.evidence[i - 1] : undefined;
    return e ? `${word} ${subject(circuit, e)}, ${answer(circuit, e)}` : null;
  };
  // What looks wrong with what was entered comes before what is made of it.
  const doubts = job.diagnosis.warnings.filter(
    (w) => ["slip", "given", "loop", "charging"].includes(w.code) && w.says !== job.diagnosis.verdict.slip,
  );
  return (
    <>
      {doubts.map((w) => (
        <p key={w.code + w.says} className="warn" role="status">
          {w.says}
        </p>
      ))}
      <ol className="suspects">
        {job.suspects
          .filter((s, i) => i < 2 || s.probability >= 0.01 || s.rest)
          .map((s) => (
            <li key={s.rest ? "rest" : s.stations.join("+") || "none"}>
              <div>
                <b>{s.fault ? s.fault.charAt(0).toUpperCase() + s.fault.slice(1) : s.label}</b>
                <span className="suspect-p">{share(s.probability)}</span>
              </div>
              <div className="suspect-bar" aria-hidden>
                <i style={{ width: `${s.probability * 100}%` }} />
              </div>
              <small>
                {[
                  s.total ? words.aloneOrWithOthers(share(s.total)) : null,
                  line(s.for, words.accusedBy),
                  line(s.against, words.clearedBy),
                ]
                  .filter(Boolean)
                  .join(" · ") || (s.rest ? "" : words.nothingReadAccusesOr)}
              </small>
            </li>
          ))}
      </ol>
    </>
  );
}

function Readings({
  onStrike,
  problem,
}: {
  onStrike: ReturnType<typeof useWrites>["strike"]["mutate"];
  problem?: string;
}) {
  const { job, circuit, then, setThen } = useJob();
  const lost = useLost();
  const { mayWrite, me } = useApp();
  if (job.evidence.length === 0) return <p className="empty">{words.nothingTakenYetThe}</p>;
  const warnings = job.diagnosis.warnings;
  return (
    <>
      {problem && <p className="wrong">{problem}</p>}
      <ol className="readings" reversed>
        {job.evidence
          .map((e, i) => ({ e, i }))
          .reverse()
          .map(({ e, i }) => (
            <li key={e.id} className={e.struck ? "struck" : ""} value={i + 1}>
              <div>
                <span>
                  {subject(circuit, e)} <small>{stateOf(circuit, e.state)?.label}</small>
                  {e.by && e.by !== me.name && <small className="by">{words.by(e.by)}</small>}
                </span>
                <b>{answer(circuit, e)}</b>
                {then === undefined && !lost && job.evidence.length > 1 && (
                  <button
                    type="button"
                    className="link"
                    title={words.thePictureAndThe}
                    onClick={() => setThen(i + 1)}
                  >
                    {words.then}
                  </button>
                )}
                {mayWrite && then === undefined && (
                  <button
                    type="button"
                    className="link"
                    aria-label={`${e.struck ? words.takeBack : words.strikeOut} ${subject(circuit, e)}, ${answer(circuit, e)}`}
                    onClick={() => onStrike({ evidence: e.id, out: !e.struck })}
                  >
                    {e.struck ? words.takeBack : words.strikeOut}
                  </button>
                )}
              </div>
              <small>{job.diagnosis.evidence[i]?.says}</small>
              {warnings
                .filter((w) => w.index === i + 1)
                .map((w) => (
                  <small key={w.code} className="warn">
                    {w.says}
                  </small>
                ))}
            </li>
          ))}
      </ol>
    </>
  );
}
