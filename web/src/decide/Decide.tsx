import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Input, InputNumber, Radio } from "antd";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { api, must, type Figures, type Option, type Terms } from "../api/client";
import { useApp } from "../app/context";
import { stationOf, useJob, useWrites } from "../job/job";
import { age, money, share } from "../shared/format";
import { useRested } from "../shared/hooks";
import { newId } from "../shared/id";
import { Costs } from "./Costs";
import { PartsFor } from "./PartsFor";

const usual: Terms = { hour_rate: 58, loss_per_day: 25, years: 4, comeback: 60, postage: 8 };
const kept = "corriente-terms";

/** The terms this workshop used last: they are its own, not the job's. */
const remembered = (): Terms => {
  try {
    const t = JSON.parse(localStorage.getItem(kept) ?? "null") as Terms | null;
    return t && typeof t.hour_rate === "number" ? { ...usual, ...t } : usual;
  } catch {
    return usual;
  }
};

/** Repair or replace and all between: expected cost, time, what one would have to believe for the next to win. */
export default function Decide() {
  const { job, circuit } = useJob();
  const v = job.diagnosis.verdict;
  const chosen = job.decisions.at(-1)?.station;
  const station = chosen ?? v.station ?? job.diagnosis.stations[0]?.station;
  const s = stationOf(circuit, station);
  if (
    !s ||
    !station ||
    (!chosen && (v.status === "nothing_wrong" || v.status === "contradiction" || job.evidence.length === 0))
  )
    return (
      <main className="page narrow">
        <h1>Nothing to decide yet</h1>
        <p>{job.evidence.length === 0 ? "No reading was taken." : v.says}</p>
        <p>
          <Link to="../measure">Back to measuring</Link>
        </p>
      </main>
    );
  return <Options key={station} station={station} />;
}

