import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { api, must, type ProveView } from "../api/client";
import { useApp } from "../app/context";
import { evidence, observationOf, useJob, useWrites } from "../job/job";
import { RepairList } from "../job/RepairList";
import { calculate, hereProof, post, readProof, useLost } from "../offline/sync";
import { age, lower } from "../shared/format";
import { newId } from "../shared/id";
import { fixed } from "../shared/written";
import * as words from "./words";
import Input from "antd/es/input/Input";

type Check = ProveView["checks"][number];

/** Before and after on the same readings, in the bands of this vehicle; ticked, signed and dated. */
export default function Prove() {
  const { job } = useJob();
  const { me, mayWrite } = useApp();
  const client = useQueryClient();
  const lost = useLost();
  const path = { id: job.id };
  const q = useQuery({
    queryKey: ["proof", job.id, job.revision],
    queryFn: () => readProof(job.id),
    placeholderData: (prev: ProveView | undefined) => prev,
  });
  const put = async (v: ProveView) => {
    await client.cancelQueries({ queryKey: ["proof", job.id] }); // it was asked before this was stored
    client.setQueryData(["proof", job.id, job.revision], v);
  };
  const tick = useMutation({
    mutationFn: (tick: { tick: string; value: string }) => post(job.id, { tick }, () => hereProof(job.id)),
    onSuccess: put,
  });
  const [signed, setSigned] = useState(me.name.replace(/ \(.*\)$/, ""));
  const [counter, setCounter] = useState("");
  const [remark, setRemark] = useState("");
  const [was, setWas] = useState<Record<string, string>>({});
  const [id, setId] = useState(newId);
  const sign = useMutation({
    mutationFn: (result: "passed" | "remark" | "failed") =>
      post(job.id, { sign: { id, result, remark, signed, counter, was } }, () => hereProof(job.id)),
    onSuccess: async (v) => {
      setId(newId());
      setRemark("");
      await put(v);
      void client.invalidateQueries({ queryKey: ["paper", job.id] });
      void client.invalidateQueries({ queryKey: ["job", job.id] });
      void client.invalidateQueries({ queryKey: ["board"] });
    },
  });
  const exclude = useMutation({
    mutationFn: (excluded: boolean) =>
      must(api.PUT("/api/jobs/{id}/excluded", { params: { path }, body: { excluded } })),
    onSuccess: (_, excluded) => q.data && put({ ...q.data, excluded }),
  });
  const v = q.data;
  if (q.error)
    return (
      <main className="page narrow">
        <p className="wrong" role="alert">
          {q.error.message}
        </p>
      </main>
    );
  if (!v) return <p className="quiet centred">{words.readingTheProof}</p>;
  if (v.repairs.length === 0)
    return (
      <main className="page narrow">
        <h1>{v.todo ? words.theWorkIsNot : words.nothingWasDoneYet}</h1>
        {v.todo ? (
          <RepairList work={[v.todo]} />
        ) : (
          <p>
            {words.whatWasChosenUnder} <Link to="../decide">{words.decide}</Link> {words.isProvedHereOn}
          </p>
        )}
      </main>
    );
  const parts = v.repairs.map((r) => lower(r.parts)).join(" and the ");
  const last = v.records.at(-1);
  const open = v.checks.filter((c) => c.passed == null).length;
  const error = tick.error ?? sign.error;
  return (
    <main className="page prove">
      <h1>{heading(v, parts, open)}</h1>
      {v.excluded !== undefined && mayWrite && (
        <p>
          <label className="plain">
            <input
              type="checkbox"
              disabled={lost}
              checked={v.excluded}
              onChange={(e) => exclude.mutate(e.target.checked)}
            />{" "}
            {words.leaveThisJobOut}
            {lost && <small className="quiet"> {words.needsTheConnection}</small>}
          </label>
        </p>
      )}
      {last && (
        <p>
          {v.open ? "" : `${last.says} `}
          {last.counter ? words.at(last.counter) : ""}
          {v.open && last.result === "failed" && (
            <>
              {words.theProofOfAgo(age(last.at), last.remark)}{" "}
              <Link to="../measure">{words.findWhatIsStill}</Link>
              {words.orTakeTheReadings}
            </>
          )}
          {!v.open && <Link to="../report">{words.printTheReport}</Link>}
        </p>
      )}
      {v.todo && (
        <section className="card">
          <h2>{words.stillToBeDone}</h2>
          <RepairList work={[v.todo]} />
        </section>
      )}
      {v.open && (
        <section className="card">
          <RepairList work={v.repairs} proving />
        </section>
      )}
      <section className="card">
        <h2>{words.beforeAndAfter}</h2>
        <ul className="proof-list">
          <li className="proof-head" aria-hidden="true">
            <span>{words.check}</span>
            <span>{words.before}</span>
            <span>{words.after}</span>
            <span>{words.goodIs}</span>
          </li>
          {v.checks.map((c, i) => (
            <Line key={i} c={c} mayWrite={mayWrite && v.open} />
          ))}
        </ul>
      </section>
      {v.traces.length > 0 && (
        <section className="card">
          <h2>{words.currentTraces}</h2>
          <ul>
            {v.traces.map((t, i) => (
              <li key={i}>
                <b>{t.after ? words.after : words.before}</b>: {t.name}, {fixed(t.mean_a, 1)} A. {t.says}
              </li>
            ))}
          </ul>
          <p>
            <Link to="../trace">{words.layOneOverThe}</Link>
          </p>
        </section>
      )}
      {v.open && (
        <section className="card">
          <h2>{words.andBesides}</h2>
          <ul className="ticks">
            {v.ticks.map((t) => (
              <li key={t.id}>
                <button
                  type="button"
                  role="checkbox"
                  aria-checked={t.value !== ""}
                  aria-label={t.label}
                  className="tick"
                  disabled={!mayWrite || (t.id === "genset" && !t.value)}
                  onClick={() =>
                    tick.mutate({ tick: t.id, value: t.value ? "" : new Date().toISOString().slice(0, 16) })
                  }
                >
                  {t.value ? "✓" : ""}
                </button>
                <span>
                  {t.label}
                  {!t.must && <small className="quiet"> {words.ifItCanBe}</small>}
                  {t.id === "genset" &&
                    (t.value ? (
                      <small> {t.value}</small>
                    ) : (
                      mayWrite && (
                        <Genset job={job.id} onTake={(value) => tick.mutate({ tick: t.id, value })} />
                      )
                    ))}
                </span>
              </li>
            ))}
          </ul>
          {v.left > 0 && (
            <p className="warn">
              {words.thingsOfTheStrip(v.left)} <Link to="../back">{words.putThemBack}</Link>
            </p>
          )}
        </section>
      )}
      <Earlier records={v.open ? v.records : v.records.slice(0, -1)} />
      {mayWrite && v.open && (
        <section className="card sign">
          <h2>{words.sign}</h2>
          <div className="terms">
            {v.repairs.map((r) => (
              <label key={r.id}>
                {words.itWas(v.repairs.length > 1 ? `, ${lower(r.parts)}` : "")}
                <Select
                  aria-label={words.whatItWas(lower(r.parts))}
                  value={was[r.id] ?? r.faults[0]?.id}
                  onChange={(f) => setWas({ ...was, [r.id]: f })}
                  popupMatchSelectWidth={false}
                  options={[
                    ...r.faults.map((f) => ({ value: f.id, label: f.label })),
                    { value: "none", label: words.nothingWasWrongWith },
                  ]}
                />
              </label>
            ))}
            <label>
              {words.name}
              <Input
                aria-label={words.name}
                maxLength={120}
                value={signed}
                onChange={(e) => setSigned(e.target.value)}
              />
            </label>
            <label>
              {words.hoursOrMileage}
              <Input
                aria-label={words.hoursOrMileage}
                maxLength={40}
                placeholder="4 210 h"
                value={counter}
                onChange={(e) => setCounter(e.target.value)}
              />
            </label>
            <label>
              {words.remark}
              <Input
                aria-label={words.remark}
                maxLength={400}
                placeholder={words.neededToAcceptWith}
                value={remark}
                onChange={(e) => setRemark(e.target.value)}
              />
            </label>
          </div>
          <p className="sign-buttons">
            <Button
              type="primary"
              size="large"
              loading={sign.isPending}
              disabled={v.missing.length > 0 || v.failed}
              onClick={() => sign.mutate("passed")}
            >
              {words.passed}
            </Button>
            <Button size="large" disabled={!remark.trim()} onClick={() => sign.mutate("remark")}>
              {words.acceptWithTheRemark}
            </Button>
            <Button size="large" danger disabled={!remark.trim()} onClick={() => sign.mutate("failed")}>
              {words.failed}
            </Button>
          </p>
          {v.missing.length > 0 && <p className="quiet">{words.stillMissing(v.missing.join("; "))}</p>}
        </section>
      )}
      {error && (
        <p className="wrong" role="alert">
          {error.message}
        </p>
      )}
    </main>
  );
}

