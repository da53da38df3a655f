import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import { api, must, type SettingsView } from "../api/client";
import { useApp } from "../app/context";
import { Leaning } from "../checks/Checks";
import { Controller } from "../codes/Controller";
import { stationOf, useJob, useWrites } from "../job/job";
import { readsOf } from "../measure/own";
import { lower, range } from "../shared/format";
import { Needs } from "../offline/Needs";
import { fixed } from "../shared/written";

/** What is known of this very machine and of the means at hand. It shifts the priors, visibly. */
export function Known() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const stations = circuit.stations.map((s) => ({ value: s.id, label: s.label }));
  const set = (k: Partial<typeof job.known>) => change.mutate({ known: { ...job.known, ...k } });
  const pick = (label: string, id: "new_parts" | "was_apart" | "shelf", hint: string) => (
    <>
      <label htmlFor={id}>{label}</label>
      <Select
        id={id}
        mode="multiple"
        disabled={!mayWrite || undefined}
        placeholder={hint}
        options={stations}
        value={job.known[id] ?? []}
        onChange={(v: string[]) => set({ [id]: v })}
        optionFilterProp="label"
      />
    </>
  );
  const scope = (job.known.with ?? []).includes("scope");
  const clampable = circuit.states.some((st) => readsOf(st).includes("current"));
  const noClamp = (job.known.without ?? []).includes("current");
  return (
    <section className="card known">
      <h2>What is known of this machine</h2>
      <Needs what="This can be changed">
        <div className="known-grid">
          <div>
            {pick("What is new?", "new_parts", "new parts fail less")}
            {pick("What was apart before?", "was_apart", "what somebody had their hands on")}
            {pick("Known good parts on the shelf", "shelf", "for a swap test")}
            <p className="leaning-line">
              Leaning <Leaning />
            </p>
            {clampable && (
              <Button
                disabled={!mayWrite || undefined}
                aria-pressed={noClamp}
                type={noClamp ? "primary" : "default"}
                onClick={() => set({ without: noClamp ? [] : ["current"] })}
              >
                {noClamp ? "✓ " : ""}No current clamp at hand
              </Button>
            )}{" "}
            {circuit.stations.some((x) => x.kind === "motor") && (
              <Button
                disabled={!mayWrite || undefined}
                aria-pressed={scope}
                type={scope ? "primary" : "default"}
                onClick={() => set({ with: scope ? [] : ["scope"] })}
              >
                {scope ? "✓ " : ""}A scope with a clamp is at hand
              </Button>
            )}
            {(job.diagnosis.shifts ?? []).length > 0 && (
              <>
                <h3>What this shifts before any reading</h3>
                <ul className="shifts">
                  {(job.diagnosis.shifts ?? []).slice(0, 6).map((s) => (
                    <li key={s.station}>
                      <b>{stationOf(circuit, s.station)?.label}</b>{" "}
                      {s.factor >= 1
                        ? `${fixed(s.factor, 1)} times likelier`
                        : `${fixed(1 / s.factor, 1)} times less likely`}
                      <small>{s.why}</small>
                    </li>
                  ))}
                </ul>
              </>
            )}
          </div>
          <Values />
        </div>
        {change.error && (
          <p className="wrong" role="alert">
            {change.error.message}
          </p>
        )}
      </Needs>
    </section>
  );
}

const plain = (p: string) => p.replaceAll("_", " ");

