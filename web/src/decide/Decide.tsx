import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import type { OptionsView } from "../api/client";
import { useApp } from "../app/context";
import { useJob } from "../job/job";
import { RepairList } from "../job/RepairList";
import { settled, toDo } from "../job/repairs";
import { compare } from "../offline/sync";
import { lower, share } from "../shared/format";
import { useRested } from "../shared/hooks";
import { Costs } from "./Costs";
import { OverYears } from "./OverYears";
import { costs, Plan } from "./Plan";
import { useJobTerms, useTerms } from "./terms";
import { TermsLine, WishesCard } from "./Wishes";
import * as words from "./words";

/** What can be done about what was found: plans for one part or several, and the repairs that came of them. */
export default function Decide() {
  const { job } = useJob();
  const v = job.diagnosis.verdict;
  const work = job.work;
  const nothing =
    work.length === 0 &&
    (v.status === "nothing_wrong" || v.status === "contradiction" || job.evidence.length === 0);
  if (nothing)
    return (
      <main className="page narrow">
        <h1>{words.nothingToDecideYet}</h1>
        <p>{job.evidence.length === 0 ? words.noReadingWasTaken : v.says}</p>
        <p>
          <Link to="../measure">{words.backToMeasuring}</Link>
        </p>
      </main>
    );
  // While something is to be done or to be proved, that comes first; the options are there to think it over.
  const busy = toDo(work) !== undefined || work.some((w) => w.status === "done");
  const over = settled(work);
  return (
    <main className="page decide">
      {work.length > 0 && (
        <section className="card">
          <h1>
            {over
              ? words.allThatWasChosen
              : busy
                ? toDo(work)
                  ? words.doWhatWasChosen
                  : words.proveWhatWasDone
                : words.itIsNotGood}
          </h1>
          <RepairList work={work} />
          {over && (
            <p>
              <Link to="../report">{words.printTheReport}</Link>
            </p>
          )}
        </section>
      )}
      {busy || over ? (
        <details className="card">
          <summary>{over ? words.decideAboutAnotherPart : words.thinkItOverOr}</summary>
          <Options />
        </details>
      ) : (
        <Options />
      )}
      {work.length > 0 && <Costs />}
    </main>
  );
}

function Options() {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const { terms, setTerms } = useTerms();
  const { ready, wishes, figures, setWishes, setFigures, error } = useJobTerms(job.id, mayWrite);
  const [stations, setStations] = useState<string[]>();
  const [open, setOpen] = useState<string>();
  // The same object while it says the same: a new one each time would never come to rest.
  const wanted = useMemo(
    () => ({ stations: stations ?? [], terms, wishes, with: figures }),
    [stations, terms, wishes, figures],
  );
  const asked = useRested(wanted, 200);
  const cmp = useQuery({
    queryKey: ["compare", job.id, job.revision, asked],
    queryFn: () => compare(job.id, asked),
    placeholderData: keepPreviousData,
    enabled: ready,
  });
  const options = cmp.data?.options ?? [];
  const free = options.filter((o) => (!o.veto || o.veto.set_aside) && !o.against);
  const most =
    Math.max(...options.filter((o) => o.id !== "leave" && !o.veto).map((o) => o.expected), 1) * 1.1;
  const wrong = cmp.error ?? error;
  const about = cmp.data?.questions.filter((q) => q.asked).map((q) => q.station) ?? [];
  return (
    <>
      {cmp.data && <Questions view={cmp.data} onChange={setStations} />}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong.message}
        </p>
      )}
      <section className="card">
        <h2 className="advice">{cmp.data?.says ?? words.workingItOut}</h2>
        {cmp.data?.ruled && <p className="warn">{cmp.data.ruled}</p>}
        <TermsLine terms={terms} onChange={setTerms} />
        <ul className="stack-key" aria-hidden="true">
          {costs.map(([k, l, cls]) => (
            <li key={k}>
              <i className={cls} /> {l}
            </li>
          ))}
        </ul>
        <ul className="option-list">
          {options.map((o) => (
            <Plan
              key={o.id}
              o={o}
              best={o.id === free[0]?.id}
              most={most}
              open={open === o.id}
              onOpen={() => setOpen(open === o.id ? undefined : o.id)}
              onFigures={(f) => setFigures({ ...figures, [o.id]: f })}
              basis={{ stations: about, terms, wishes, figures, faults: cmp.data?.faults ?? {} }}
              mayWrite={mayWrite}
            />
          ))}
        </ul>
        {cmp.data?.over_years && <OverYears over={cmp.data.over_years} asked={terms.years} />}
        {cmp.data && cmp.data.break_evens.length > 0 && (
          <>
            <h2>{words.forTheNextOne}</h2>
            <ul>
              {cmp.data.break_evens.map((b) => (
                <li key={b.quantity}>{b.says}</li>
              ))}
            </ul>
          </>
        )}
        {(cmp.data?.learned ?? []).map((l) => (
          <p key={l} className="note">
            {l}
          </p>
        ))}
      </section>
      <WishesCard wishes={wishes} onChange={setWishes} />
    </>
  );
}

/** How sure it is, and the parts the options are about: one, or several at once. */
function Questions({ view, onChange }: { view: OptionsView; onChange: (s: string[]) => void }) {
  const { job } = useJob();
  const v = job.diagnosis.verdict;
  const asked = view.questions.filter((q) => q.asked);
  const names = asked.map((q) => lower(q.label)).join(" and the ");
  const toggle = (station: string) => {
    const now = asked.map((q) => q.station);
    const next = now.includes(station) ? now.filter((s) => s !== station) : [...now, station].slice(-4);
    if (next.length > 0) onChange(next);
  };
  return (
    <section className="questions">
      <p className="lead">
        {v.says} {view.sure < 0.95 && <b>{words.onlySureOfThe(share(view.sure), names)}</b>}
      </p>
      {view.questions.length > 1 && (
        <div className="question-parts" role="group" aria-label={words.whichPartsItIs}>
          <span className="quiet">{words.about}</span>
          {view.questions.map((q) => (
            <button
              key={q.station}
              type="button"
              className="chip"
              aria-pressed={q.asked}
              onClick={() => toggle(q.station)}
            >
              {q.asked && "✓ "}
              {q.label} <small>{share(q.probability)}</small>
            </button>
          ))}
        </div>
      )}
    </section>
  );
}