function Options({ station }: { station: string }) {
  const { job, circuit } = useJob();
  const { mayWrite } = useApp();
  const v = job.diagnosis.verdict;
  const s = stationOf(circuit, station)!;
  const [terms, setTermsState] = useState<Terms>(remembered);
  const [figures, setFigures] = useState<Record<string, Figures>>({});
  const [open, setOpen] = useState<string>();
  const setTerms = (t: Terms) => {
    setTermsState(t);
    try {
      const { hour_rate, loss_per_day, years, comeback, postage, minimum_order, travel } = t;
      localStorage.setItem(
        kept,
        JSON.stringify({ hour_rate, loss_per_day, years, comeback, postage, minimum_order, travel }),
      );
    } catch {
      // A browser that keeps nothing still decides.
    }
  };
  // The same object while it says the same: a new one each time would never come to rest.
  const wanted = useMemo(() => ({ station, terms, with: figures }), [station, terms, figures]);
  const asked = useRested(wanted, 200);
  const cmp = useQuery({
    queryKey: ["compare", job.id, job.revision, asked],
    queryFn: () =>
      must(api.POST("/api/jobs/{id}/compare", { params: { path: { id: job.id } }, body: asked })),
    placeholderData: keepPreviousData,
  });
  const term = (
    k:
      | "hour_rate"
      | "loss_per_day"
      | "years"
      | "comeback"
      | "postage"
      | "minimum_order"
      | "travel"
      | "missed_days",
    label: string,
    max: number,
    step = 1,
    min = 0,
  ) => (
    <label>
      {label}
      <InputNumber
        min={min}
        max={max}
        step={step}
        value={terms[k] ?? 0}
        onChange={(x) => typeof x === "number" && setTerms({ ...terms, [k]: x })}
      />
    </label>
  );
  const flag = (k: "near_fuel" | "burnt" | "winds_here", label: string) => (
    <Checkbox checked={!!terms[k]} onChange={(e) => setTerms({ ...terms, [k]: e.target.checked })}>
      {label}
    </Checkbox>
  );
  const options = cmp.data?.options ?? [];
  const free = options.filter((o) => !o.veto || o.veto.set_aside);
  const most = Math.max(...free.filter((o) => o.id !== "leave").map((o) => o.expected), 1) * 1.1;
  return (
    <main className="page decide">
      <p className="lead">
        {v.station === station ? v.says : `What can be done about the ${s.label.toLowerCase()}.`}{" "}
        {v.status !== "isolated" && (
          <b>
            Only {share(v.probability)} sure of the {s.label.toLowerCase()}.
          </b>
        )}
      </p>
      {cmp.error && (
        <p className="wrong" role="alert">
          {cmp.error.message}
        </p>
      )}
      <section className="card">
        <h1>{cmp.data?.says ?? "Working it out …"}</h1>
        <ul className="stack-key" aria-hidden="true">
          {parts.map(([k, l, cls]) => (
            <li key={k}>
              <i className={cls} /> {l}
            </li>
          ))}
        </ul>
        <ul className="option-list">
          {options.map((o) => (
            <Row
              key={o.id}
              o={o}
              best={o.id === free[0]?.id}
              most={most}
              years={terms.years}
              open={open === o.id}
              onOpen={() => setOpen(open === o.id ? undefined : o.id)}
              figures={figures[o.id]}
              onFigures={(f) => setFigures({ ...figures, [o.id]: f })}
            />
          ))}
        </ul>
        {cmp.data && cmp.data.break_evens.length > 0 && (
          <>
            <h2>For the next one to win,</h2>
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
      {mayWrite && <Choice options={options} station={station} terms={terms} figures={figures} />}
      <Costs />
      <details className="card terms-card">
        <summary>This workshop, this customer, this part</summary>
        <div className="terms">
          {term("hour_rate", "An hour of labour costs", 1000)}
          {term("loss_per_day", "A day of standing still costs", 100000)}
          {term("years", "Years the machine is to stay", 40, 0.5, 0.5)}
          {term("comeback", "Each comeback costs", 100000)}
          {term("postage", "Postage an order", 1000)}
          {term("minimum_order", "Least an order must come to", 10000)}
          {term("travel", "A visit to the machine costs", 10000)}
          {term("missed_days", "Days a year it is missed if left", 365)}
        </div>
        <p className="flags">
          {flag("burnt", "Insulation or housing is burnt")}
          {flag("near_fuel", "It lies near fuel, oil or gas")}
          {flag("winds_here", "A winder is within reach")}
        </p>
      </details>
    </main>
  );
}

const parts: [keyof Option, string, string][] = [
  ["parts", "Parts", "part-parts"],
  ["labour", "Labour", "part-labour"],
  ["standing", "Standing still", "part-standing"],
  ["risk_cost", "Risk of failing or coming back", "part-risk"],
  ["later", "Lasting repair to follow", "part-later"],
];

const days = (d: number) =>
  d < 0.75 ? "today" : d < 1.5 ? "in a day" : `in ${d.toFixed(d < 10 ? 1 : 0)} days`;

function Row({
  o,
  best,
  most,
  years,
  open,
  onOpen,
  figures,
  onFigures,
}: {
  o: Option;
  best: boolean;
  most: number;
  years: number;
  open: boolean;
  onOpen: () => void;
  figures?: Figures;
  onFigures: (f: Figures) => void;
}) {
  const f = figures ?? { parts: -1, minutes: -1, wait_days: -1 };
  const out = o.veto && !o.veto.set_aside;
  const leave = o.id === "leave";
  return (
    <li className={`option-row ${best ? "best" : ""} ${out ? "vetoed" : ""}`}>
      <button type="button" className="option-head" aria-expanded={open} onClick={onOpen}>
        <span className="option-name">
          <b>{o.label}</b>
          <small>
            {o.kind}
            {best && " · cheapest in expectation"}
          </small>
        </span>
        {out ? (
          <span className="option-veto">
            ✕ {o.veto!.reason}
            {!o.veto!.dangerous && " (may be set aside with a reason)"}
          </span>
        ) : (
          <>
            <span
              className="stack"
              role="img"
              aria-label={parts.map(([k, l]) => `${l} ${money(Math.max(0, o[k] as number))}`).join(", ")}
            >
              {parts.map(([k, , cls]) => (
                <i
                  key={k}
                  className={cls}
                  style={{ width: `${Math.min(100, (Math.max(0, o[k] as number) / most) * 100)}%` }}
                />
              ))}
            </span>
            <span className="option-figures">
              <b>{money(o.expected)}</b>
              <small>
                {money(o.low)} to {money(o.high)}
              </small>
            </span>
            <span className="option-when">
              {leave ? "not mended" : <>{share(o.success)} works</>}
              <small>{leave ? "" : days(o.days)}</small>
            </span>
          </>
        )}
      </button>
      {open && (
        <div className="option-body">
          {o.limit && <p className="caution">⚠ {o.limit}</p>}
          {!leave && (
            <p>
              Parts {money(o.parts)}, labour {money(o.labour)} ({Math.round(o.minutes)} min), standing still{" "}
              {money(o.standing)}, risk {money(o.risk_cost)}
              {o.later > 0 && `, the lasting repair after it ${money(o.later)}`}. It cures what is wrong with{" "}
              {share(o.cure)}
              {o.life_years > 0 && (
                <>
                  ; then half of such work lasts over {o.life_years.toFixed(1)} years, and{" "}
                  <b>{share(o.comeback_chance)}</b> comes back within the {years}{" "}
                  {years === 1 ? "year" : "years"} the machine stays
                </>
              )}
              .
            </p>
          )}
          {o.id !== "leave" && o.id !== "reading" && (
            <>
              <div className="figures">
                {(
                  [
                    ["parts", "Parts, without postage", 100000, 1],
                    ["minutes", "Minutes", 10000, 5],
                    ["wait_days", "Days to wait", 365, 0.5],
                  ] as const
                ).map(([k, label, max, step]) => (
                  <label key={k}>
                    {label}
                    <InputNumber
                      min={0}
                      max={max}
                      step={step}
                      value={f[k] >= 0 ? f[k] : undefined}
                      placeholder={String(Math.round(o[k] * 10) / 10)}
                      onChange={(x) => onFigures({ ...f, [k]: typeof x === "number" ? x : -1 })}
                    />
                  </label>
                ))}
                <label>
                  It then lasts, years
                  <InputNumber
                    min={0.1}
                    max={40}
                    step={0.5}
                    value={f.life_years || undefined}
                    placeholder={String(Math.round(o.life_years * 10) / 10)}
                    onChange={(x) => onFigures({ ...f, life_years: typeof x === "number" ? x : 0 })}
                  />
                </label>
                <label>
                  Warranty, years
                  <InputNumber
                    min={0}
                    max={40}
                    step={0.5}
                    value={f.warranty_years ? Math.max(f.warranty_years, 0) : undefined}
                    placeholder={String(o.warranty_years)}
                    onChange={(x) => {
                      const years = typeof x !== "number" ? 0 : x === 0 ? -1 : x;
                      onFigures({ ...f, warranty_years: years });
                    }}
                  />
                </label>
              </div>
              <PartsFor
                o={o}
                onTake={(p) =>
                  onFigures({
                    ...f,
                    parts: p.price,
                    wait_days: p.stock > 0 && !p.days ? 0 : (p.days ?? f.wait_days),
                  })
                }
              />
            </>
          )}
          {o.id === "reading" && (
            <p>
              <Link to="../measure">Take it</Link>: what it costs is in its figure.
            </p>
          )}
        </div>
      )}
    </li>
  );
}

type Id = "repair" | "replace" | "clean" | "rewind" | "donor" | "assembly" | "temporary" | "leave";

function Choice({
  options,
  station,
  terms,
  figures,
}: {
  options: Option[];
  station: string;
  terms: Terms;
  figures: Record<string, Figures>;
}) {
  const { job, circuit, state } = useJob();
  const client = useQueryClient();
  const { repair } = useWrites(job.id, state);
  const [option, setOption] = useState<Id>();
  const [by, setBy] = useState<"customer" | "workshop">("customer");
  const [who, setWho] = useState("");
  const [reason, setReason] = useState("");
  const [aside, setAside] = useState("");
  const [price, setPrice] = useState<number>();
  const [id, setId] = useState(newId);
  const chosen = options.find((o) => o.id === option);
  const asks = chosen?.veto && !chosen.veto.dangerous;
  const cost = Math.round(((chosen?.parts ?? 0) + (chosen?.labour ?? 0)) * 100) / 100;
  const decide = useMutation({
    mutationFn: () =>
      must(
        api.POST("/api/jobs/{id}/decisions", {
          params: { path: { id: job.id }, query: { state } },
          body: {
            id,
            option: option!,
            station,
            price: price ?? cost,
            reason,
            by,
            who,
            label: chosen?.label,
            set_aside: aside || undefined,
            expected: chosen?.expected,
            terms,
            with: figures,
          },
        }),
      ),
    onSuccess: (j) => {
      setId(newId());
      setReason("");
      setAside("");
      setPrice(undefined);
      setOption(undefined);
      client.setQueryData(["job", job.id, state], j);
      for (const of of ["job", "proof"]) void client.invalidateQueries({ queryKey: [of, job.id] });
      void client.invalidateQueries({ queryKey: ["board"] });
    },
  });
  const last = job.decisions.at(-1);
  const done = last && job.repairs.some((r) => r.station === last.station);
  const error = decide.error ?? repair.error;
  return (
    <section className="card">
      <h2>What was chosen</h2>
      {job.decisions.length > 0 && (
        <ul>
          {job.decisions.map((d) => (
            <li key={d.id}>
              <b>{d.label || d.option}</b>, {stationOf(circuit, d.station)?.label.toLowerCase()},{" "}
              {money(d.price)}, chosen by the {d.by}
              {d.who ? ` (${d.who})` : ""}
              {d.reason ? `: ${d.reason}` : ""}
              {d.set_aside ? `; against the advice, because ${d.set_aside}` : ""}{" "}
              <small className="quiet">{d.at ? age(d.at) : ""}</small>
            </li>
          ))}
        </ul>
      )}
      {last && !done && last.option !== "leave" && (
        <p>
          When the work is done:{" "}
          <Button
            type="primary"
            loading={repair.isPending}
            onClick={() =>
              repair.mutate({ id: newId(), station: last.station, what: last.label || "Work done" })
            }
          >
            The work is done
          </Button>{" "}
          <span className="quiet">Readings from then on are taken after it.</span>
        </p>
      )}
      {done && (
        <p>
          ✓ The work is done. <Link to="../prove">Prove it</Link>
        </p>
      )}
      <div className="choice">
        <Radio.Group
          value={option}
          onChange={(e) => setOption(e.target.value as Id)}
          aria-label="Option"
          className="choice-options"
        >
          {options
            .filter((o) => o.id !== "reading")
            .map((o) => (
              <Radio key={o.id} value={o.id} disabled={o.veto?.dangerous}>
                {o.kind}
              </Radio>
            ))}
        </Radio.Group>
        {chosen && (
          <>
            {asks && (
              <Input
                aria-label="Why the veto is set aside"
                placeholder={`Against it: ${chosen.veto!.reason}. Why all the same?`}
                maxLength={400}
                value={aside}
                onChange={(e) => setAside(e.target.value)}
              />
            )}
            <Radio.Group
              value={by}
              onChange={(e) => setBy(e.target.value as "customer" | "workshop")}
              aria-label="Who decided"
            >
              <Radio.Button value="customer">The customer decided</Radio.Button>
              <Radio.Button value="workshop">The workshop decided</Radio.Button>
            </Radio.Group>
            <Input
              placeholder="name"
              aria-label="Name of who decided"
              maxLength={120}
              value={who}
              onChange={(e) => setWho(e.target.value)}
            />
            <InputNumber
              aria-label="Price agreed"
              min={0}
              max={1000000}
              value={price}
              placeholder={String(cost)}
              onChange={(x) => setPrice(typeof x === "number" ? x : undefined)}
              addonBefore="agreed price"
            />
            <Input
              placeholder="Why, in one line"
              aria-label="Reason"
              maxLength={400}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
            <Button
              type="primary"
              disabled={!!asks && !aside.trim()}
              loading={decide.isPending}
              onClick={() => decide.mutate()}
            >
              Record the decision
            </Button>
          </>
        )}
      </div>
      {error && (
        <p className="wrong" role="alert">
          {error.message}
        </p>
      )}
    </section>
  );
}