/** What the page is about, in one line. "Proved good" stands over nothing that is not. */
function heading(v: ProveView, parts: string, open: number): string {
  if (!v.open) {
    const last = v.records.at(-1);
    return last?.result === "remark" ? words.acceptedWithARemark(parts) : words.provedGood(parts);
  }
  if (v.failed) return words.aCheckIsOut(parts);
  if (open > 0) return words.proveTheChecksTo(parts, open);
  return words.allChecksAreGood;
}

/** Proofs that were signed before, with what was not good then. */
function Earlier({ records }: { records: ProveView["records"] }) {
  if (records.length === 0) return null;
  return (
    <section className="card">
      <h2>{words.signedBefore}</h2>
      <ul>
        {records.map((r) => (
          <li key={r.at}>
            {r.says}
            {r.checks
              .filter((c) => c.passed === false)
              .map((c) => (
                <p key={c.label} className="quiet">
                  {words.goodIsWithLabel(c.label, c.after_says, c.good_says)}
                </p>
              ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Hertz and volts of a generator set without and with load: judged, and kept with the proof. */
function Genset({ job, onTake }: { job: string; onTake: (value: string) => void }) {
  const [x, setX] = useState({ nominal: "50", no_load: "", no_load_volts: "", full_load: "", volts: "" });
  const reckon = useMutation({
    mutationFn: () => {
      const { nominal, no_load, full_load, volts } = x;
      const inputs = { nominal, no_load, full_load, volts };
      return calculate(job, "genset", inputs);
    },
    onSuccess: (r) => {
      const droop = r.lines.find((l) => l.label === "Droop")?.text ?? "";
      const volts = (v: string) => (v.trim() ? `, ${v.trim()} V` : "");
      onTake(
        words
          .hzWithoutLoadHz(x.no_load, volts(x.no_load_volts), x.full_load, volts(x.volts), droop, r.says)
          .slice(0, 200),
      );
    },
  });
  const field = (id: keyof typeof x, label: string, unit: string) => (
    <Input
      aria-label={label}
      placeholder={label}
      suffix={unit}
      value={x[id]}
      onChange={(e) => setX({ ...x, [id]: e.target.value })}
    />
  );
  return (
    <span className="genset">
      {field("nominal", words.nominal, words.hz)}
      {field("no_load", words.withoutLoad, words.hz)}
      {field("no_load_volts", words.withoutLoadVolts, "V")}
      {field("full_load", words.withLoad, words.hz)}
      {field("volts", words.withLoadVolts, "V")}
      <Button
        loading={reckon.isPending}
        disabled={!x.no_load.trim() || !x.full_load.trim()}
        onClick={() => reckon.mutate()}
      >
        {words.take}
      </Button>
      {reckon.error && (
        <span className="wrong" role="alert">
          {reckon.error.message}
        </span>
      )}
    </span>
  );
}

function Line({ c, mayWrite }: { c: Check; mayWrite: boolean }) {
  const { job, circuit, state } = useJob();
  const { enter } = useWrites(job.id, state);
  const [text, setText] = useState("");
  const o = observationOf(circuit, c.observe);
  const base = {
    measure: c.measure,
    observe: c.observe,
    state: c.state,
    from: c.from,
    to: c.to,
    through: c.through,
  };
  const take = (e: { value?: string; outcome?: string }) =>
    enter.mutate({ evidence: [evidence({ ...base, ...e })] }, { onSuccess: () => setText("") });
  return (
    <li className={`proof-line ${c.passed == null ? "" : c.passed ? "good" : "bad"}`}>
      <span>
        <b>{c.label}</b>
        <small className="quiet">{c.why}</small>
      </span>
      <span data-label="Before">{c.before_says || "–"}</span>
      <span className="proof-after" data-label="After">
        {c.after_says && !(o && mayWrite) && (
          <b>
            {c.passed ? "✓" : "✕"} {c.after_says}
          </b>
        )}
        {mayWrite &&
          (o ? (
            // All answers stay where they are: a row that shrinks puts another answer under the finger.
            <span className="answers" role="group" aria-label={o.label}>
              {o.outcomes.map((x) => {
                const given = c.after_says !== "" && job.evidence[c.after ?? -1]?.outcome === x.id;
                return (
                  <Button
                    key={x.id}
                    disabled={enter.isPending}
                    type={given ? "primary" : "default"}
                    aria-pressed={given}
                    onClick={() => !given && take({ outcome: x.id })}
                  >
                    {given ? (c.passed ? "✓ " : "✕ ") : ""}
                    {x.label}
                  </Button>
                );
              })}
            </span>
          ) : (
            <Input
              aria-label={words.afterWithLabel(c.label)}
              placeholder={c.after_says ? "again" : "after"}
              value={text}
              onChange={(e) => setText(e.target.value)}
              onPressEnter={() => text.trim() && take({ value: text.trim() })}
            />
          ))}
        {enter.error && (
          <span className="wrong" role="alert">
            {enter.error.message}
          </span>
        )}
      </span>
      <span data-label="Good is">{c.good_says}</span>
    </li>
  );
}
