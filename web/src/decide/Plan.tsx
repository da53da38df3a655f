import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber, Radio } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Figures, Option, Terms, Wishes } from "../api/client";
import { useMoney } from "../app/context";
import { useJob } from "../job/job";
import { write } from "../offline/sync";
import { lower, share } from "../shared/format";
import { newId } from "../shared/id";
import { PartsFor } from "./PartsFor";
import * as words from "./words";
import { fixed } from "../shared/written";
import Input from "antd/es/input/Input";

export const costs: [keyof Option, string, string][] = [
  ["parts", words.parts, "part-parts"],
  ["labour", words.labour, "part-labour"],
  ["standing", words.standingStill, "part-standing"],
  ["risk_cost", words.riskOfFailingOr, "part-risk"],
  ["later", words.lastingRepairToFollow, "part-later"],
];

const days = (d: number) =>
  d < 0.75 ? "today" : d < 1.5 ? words.inADay : words.inDays(fixed(d, d < 10 ? 1 : 0));

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
            {best && words.costsLeast}
          </small>
        </span>
        {out ? (
          <span className="option-veto">
            ✕ {o.veto!.reason}
            {!o.veto!.dangerous && words.mayBeSetAside}
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
              <small>{words.to(money(o.low), money(o.high))}</small>
            </span>
            <span className="option-when">
              {leave ? (
                words.notMended
              ) : o.id === "reading" ? (
                days(o.days)
              ) : (
                <>
                  {words.curesIt} <b>{share(o.cures_this)}</b>
                </>
              )}
              {!leave && o.id !== "reading" && <small>{days(o.days)}</small>}
              {!leave && o.behind >= 0.02 && <small>{words.somethingElseBehindIt(share(o.behind))}</small>}
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
              <Link to="../measure">{words.takeIt}</Link>
              {words.whatItCostsIs}
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
        {words.partsLabourMinStanding(
          money(o.parts),
          money(o.labour),
          Math.round(o.minutes),
          money(o.standing),
          money(o.risk_cost),
        )}
        {o.later > 0 && words.theLastingRepairAfter(money(o.later))}.
      </p>
      <p>
        {words.itCuresWhatIs} <b>{share(o.cures_this)}</b>
        {o.misses.length > 0 && (
          <>
            {words.itDoesNotCure(
              o.misses.map((m) => `${label(m.fault)} (${share(m.probability)})`).join(", "),
            )}
          </>
        )}
        .{" "}
        {parts > 0 && o.behind >= 0.005 ? (
          <>
            {words.somethingElseMayBe} <b>{share(o.behind)}</b>.{" "}
          </>
        ) : null}
        {o.life_years > 0 && (
          <>
            {words.halfOfSuchWork(fixed(o.life_years, 1))} <b>{share(o.comeback_chance)}</b>{" "}
            {words.comesBackWithinThe(years)}
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
            ["parts", words.partsWithoutPostage, 100000, 1],
            ["minutes", words.minutes, 10000, 5],
            ["wait_days", words.daysToWait, 365, 0.5],
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
          {words.itThenLastsYears}
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
          {words.guaranteeYears}
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
      aria-label={words.choose(o.label)}
      onSubmit={(e) => {
        e.preventDefault();
        if (!o.veto || aside.trim()) decide.mutate();
      }}
    >
      {o.veto && (
        <Input
          aria-label={words.whyWhatStandsAgainst}
          placeholder={words.againstItWhyAll(o.veto.reason)}
          maxLength={400}
          value={aside}
          onChange={(e) => setAside(e.target.value)}
        />
      )}
      <Radio.Group
        value={by}
        onChange={(e) => setBy(e.target.value as "customer" | "workshop")}
        aria-label={words.whoDecided}
      >
        <Radio.Button value="customer">{words.theCustomerDecided}</Radio.Button>
        <Radio.Button value="workshop">{words.theWorkshopDecided}</Radio.Button>
      </Radio.Group>
      <Input
        placeholder={words.name}
        aria-label={words.nameOfWhoDecided}
        maxLength={120}
        value={who}
        onChange={(e) => setWho(e.target.value)}
      />
      {o.id !== "leave" && (
        <label>
          {words.agreedPrice}
          <InputNumber
            aria-label={words.agreedPrice}
            min={0}
            max={1000000}
            value={price}
            placeholder={String(cost)}
            onChange={(x) => setPrice(typeof x === "number" ? x : undefined)}
          />
        </label>
      )}
      <Input
        placeholder={words.whyInOneLine}
        aria-label={words.reason}
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
        {o.id === "leave" ? words.cancel : words.chooseThis}
      </Button>
      {decide.error && (
        <p className="wrong" role="alert">
          {decide.error.message}
        </p>
      )}
    </form>
  );
}