/** Ohms of a part from the manual: low and high, disconnected. */
function Ranges() {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const [id, setId] = useState<string>();
  const [low, setLow] = useState("");
  const [high, setHigh] = useState("");
  const parts = circuit.stations.filter((s) => s.from && ["motor", "coil", "winding"].includes(s.kind));
  const s = stationOf(circuit, id);
  const name = (from: string, to: string) =>
    circuit.stations.find((x) => x.from === from && x.to === to)?.label ?? `${from} to ${to}`;
  if (parts.length === 0) return null;
  return (
    <>
      <label htmlFor="range-of">A range of ohms from the manual</label>
      <div className="value-row">
        <Select
          id="range-of"
          allowClear
          disabled={!mayWrite || undefined}
          placeholder="coil, motor, winding"
          options={parts.map((x) => ({ value: x.id, label: x.label }))}
          value={id}
          onChange={(v: string | undefined) => setId(v)}
        />
        {s?.from && s.to && (
          <>
            <Input
              aria-label="From"
              placeholder="0.25"
              suffix="Ω"
              value={low}
              onChange={(e) => setLow(e.target.value)}
            />
            <Input
              aria-label="To"
              placeholder="0.37"
              suffix="Ω"
              value={high}
              onChange={(e) => setHigh(e.target.value)}
            />
            <Button
              type="primary"
              loading={change.isPending}
              disabled={!low.trim() || !high.trim()}
              onClick={() =>
                change.mutate(
                  { specification: { from: s.from ?? "", to: s.to ?? "", low, high } },
                  {
                    onSuccess: () => {
                      setId(undefined);
                      setLow("");
                      setHigh("");
                    },
                  },
                )
              }
            >
              Keep
            </Button>
          </>
        )}
      </div>
      {job.specifications.length > 0 && (
        <ul className="shifts">
          {job.specifications.map((x) => (
            <li key={x.from + x.to}>
              <b>{name(x.from, x.to)}</b> {x.low} to {x.high}
              {mayWrite && (
                <button
                  type="button"
                  className="link"
                  onClick={() => change.mutate({ specification: { from: x.from, to: x.to } })}
                >
                  take back
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      {change.error && (
        <p className="wrong" role="alert">
          {change.error.message}
        </p>
      )}
    </>
  );
}

type PlateView = NonNullable<SettingsView["plate"]>;

/** A motor's plate, as it stands there; the amperes to expect follow from it. */
function Plate({ plate, onKept }: { plate: PlateView; onKept: () => void }) {
  const { job, state } = useJob();
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const was = {
    power: plate.power ?? "",
    voltage: plate.voltage ?? "",
    current: plate.current ?? "",
    speed: plate.speed ?? "",
  };
  const [p, setP] = useState(was);
  const same = Object.entries(was).every(([k, v]) => p[k as keyof typeof p].trim() === v);
  const keep = (next: typeof was) => change.mutate({ plate: next }, { onSuccess: onKept });
  const field = (k: keyof typeof p, label: string, hint: string) => (
    <Input
      aria-label={label}
      placeholder={hint}
      disabled={!mayWrite || undefined}
      maxLength={24}
      value={p[k]}
      onChange={(e) => setP({ ...p, [k]: e.target.value })}
      onPressEnter={() => !same && keep(p)}
    />
  );
  return (
    <fieldset className="plate">
      <legend>The motor’s plate, what you can read of it</legend>
      <div className="plate-row">
        {field("power", "Power", "0.8 kW")}
        {field("voltage", "Voltage", `${job.voltage} V`)}
        {field("current", "Current", "15 A")}
        {field("speed", "Speed", "1500 rpm")}
        <Button
          type="primary"
          loading={change.isPending}
          disabled={!mayWrite || same}
          onClick={() => keep(p)}
        >
          Keep
        </Button>
      </div>
      {plate.amps && (
        <p className="note">
          At its work it takes {range(plate.amps.low, plate.amps.high, "current")} by its plate.
          {mayWrite && (
            <button
              type="button"
              className="link"
              onClick={() => keep({ power: "", voltage: "", current: "", speed: "" })}
            >
              take back
            </button>
          )}
        </p>
      )}
      {change.error && (
        <p className="wrong" role="alert">
          {change.error.message}
        </p>
      )}
    </fieldset>
  );
}

/** Voltage, values from the plate or the manual, cable sizes, access minutes, the controller. */
function Values() {
  const { job, circuit, state } = useJob();
  /** Where the minutes come from, when this workshop's own jobs said them. */
  const learnedFrom = (g: string) => {
    const l = job.known.access?.[g];
    if (!l || l.minutes !== job.access?.[g]) return "";
    return `, as ${l.n} ${l.n === 1 ? "job" : "jobs"} here took`;
  };
  const { mayWrite } = useApp();
  const { change } = useWrites(job.id, state);
  const client = useQueryClient();
  const [name, setName] = useState<string>();
  const [value, setValue] = useState("");
  const [length, setLength] = useState<number | null>(null);
  const [group, setGroup] = useState<string>();
  const key = ["settings", job.id];
  const settings = useQuery({
    queryKey: [...key, job.revision],
    queryFn: () => must(api.GET("/api/jobs/{id}/settings", { params: { path: { id: job.id } } })),
    placeholderData: (p) => p,
  });
  const list = settings.data?.settings ?? [];
  const given = settings.data?.given ?? [];
  const c = list.find((x) => x.name === name);
  const sized = !!c?.wire && length !== null;
  const again = { onSuccess: () => void client.invalidateQueries({ queryKey: key }) };
  const keep = (v: string) => {
    if (!c || v.trim() === "") return;
    change.mutate(
      { parameter: sized ? { name: c.name, size: v, length } : { name: c.name, value: v } },
      {
        onSuccess: () => {
          again.onSuccess();
          setName(undefined);
          setValue("");
          setLength(null);
        },
      },
    );
  };
  const add = () => keep(value);
  const hasCodes = circuit.observations.some((o) => o.model === "blink_code");
  return (
    <div>
      {!circuit.mains && (
        <>
          <label htmlFor="voltage">Supply</label>
          <Select
            id="voltage"
            disabled={!mayWrite || undefined}
            value={job.voltage}
            options={[...new Set([12, 24, 36, 48, job.voltage])]
              .sort((a, b) => a - b)
              .map((v) => ({ value: v, label: `${v} V` }))}
            onChange={(v: number) => change.mutate({ voltage: v })}
          />
        </>
      )}
      {settings.data?.plate && (
        <Plate
          key={JSON.stringify(settings.data.plate)}
          plate={settings.data.plate}
          onKept={again.onSuccess}
        />
      )}
      <label htmlFor="value-of">Another value of this vehicle (manual, measured good)</label>
      <Select
        id="value-of"
        showSearch
        allowClear
        disabled={!mayWrite || undefined}
        placeholder="fuse, cable, coil, capacitor …"
        options={list.map((x) => ({ value: x.name, label: x.label }))}
        optionFilterProp="label"
        value={name}
        onChange={(v: string | undefined) => setName(v)}
      />
      {c?.choices && (
        <div className="answers" role="group" aria-label={c.label}>
          {c.choices.map((x) => (
            <Button key={x.value} onClick={() => keep(x.value)}>
              {x.label}
            </Button>
          ))}
        </div>
      )}
      {c && !c.choices && (
        <div className="value-row">
          <Input
            aria-label="Value"
            placeholder={c.wire && length !== null ? "35 mm² or AWG 4" : `usually ${c.usual}`}
            suffix={sized ? "" : c.unit}
            value={value}
            onChange={(e) => setValue(e.target.value)}
            onPressEnter={add}
          />
          {c.wire && (
            <InputNumber
              aria-label="Cable length, m"
              placeholder="by size: length, m"
              min={0.05}
              max={1000}
              value={length}
              onChange={setLength}
            />
          )}
          <Button type="primary" onClick={add} loading={change.isPending} disabled={value.trim() === ""}>
            Keep
          </Button>
        </div>
      )}
      {given.length > 0 && (
        <ul className="shifts">
          {given.map((p) => (
            <li key={p.name}>
              <b>{p.label}</b> {p.says}
              {mayWrite && (
                <button
                  type="button"
                  className="link"
                  onClick={() => change.mutate({ parameter: { name: p.name } }, again)}
                >
                  take back
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <Ranges />
      <label htmlFor="access">Getting there takes</label>
      <div className="value-row">
        <Select
          id="access"
          disabled={!mayWrite || undefined}
          placeholder="choose what to open"
          options={Object.entries(circuit.access_minutes)
            .filter(([g]) => g !== "open_air")
            .map(([g, m]) => ({
              value: g,
              label: `${circuit.access_labels?.[g] ?? plain(g)}: ${job.access?.[g] ?? m} min${learnedFrom(g)}`,
            }))}
          value={group}
          onChange={setGroup}
        />
        {group && (
          <InputNumber
            aria-label="Minutes"
            min={0}
            max={10000}
            key={group}
            defaultValue={job.access?.[group] ?? circuit.access_minutes[group]}
            onBlur={(e) => {
              const m = Number(e.target.value);
              if (
                e.target.value.trim() !== "" &&
                Number.isFinite(m) &&
                m !== (job.access?.[group] ?? circuit.access_minutes[group])
              )
                change.mutate({ access: { ...job.access, [group]: m } });
            }}
          />
        )}
      </div>
      {hasCodes && (
        <>
          <label htmlFor="controller">Controller whose lamp is read</label>
          <Controller />
        </>
      )}
      <p className="quiet">
        Without a value the usual one stands in and is taken as uncertain
        {job.machine.kind
          ? `. Wire colours of a ${lower(job.machine.kind)} are kept at each point of the path`
          : ""}
        .
      </p>
      {change.error && (
        <p className="wrong" role="alert">
          {change.error.message}
        </p>
      )}
    </div>
  );
}
