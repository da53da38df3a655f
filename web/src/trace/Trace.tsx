import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import { evidence, observationOf, statesOf, useJob, useWrites } from "../job/job";
import { post, readKept, useLost } from "../offline/sync";
import { age } from "../shared/format";
import { newId } from "../shared/id";
import { saveAs } from "../shared/save";
import { columns, figures, stem } from "./export";
import { Engine, type Compared, type Opened, type Options } from "./engine";
import { Ring } from "./Ring";
import * as words from "./words";
import { fixed } from "../shared/written";

const Chart = lazy(async () => ({ default: (await import("./Chart")).Chart }));

const scales = ["", "A", "10mV/A", "100mV/A", "1mV/A", "1V/A"].map((value) => ({
  value,
  label: value || words.asTheFileSays,
}));

interface Loaded {
  name: string;
  opened: Opened;
}

/** The chance that the word of a trace is wrong, as evidence has it; dropouts need no turn. */
const doubt = (r: Opened["result"]) =>
  r.word === "dropouts" || r.confidence > 0.99 ? undefined : `${Math.ceil(100 * (1 - r.confidence))} %`;

/** The motor's own current: mean, ripple, speed and bars, and an old motor laid over a new one. */
export default function Trace() {
  const { job, circuit, state } = useJob();
  const { enter } = useWrites(job.id, state);
  const motor = circuit.stations.find((s) => s.kind === "motor");
  const running = statesOf(circuit).filter((s) => s.supply === "battery" || s.supply === "feed");
  const [taken, setTaken] = useState(running.some((s) => s.id === state) ? state : circuit.run_state);
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const [engine] = useState(() => new Engine());
  useEffect(() => () => engine.stop(), [engine]);
  const [o, setO] = useState<Options>({ channel: "", scale: "", bars: 0, brushes: 2 });
  const [file, setFile] = useState<File>();
  const [one, setOne] = useState<Loaded>();
  const [other, setOther] = useState<Loaded>();
  const [cmp, setCmp] = useState<Compared>();
  const [busy, setBusy] = useState<number>();
  const [wrong, setWrong] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const picker2 = useRef<HTMLInputElement>(null);
  const readTraces = () => must(api.GET("/api/jobs/{id}/traces", { params: { path: { id: job.id } } }));
  const lost = useLost();
  const kept = useQuery({
    queryKey: ["traces", job.id],
    queryFn: () => readKept(`traces ${job.id}`, readTraces),
  });
  const meters = useQuery({
    queryKey: ["instruments"],
    queryFn: () => must(api.GET("/api/instruments")),
    staleTime: 60_000,
  });
  const scope = meters.data?.find((m) => m.kind === "scope" && m.address);

  const work = async <T,>(f: () => Promise<T>): Promise<T | undefined> => {
    setWrong("");
    setBusy(0);
    try {
      return await f();
    } catch (e) {
      const text = (e as Error).message;
      if (text !== "stopped") setWrong(text.charAt(0).toUpperCase() + text.slice(1));
    } finally {
      setBusy(undefined);
    }
  };
  const load = async (f: File, opt: Options) => {
    setFile(f);
    const opened = await work(() => engine.open("one", f, opt, setBusy));
    if (!opened) return;
    setOne({ name: f.name, opened });
    setOther(undefined);
    setCmp(undefined);
  };
  const loadOther = async (f: File) => {
    const opened = await work(() =>
      engine.open("other", f, { ...o, channel: "", bars: o.bars || (one?.opened.result.bars ?? 0) }, setBusy),
    );
    if (!opened) return;
    setOther({ name: f.name, opened });
    setCmp(await engine.compare("one", "other"));
  };
  const capture = async () => {
    const opened = await work(async () => {
      const r = await fetch(`/api/instruments/${scope!.id}/capture?state=${taken}`);
      if (!r.ok) throw new Error(((await r.json()) as { detail: string }).detail);
      return engine.capture("one", await r.arrayBuffer(), Number(r.headers.get("X-Interval")), o);
    });
    if (!opened) return;
    setFile(undefined);
    setOne({ name: scope!.name, opened });
    setOther(undefined);
    setCmp(undefined);
  };
  const change = (p: Partial<Options>) => {
    const next = { ...o, ...p };
    setO(next);
    if (file) void load(file, next);
  };
  const keep = useMutation({
    mutationFn: async () => {
      const z = await engine.zoom("one", 0, one!.opened.result.samples * one!.opened.result.interval_s, 1500);
      const trace = { id: newId(), name: one!.name, result: one!.opened.result, points: z.points };
      return post(job.id, { trace }, () =>
        Promise.resolve(
          client.getQueryData<Awaited<ReturnType<typeof readTraces>>>(["traces", job.id]) ?? [],
        ),
      );
    },
    onSuccess: (l) => client.setQueryData(["traces", job.id], l),
  });
  const r = one?.opened.result;
  const fact = (label: string, value: string) => (
    <div key={label}>
      <dt>{label}</dt>
      <dd>{value}</dd>
    </div>
  );
  const num = (v: number | null | undefined, unit: string, digits = 1) =>
    v === null || v === undefined ? words.notToBeTold : `${fixed(v, digits)} ${unit}`;
  return (
    <main className="page trace">
      <div className="trace-tools">
        <Button type={one ? "default" : "primary"} size="large" onClick={() => picker.current?.click()}>
          {one ? words.anotherTrace : words.openAScopeS}
        </Button>
        <input
          ref={picker}
          type="file"
          accept=".csv,.txt,.tsv,text/*"
          hidden
          aria-label={words.trace}
          onChange={(e) => {
            const f = e.target.files?.[0];
            e.target.value = "";
            if (f) void load(f, o);
          }}
        />
        {scope && (
          <Button size="large" disabled={lost} onClick={() => void capture()}>
            {words.captureFrom(scope.name)}
          </Button>
        )}
        {one && (
          <Button size="large" onClick={() => picker2.current?.click()}>
            {words.layAnotherOverIt}
          </Button>
        )}
        <input
          ref={picker2}
          type="file"
          accept=".csv,.txt,.tsv,text/*"
          hidden
          aria-label={words.traceToCompareWith}
          onChange={(e) => {
            const f = e.target.files?.[0];
            e.target.value = "";
            if (f) void loadOther(f);
          }}
        />
        <label>
          {words.clamp}{" "}
          <Select
            aria-label={words.clampScale}
            value={o.scale}
            options={scales}
            onChange={(scale) => change({ scale })}
            popupMatchSelectWidth={160}
          />
        </label>
        {one && one.opened.channels.length > 1 && (
          <label>
            {words.channel}{" "}
            <Select
              aria-label={words.channel}
              value={r?.channel}
              options={one.opened.channels.map((c) => ({ value: c, label: c }))}
              onChange={(channel) => change({ channel })}
              popupMatchSelectWidth={200}
            />
          </label>
        )}
        <label>
          {words.bars}{" "}
          <InputNumber
            aria-label={words.barsOfTheCommutator}
            min={3}
            max={400}
            value={o.bars || null}
            placeholder="?"
            onChange={(v) => change({ bars: v ?? 0 })}
          />
        </label>
        <label>
          {words.brushes}{" "}
          <InputNumber
            aria-label={words.brushes}
            min={1}
            max={12}
            value={o.brushes}
            onChange={(v) => change({ brushes: v ?? 2 })}
          />
        </label>
      </div>
      {busy !== undefined && (
        <p role="status">
          <progress value={busy} max={1} aria-label={words.reading} />{" "}
          {words.readingWithBusy(Math.round(busy * 100))}{" "}
          <Button onClick={() => engine.stop()}>{words.cancel}</Button>
        </p>
      )}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      )}
      {!one && busy === undefined && (
        <div className="empty">
          <p>{words.clampRoundTheMotor}</p>
        </div>
      )}
      {one && r && (
        <>
          <h1 className="trace-verdict">{cmp ? cmp.says : r.verdict}</h1>
          {r.cannot_tell && (
            <p className="warn" role="status">
              {r.cannot_tell.says}
            </p>
          )}
          {(r.warnings ?? [])
            .filter((w) => w !== r.cannot_tell?.says)
            .map((w) => (
              <p key={w} className="warn">
                {w.charAt(0).toUpperCase() + w.slice(1)}.
              </p>
            ))}
          <Suspense fallback={<p className="quiet">{words.drawingTheTrace}</p>}>
            <Chart
              engine={engine}
              total={r.samples * r.interval_s}
              shift={other && cmp ? (cmp.shift ?? 0) : undefined}
              stamp={`${one.name}${other?.name}${r.mean_a}${o.bars}`}
            />
          </Suspense>
          <div className="trace-lower">
            <dl className="facts">
              {fact(words.mean, num(r.mean_a, "A", 2))}
              {fact(words.effectiveRms, num(r.rms_a, "A", 2))}
              {fact(words.peak, num(r.peak_a, "A", 1))}
              {fact(words.inrush, r.inrush_a == null ? words.noStartInThe : num(r.inrush_a, "A", 1))}
              {fact(
                words.ripple,
                `${fixed(r.ripple_percent, 1)} %${r.ripple_hz ? `, ${fixed(r.ripple_hz, 0)} Hz` : ""}`,
              )}
              {fact(
                words.speed,
                num(r.rpm, "rpm", 0) + (r.rpm == null ? "" : words.sure(Math.floor(r.confidence * 100))),
              )}
              {fact(
                words.bars,
                r.bars == null
                  ? words.giveTheNumber
                  : words.barsAndHumps(r.bars, r.humps_per_revolution ?? 0),
              )}
              {fact(words.dropouts, String(r.dropouts))}
              {r.chop_hz ? fact(words.chopped, num(r.chop_hz, words.hz, 0)) : null}
            </dl>
            {r.bar_levels && r.bar_levels.length > 0 && (
              <Ring
                levels={r.bar_levels}
                weak={r.weak_bars ?? []}
                mean={r.mean_a}
                other={
                  other && cmp?.shift != null
                    ? other.opened.result.bar_levels?.map(
                        (_, i, all) =>
                          all[(i + cmp.shift!) % all.length]! * (r.mean_a / other.opened.result.mean_a),
                      )
                    : undefined
                }
              />
            )}
          </div>
          <div className="trace-tools save-as">
            <span>{words.save}</span>
            <Button
              onClick={() =>
                saveAs(`${stem(one.name)}-figures.json`, "application/json", JSON.stringify(r, null, 2))
              }
            >
              {words.figuresJson}
            </Button>
            <Button onClick={() => saveAs(`${stem(one.name)}-figures.csv`, "text/csv", figures(r))}>
              {words.figuresCsv}
            </Button>
            <Button
              onClick={() =>
                void work(async () => {
                  const z = await engine.zoom("one", 0, r.samples * r.interval_s, 2000);
                  saveAs(`${stem(one.name)}-trace.csv`, "text/csv", columns(z.points));
                })
              }
            >
              {words.traceCsv}
            </Button>
          </div>
          {mayWrite && (
            <div className="trace-tools">
              <Button size="large" loading={keep.isPending} onClick={() => keep.mutate()}>
                {words.keepWithThisJob}
              </Button>
              {motor && (
                <>
                  <label>
                    {words.taken}{" "}
                    <Select
                      aria-label={words.stateItWasTaken}
                      value={taken}
                      options={running.map((s) => ({ value: s.id, label: s.label }))}
                      onChange={setTaken}
                      popupMatchSelectWidth={200}
                    />
                  </label>
                  <Button
                    size="large"
                    type="primary"
                    loading={enter.isPending}
                    disabled={!r.word}
                    onClick={() =>
                      enter.mutate({
                        evidence: [
                          evidence({
                            observe: "current_trace",
                            state: taken,
                            outcome: r.word,
                            uncertainty: doubt(r),
                          }),
                          evidence({
                            measure: "current",
                            state: taken,
                            through: motor.id,
                            value: `${fixed(r.mean_a, 2)} A`,
                          }),
                        ],
                      })
                    }
                  >
                    {words.countItAsEvidence}
                  </Button>
                  <span className="quiet">
                    {enter.isSuccess
                      ? words.countedTheSuspectsOn
                      : r.word
                        ? words.countsAs(
                            observationOf(circuit, "current_trace")?.outcomes.find((x) => x.id === r.word)
                              ?.label ?? r.word,
                            fixed(r.mean_a, 2),
                          )
                        : words.giveTheNumberOf}
                  </span>
                </>
              )}
            </div>
          )}
          {enter.error && (
            <p className="wrong" role="alert">
              {enter.error.message}
            </p>
          )}
          {keep.error && <p className="wrong">{keep.error.message}</p>}
        </>
      )}
      {(kept.data ?? []).length > 0 && (
        <section className="card">
          <h2>{words.keptWithThisJob}</h2>
          <ul className="kept-traces">
            {kept.data!.map((t) => (
              <li key={t.id}>
                <b>{t.name}</b> {fixed(t.result.mean_a, 2)} A
                {t.result.rpm ? words.rpm(fixed(t.result.rpm, 0)) : ""}. {t.result.verdict}{" "}
                <small>{age(t.at ?? "")}</small>
              </li>
            ))}
          </ul>
        </section>
      )}
    </main>
  );
}
