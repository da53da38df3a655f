import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
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
import * as words from "./words";
import Input from "antd/es/input/Input";

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
      <h2>{words.whatIsKnownOf}</h2>
      <Needs what={words.thisCanBeChanged}>
        <div className="known-grid">
          <div>
            {pick(words.whatIsNew, "new_parts", words.newPartsFailLess)}
            {pick(words.whatWasApartBefore, "was_apart", words.whatSomebodyHadTheir)}
            {pick(words.knownGoodPartsOn, "shelf", words.forASwapTest)}
            <p className="leaning-line">
              {words.leaning} <Leaning />
            </p>
            {clampable && (
              <Button
                disabled={!mayWrite || undefined}
                aria-pressed={noClamp}
                type={noClamp ? "primary" : "default"}
                onClick={() => set({ without: noClamp ? [] : ["current"] })}
              >
                {words.noCurrentClampAt(noClamp ? "✓ " : "")}
              </Button>
            )}{" "}
            {circuit.stations.some((x) => x.kind === "motor") && (
              <Button
                disabled={!mayWrite || undefined}
                aria-pressed={scope}
                type={scope ? "primary" : "default"}
                onClick={() => set({ with: scope ? [] : ["scope"] })}
              >
                {words.aScopeWithA(scope ? "✓ " : "")}
              </Button>
            )}
            {(job.diagnosis.shifts ?? []).length > 0 && (
              <>
                <h3>{words.whatThisShiftsBefore}</h3>
                <ul className="shifts">
                  {(job.diagnosis.shifts ?? []).slice(0, 6).map((s) => (
                    <li key={s.station}>
                      <b>{stationOf(circuit, s.station)?.label}</b>{" "}
                      {s.factor >= 1
                        ? words.timesLikelier(fixed(s.factor, 1))
                        : words.timesLessLikely(fixed(1 / s.factor, 1))}
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
    circuit.stations.find((x) => x.from === from && x.to === to)?.label ?? words.to(from, to);
  if (parts.length === 0) return null;
  return (
    <>
      <label htmlFor="range-of">{words.aRangeOfOhms}</label>
      <div className="value-row">
        <Select
          id="range-of"
          allowClear
          disabled={!mayWrite || undefined}
          placeholder={words.coilMotorWinding}
          options={parts.map((x) => ({ value: x.id, label: x.label }))}
          value={id}
          onChange={(v: string | undefined) => setId(v)}
        />
        {s?.from && s.to && (
          <>
            <Input
              aria-label={words.from}
              placeholder="0.25"
              suffix="Ω"
              value={low}
              onChange={(e) => setLow(e.target.value)}
            />
            <Input
              aria-label={words.knownTo}
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
              {words.keep}
            </Button>
          </>
        )}
      </div>
      {job.specifications.length > 0 && (
        <ul className="shifts">
          {job.specifications.map((x) => (
            <li key={x.from + x.to}>
              <b>{name(x.from, x.to)}</b> {x.low} {words.to2} {x.high}
              {mayWrite && (
                <button
                  type="button"
                  className="link"
                  onClick={() => change.mutate({ specification: { from: x.from, to: x.to } })}
                >
                  {words.takeBack}
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
      <legend>{words.theMotorSPlate}</legend>
      <div className="plate-row">
        {field("power", words.power, words.exampleKw)}
        {field("voltage", words.voltage, `${job.voltage} V`)}
        {field("current", words.current, "15 A")}
        {field("speed", words.speed, words.exampleRpm)}
        <Button
          type="primary"
          loading={change.isPending}
          disabled={!mayWrite || same}
          onClick={() => keep(p)}
        >
          {words.keep}
        </Button>
      </div>
      {plate.amps && (
        <p className="note">
          {words.atItsWorkIt(range(plate.amps.low, plate.amps.high, "current"))}
          {mayWrite && (
            <button
              type="button"
              className="link"
              onClick={() => keep({ power: "", voltage: "", current: "", speed: "" })}
            >
              {words.takeBack}
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
    return words.asJobsHereTook(l.n);
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
          <label htmlFor="voltage">{words.supply}</label>
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
      <label htmlFor="value-of">{words.anotherValueOfThis}</label>
      <Select
        id="value-of"
        showSearch
        allowClear
        disabled={!mayWrite || undefined}
        placeholder={words.fuseCableCoilCapacitor}
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
            aria-label={words.value}
            placeholder={c.wire && length !== null ? words.exampleSize : words.usually(c.usual)}
            suffix={sized ? "" : c.unit}
            value={value}
            onChange={(e) => setValue(e.target.value)}
            onPressEnter={add}
          />
          {c.wire && (
            <InputNumber
              aria-label={words.cableLengthM}
              placeholder={words.bySizeLengthM}
              min={0.05}
              max={1000}
              value={length}
              onChange={setLength}
            />
          )}
          <Button type="primary" onClick={add} loading={change.isPending} disabled={value.trim() === ""}>
            {words.keep}
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
                  {words.takeBack}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <Ranges />
      <label htmlFor="access">{words.gettingThereTakes}</label>
      <div className="value-row">
        <Select
          id="access"
          disabled={!mayWrite || undefined}
          placeholder={words.chooseWhatToOpen}
          options={Object.entries(circuit.access_minutes)
            .filter(([g]) => g !== "open_air")
            .map(([g, m]) => ({
              value: g,
              label: words.min(circuit.access_labels?.[g] ?? plain(g), job.access?.[g] ?? m, learnedFrom(g)),
            }))}
          value={group}
          onChange={setGroup}
        />
        {group && (
          <InputNumber
            aria-label={words.minutes}
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
          <label htmlFor="controller">{words.controllerWhoseLampIs}</label>
          <Controller />
        </>
      )}
      <p className="quiet">
        {words.withoutAValueThe(job.machine.kind ? words.wireColoursOfA(lower(job.machine.kind)) : "")}
      </p>
      {change.error && (
        <p className="wrong" role="alert">
          {change.error.message}
        </p>
      )}
    </div>
  );
}
