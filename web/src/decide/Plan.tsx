import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Radio } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Figures, Option, Terms, Wishes } from "../api/client";
import { useMoney } from "../app/context";
import { useJob } from "../job/job";
import { write } from "../offline/sync";
import { lower, share } from "../shared/format";
import { newId } from "../shared/id";
import { PartsFor } from "./PartsFor";
import { fixed } from "../shared/written";

export const costs: [keyof Option, string, string][] = [
  ["parts", "Parts", "part-parts"],
  ["labour", "Labour", "part-labour"],
  ["standing", "Standing still", "part-standing"],
  ["risk_cost", "Risk of failing or coming back", "part-risk"],
  ["later", "Lasting repair to follow", "part-later"],
];

const days = (d: number) =>
  d < 0.75 ? "today" : d < 1.5 ? "in a day" : `in ${fixed(d, d < 10 ? 1 : 0)} days`;

/** What a decision is made with. */
export interface Basis {
  stations: string[];
  terms: Terms;
  wishes: Wishes;
  figures: Record<string, Figures>;
  faults: Record<string, string>;
}

/** One plan: what it costs in expectation, what it cures, and, opened, why, and choosing it. */
export function Plan({
  o,
  best,
  most,
  open,
  onOpen,
  onFigures,
  basis,
  mayWrite,
}: {
  o: Option;
  best: boolean;
  most: number;
  open: boolean;
  onOpen: () => void;
  onFigures: (f: Figures) => void;
  basis: Basis;
  mayWrite: boolean;
}) {
  const money = useMoney();
  const out = o.veto && !o.veto.set_aside;
  const leave = o.id === "leave";
  const part = (k: keyof Option) => Math.max(0, o[k] as number);
  return (
    <li className={`option-row ${best ? "best" : ""} ${out ? "vetoed" : o.against ? "against" : ""}`}>
      <button type="button" className="option-head" aria-expanded={open} onClick={onOpen}>
        <span className="option-name">
          <b>{o.label}</b>
          <small>
            {o.kind}
            {best && " · costs least"}
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
              aria-label={costs.map(([k, l]) => `${l} ${money(part(k))}`).join(", ")}
            >
              {costs.map(([k, , cls]) => (
                <i key={k} className={cls} style={{ width: `${Math.min(100, (part(k) / most) * 100)}%` }} />
              ))}
            </span>
            <span className="option-figures">
              <b>{money(o.expected)}</b>
              <small>
                {money(o.low)} to {money(o.high)}
              </small>
            </span>
            <span className="option-when">
              {leave ? (
                "not mended"
              ) : o.id === "reading" ? (
                days(o.days)
              ) : (
                <>
                  cures it: <b>{share(o.cures_this)}</b>
                </>
              )}
              {!leave && o.id !== "reading" && <small>{days(o.days)}</small>}
              {!leave && o.behind >= 0.02 && <small>something else behind it: {share(o.behind)}</small>}
            </span>
          </>
        )}
        {o.against && !out && <span className="option-against">✕ {o.against}</span>}
      </button>
      {open && (
        <div className="option-body">
          {o.limit && <p className="caution">⚠ {o.limit}</p>}
          {!leave && o.id !== "reading" && <Why o={o} basis={basis} />}
          {o.id === "reading" ? (
            <p>
              <Link to="../measure">Take it</Link>: what it costs is in its figure.
            </p>
          ) : (
            <>
              {!leave && <Figured o={o} f={basis.figures[o.id]} onFigures={onFigures} />}
              {mayWrite && !o.veto?.dangerous && <Choose o={o} basis={basis} />}
            </>
          )}
        </div>
      )}
    </li>
  );
}

