import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Radio } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { api, must, type Figures, type Option, type Terms } from "../api/client";
import { useApp } from "../app/context";
import { stationOf, useJob, useWrites } from "../job/job";
import { age, money, share } from "../shared/format";
import { useRested } from "../shared/hooks";
import { newId } from "../shared/id";

const usual: Terms = { hour_rate: 58, loss_per_day: 25, years: 4, comeback: 60 };

/** Repair or replace: both computed, side by side, with what one would have to believe for the other to win. */
export default function Decide() {
  const { job, circuit } = useJob();
  const v = job.diagnosis.verdict;
  const station = v.station ?? job.diagnosis.stations[0]?.station;
  const s = stationOf(circuit, station);
  if (
    !s ||
    !station ||
    v.status === "nothing_wrong" ||
    v.status === "contradiction" ||
    job.evidence.length === 0
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
  const v = job.diagnosis.verdict;
  const s = stationOf(circuit, station)!;
  const [terms, setTerms] = useState<Terms>(usual);
  const [figures, setFigures] = useState<Record<string, Figures>>({});
  const asked = useRested({ station, terms, with: figures }, 200);
  const cmp = useQuery({
    queryKey: ["compare", job.id, job.revision, asked],
    queryFn: () =>
      must(api.POST("/api/jobs/{id}/compare", { params: { path: { id: job.id } }, body: asked })),
    placeholderData: keepPreviousData,
  });
  const term = (k: keyof Terms, label: string, max: number, step = 1, min = 0) => (
    <label>
      {label}
      <InputNumber
        min={min}
        max={max}
        step={step}
        value={terms[k]}
        onChange={(x) => typeof x === "number" && setTerms({ ...terms, [k]: x })}
      />
    </label>
  );
  const options = cmp.data?.options ?? [];
  const most = Math.max(...options.map((o) => o.high), 1);
  return (
    <main className="page">
      <p className="lead">
        {v.says}{" "}
        {v.status !== "isolated" && (
          <b>
            Only {share(v.probability)} sure of the {s.label.toLowerCase()}:{" "}
            <Link to="../measure">one more reading first</Link> may be cheaper than either.
          </b>
        )}
      </p>
      {cmp.error && (
        <p className="wrong" role="alert">
          {cmp.error.message}
        </p>
      )}
      <div className="options">
        {options.map((o, i) => (
          <OptionCard
            key={o.id}
            o={o}
            best={i === 0}
            most={most}
            years={terms.years}
            onFigures={(f) => setFigures({ ...figures, [o.id]: f })}
            figures={figures[o.id]}
          />
        ))}
      </div>
      {cmp.data && cmp.data.break_evens.length > 0 && (
        <section className="card">
          <h2>{cmp.data.says}</h2>
          <p>For the other one to win,</p>
          <ul>
            {cmp.data.break_evens.map((b) => (
              <li key={b.quantity}>{b.says}</li>
            ))}
          </ul>
        </section>
      )}
      <section className="card terms">
        <h2>This workshop, this customer</h2>
        {term("hour_rate", "An hour of labour costs", 1000)}
        {term("loss_per_day", "A day of standing still costs", 100000)}
        {term("years", "Years the machine is to stay", 40, 0.5, 0.5)}
        {term("comeback", "Each comeback costs", 100000)}
      </section>
      <Choice options={options} station={station} />
    </main>
  );
}

const parts: [keyof Option, string, string][] = [
  ["parts", "Parts", "part-parts"],
  ["labour", "Labour", "part-labour"],
  ["standing", "Standing still", "part-standing"],
  ["risk_cost", "Risk of failing or coming back", "part-risk"],
];

function OptionCard({
  o,
  best,
  most,
  years,
  figures,
  onFigures,
}: {
  o: Option;
  best: boolean;
  most: number;
  years: number;
  figures?: Figures;
  onFigures: (f: Figures) => void;
}) {
  const f = figures ?? { parts: -1, minutes: -1, wait_days: -1 };
  return (
    <section className={`card option ${best ? "best" : ""}`} aria-label={o.label}>
      <p className="next-head">
        {o.id === "repair" ? "Repair" : "Replace"}
        {best ? " · cheaper in expectation" : ""}
      </p>
      <h2>{o.label}</h2>
      <p className="figure">
        {money(o.expected)}{" "}
        <small>
          expected, {money(o.low)} to {money(o.high)}
        </small>
      </p>
      <div
        className="stack"
        role="img"
        aria-label={parts.map(([k, l]) => `${l} ${money(o[k] as number)}`).join(", ")}
      >
        {parts.map(([k, , cls]) => (
          <i key={k} className={cls} style={{ width: `${((o[k] as number) / most) * 100}%` }} />
        ))}
      </div>
      <ul className="stack-key">
        {parts.map(([k, l, cls]) => (
          <li key={k}>
            <i className={cls} /> {l} <b>{money(o[k] as number)}</b>
          </li>
        ))}
      </ul>
      <p>
        <b>{share(o.success)}</b> that it works, in about{" "}
        {o.days < 1 ? "a day" : `${o.days.toFixed(o.days < 10 ? 1 : 0)} days`};{" "}
        <b>{share(o.comeback_chance)}</b> that it comes back within {years} years.
      </p>
      <div className="figures">
        <label>
          Parts
          <InputNumber
            min={0}
            max={100000}
            value={o.parts}
            onChange={(x) => typeof x === "number" && onFigures({ ...f, parts: x })}
          />
        </label>
        <label>
          Days to wait
          <InputNumber
            min={0}
            max={365}
            step={0.5}
            value={o.wait_days}
            onChange={(x) => typeof x === "number" && onFigures({ ...f, wait_days: x })}
          />
        </label>
      </div>
    </section>
  );
}

function Choice({ options, station }: { options: Option[]; station: string }) {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const { change } = useWrites(job.id, state);
  const [option, setOption] = useState<"repair" | "replace">();
  const [by, setBy] = useState<"customer" | "workshop">("customer");
  const [reason, setReason] = useState("");
  const [id, setId] = useState(newId);
  const chosen = options.find((o) => o.id === option);
  const decide = useMutation({
    mutationFn: () =>
      must(
        api.POST("/api/jobs/{id}/decisions", {
          params: { path: { id: job.id }, query: { state } },
          body: {
            id,
            option: option!,
            station,
            price: Math.round((chosen!.parts + chosen!.labour) * 100) / 100,
            reason,
            by,
          },
        }),
      ),
    onSuccess: (j) => {
      setId(newId());
      setReason("");
      setOption(undefined);
      client.setQueryData(["job", job.id, state], j);
      void client.invalidateQueries({ queryKey: ["job", job.id] });
      void client.invalidateQueries({ queryKey: ["board"] });
    },
  });
  return (
    <section className="card">
      <h2>What was chosen</h2>
      {job.decisions.length > 0 && (
        <ul>
          {job.decisions.map((d) => (
            <li key={d.id}>
              <b>{d.option === "repair" ? "Repair" : "Replace"}</b>,{" "}
              {stationOf(circuit, d.station)?.label.toLowerCase()}, {money(d.price)}, chosen by the {d.by}
              {d.reason ? `: ${d.reason}` : ""} <small className="quiet">{d.at ? age(d.at) : ""}</small>
            </li>
          ))}
        </ul>
      )}
      {mayWrite && (
        <div className="choice">
          <Radio.Group
            value={option}
            onChange={(e) => setOption(e.target.value as "repair" | "replace")}
            aria-label="Option"
          >
            {options.map((o) => (
              <Radio.Button key={o.id} value={o.id}>
                {o.id === "repair" ? "Repair" : "Replace"}, {money(o.parts + o.labour)}
              </Radio.Button>
            ))}
          </Radio.Group>
          <Radio.Group
            value={by}
            onChange={(e) => setBy(e.target.value as "customer" | "workshop")}
            aria-label="Who decided"
          >
            <Radio.Button value="customer">The customer decided</Radio.Button>
            <Radio.Button value="workshop">The workshop decided</Radio.Button>
          </Radio.Group>
          <Input
            placeholder="Why, in one line"
            aria-label="Reason"
            maxLength={400}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <Button
            type="primary"
            disabled={!chosen}
            loading={decide.isPending}
            onClick={() => decide.mutate()}
          >
            Record the decision
          </Button>
          <Button onClick={() => change.mutate({ closed: !job.closed_at })} loading={change.isPending}>
            {job.closed_at ? "Open the job again" : "Close the job"}
          </Button>
        </div>
      )}
      {(decide.error ?? change.error) && (
        <p className="wrong" role="alert">
          {(decide.error ?? change.error)?.message}
        </p>
      )}
    </section>
  );
}