function Why({ o, basis }: { o: Option; basis: Basis }) {
  const money = useMoney();
  const { job } = useJob();
  const parts = job.diagnosis.stations.length;
  const label = (f: string) => lower(basis.faults[f] ?? f);
  const years = basis.terms.years;
  return (
    <>
      <p>
        Parts {money(o.parts)}, labour {money(o.labour)} ({Math.round(o.minutes)} min), standing still{" "}
        {money(o.standing)}, risk {money(o.risk_cost)}
        {o.later > 0 && `, the lasting repair after it ${money(o.later)}`}.
      </p>
      <p>
        It cures what is wrong here: <b>{share(o.cures_this)}</b>
        {o.misses.length > 0 && (
          <>
            . It does not cure:{" "}
            {o.misses.map((m) => `${label(m.fault)} (${share(m.probability)})`).join(", ")}
          </>
        )}
        .{" "}
        {parts > 0 && o.behind >= 0.005 ? (
          <>
            Something else may be behind it: <b>{share(o.behind)}</b>.{" "}
          </>
        ) : null}
        {o.life_years > 0 && (
          <>
            Half of such work lasts over {fixed(o.life_years, 1)} years; <b>{share(o.comeback_chance)}</b>{" "}
            comes back within the {years} {years === 1 ? "year" : "years"} the machine stays.
          </>
        )}
      </p>
      {o.notes.length > 0 && (
        <ul>
          {o.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
    </>
  );
}

const blank: Figures = { parts: -1, minutes: -1, wait_days: -1 };

function Figured({ o, f = blank, onFigures }: { o: Option; f?: Figures; onFigures: (f: Figures) => void }) {
  return (
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
          Guarantee, years
          <InputNumber
            min={0}
            max={40}
            step={0.5}
            value={f.warranty_years ? Math.max(f.warranty_years, 0) : undefined}
            placeholder={String(o.warranty_years)}
            onChange={(x) =>
              onFigures({ ...f, warranty_years: typeof x !== "number" ? 0 : x === 0 ? -1 : x })
            }
          />
        </label>
      </div>
      <PartsFor
        o={o}
        onTake={(p) =>
          onFigures({ ...f, parts: p.price, wait_days: p.stock > 0 && !p.days ? 0 : (p.days ?? f.wait_days) })
        }
      />
    </>
  );
}

/** Choosing a plan: who decided, at what price and why; what stands against it is set aside with a reason. */
function Choose({ o, basis }: { o: Option; basis: Basis }) {
  const { job, state } = useJob();
  const client = useQueryClient();
  const [by, setBy] = useState<"customer" | "workshop">("customer");
  const [who, setWho] = useState("");
  const [reason, setReason] = useState("");
  const [aside, setAside] = useState("");
  const [price, setPrice] = useState<number>();
  const [id] = useState(newId);
  const cost = Math.round((o.parts + o.labour) * 100) / 100;
  const decide = useMutation({
    mutationFn: () =>
      write(
        job.id,
        {
          choice: {
            id,
            option: o.id,
            stations: basis.stations,
            price: price ?? cost,
            reason,
            by,
            who,
            set_aside: aside || undefined,
            terms: basis.terms,
            wishes: basis.wishes,
            with: basis.figures,
          },
        },
        state,
      ),
    onSuccess: (j) => {
      client.setQueryData(["job", job.id, state], j);
      for (const of of ["job", "proof", "paper"]) void client.invalidateQueries({ queryKey: [of, job.id] });
      void client.invalidateQueries({ queryKey: ["board"] });
    },
  });
  return (
    <form
      className="choice"
      aria-label={`Choose: ${o.label}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (!o.veto || aside.trim()) decide.mutate();
      }}
    >
      {o.veto && (
        <Input
          aria-label="Why what stands against it is set aside"
          placeholder={`Against it: ${o.veto.reason}. Why all the same?`}
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
      {o.id !== "leave" && (
        <label>
          Agreed price
          <InputNumber
            aria-label="Agreed price"
            min={0}
            max={1000000}
            value={price}
            placeholder={String(cost)}
            onChange={(x) => setPrice(typeof x === "number" ? x : undefined)}
          />
        </label>
      )}
      <Input
        placeholder="Why, in one line"
        aria-label="Reason"
        maxLength={400}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <Button
        type="primary"
        htmlType="submit"
        disabled={!!o.veto && !aside.trim()}
        loading={decide.isPending}
      >
        {o.id === "leave" ? "Leave it" : "Choose this"}
      </Button>
      {decide.error && (
        <p className="wrong" role="alert">
          {decide.error.message}
        </p>
      )}
    </form>
  );
}
