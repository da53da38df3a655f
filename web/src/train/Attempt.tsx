import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Modal, Select } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { AttemptView, Move } from "../api/client";
import { useBound } from "../app/keys";
import { Bar } from "../app/Bar";
import { States } from "../measure/States";
import { Tabs } from "../shared/Tabs";
import { makeMove, readAttempt } from "./attempt";
import { Debrief } from "./Debrief";
import { Display } from "./Display";
import * as words from "./words";
import { fixed } from "../shared/written";

const dials = [
  { id: "volts", label: words.vDc },
  { id: "ohms", label: "Ω" },
  { id: "clamp", label: words.aClamp },
  { id: "amperes", label: words.aLeads },
];

const unit = (dial: string, v: number) =>
  dial === "ohms"
    ? v >= 1e6
      ? `${v / 1e6} MΩ`
      : v >= 1e3
        ? `${v / 1e3} kΩ`
        : `${v} Ω`
    : v < 1
      ? words.mv(v * 1000)
      : `${v} V`;

/** One exercise: the circuit without its volts, a meter, and minutes that count. */
export default function Attempt() {
  const { id = "" } = useParams();
  const client = useQueryClient();
  const q = useQuery({
    queryKey: ["attempt", id],
    queryFn: () => readAttempt(id),
  });
  const move = useMutation({
    mutationFn: (m: Move) => makeMove(id, (q.data?.log.length ?? 0) + 1, m),
    onSuccess: (v) => {
      client.setQueryData(["attempt", id], v);
      if (v.over) void client.invalidateQueries({ queryKey: ["training"] });
    },
  });
  const v = q.data;
  return (
    <>
      <Bar right={v && <span className="bar-job">{v.title}</span>}>
        <h1 className="bar-title">
          <Link to="/training" className="brand">
            {words.trainer}
          </Link>
        </h1>
      </Bar>
      <main className="page attempt">
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        {v &&
          (v.over ? <Debrief v={v} /> : <Work v={v} busy={move.isPending} onMove={(m) => move.mutate(m)} />)}
        {move.error && (
          <p className="wrong" role="alert">
            {move.error.message}
          </p>
        )}
      </main>
    </>
  );
}

function Work({ v, busy, onMove }: { v: AttemptView; busy: boolean; onMove: (m: Move) => void }) {
  const c = v.circuit;
  const states = c.states.filter((s) => !s.hidden && s.supply !== "mains");
  const [state, setState] = useState(c.run_state);
  const [dial, setDial] = useState("volts");
  const [range, setRange] = useState(0);
  const [red, setRed] = useState("");
  const [black, setBlack] = useState("bat_neg");
  const [lead, setLead] = useState<"red" | "black">("red");
  const [round, setRound] = useState("");
  const [clips, setClips] = useState(false);
  // What stood on the display before this page was opened does not run in again.
  const [begun] = useState(v.log.length);
  const [condition, setCondition] = useState("");
  const [ready, setReady] = useState<string[]>([]);
  const [asking, setAsking] = useState<Move>();
  const [tab, setTab] = useState<"read" | "look" | "fit" | "verdict">("read");
  const [station, setStation] = useState<string>();
  const [fault, setFault] = useState<string>();
  const [option, setOption] = useState<"repair" | "replace">("repair");
  const st = states.find((s) => s.id === state);
  const last = v.log.findLast(
    (e) => e.kind === "read" || e.kind === "look" || e.kind === "zero" || e.kind === "fit",
  );
  const label = (n: string) => c.nodes.find((x) => x.id === n)?.label ?? "…";
  // A caution belongs to the step: the trainee says that it was followed, or goes on without.
  const go = (m: Move) => {
    const s = states.find((x) => x.id === (m.state ?? ""));
    if (s?.caution && !ready.includes(s.id)) setAsking(m);
    else onMove({ ...m, ready: true });
  };
  const read = () => {
    if (dial === "clamp") {
      if (round) go({ kind: "read", state, dial, through: round, condition });
    } else if (red && black) go({ kind: "read", state, dial, range, from: red, to: black, condition, clips });
  };
  useBound({
    probe: () => (asking || tab !== "read" ? false : read()),
    ownState: () => {
      if (asking) return false;
      const i = states.findIndex((x) => x.id === state);
      setState(states[(i + 1) % states.length]!.id);
    },
  });
  const looks = v.looks.filter((o) => o.states.includes(state));
  const modes = (id?: string) => Object.keys(c.stations.find((s) => s.id === id)?.faults ?? {});
  return (
    <>
      <p className="lead">
        “{v.complaint}”{" "}
        <span className="quiet">
          {words.spent(Math.round(v.minutes))}
          {v.money > 0 && words.inParts(fixed(v.money, 0))}
          {v.hints > 0 && `, ${v.hints} ${words.hints(v.hints)}`} {words.machine(v.seed)}
        </span>
      </p>
      <States states={states} at={state} onGo={setState} />
      <p className="quiet">{st?.how}</p>
      <div className="train-paths">
        {c.paths
          .filter((p) => (p.states ?? []).length === 0 || p.states!.includes(state))
          .map((p) => {
            const ids: string[] = [];
            let at = "";
            for (const sid of p.stations) {
              const s = c.stations.find((x) => x.id === sid);
              if (!s?.from || !s.to) continue;
              if (!at) at = s.from;
              if (ids.length === 0) ids.push(at);
              at = s.from === at ? s.to : s.from;
              ids.push(at);
            }
            return (
              <section key={p.id} aria-label={words.path(p.label)}>
                <h2>{p.label}</h2>
                <div className="train-path">
                  {ids.map((n, i) => {
                    const node = c.nodes.find((x) => x.id === n);
                    const s = c.stations.find((x) => x.id === p.stations[i]);
                    const flag = n === red ? "red" : n === black ? "black" : "";
                    return (
                      <span key={n + i}>
                        <button
                          type="button"
                          className={`probe ${flag}`}
                          disabled={node?.hidden || dial === "clamp"}
                          aria-label={`${node?.label ?? n}${flag ? words.lead(flag) : ""}`}
                          onClick={() => {
                            if (lead === "red") {
                              setRed(n);
                              setLead("black");
                            } else {
                              setBlack(n);
                              setLead("red");
                            }
                          }}
                        >
                          {node?.label ?? n}
                        </button>
                        {s && (
                          <button
                            type="button"
                            className={`train-part ${round === s.id && dial === "clamp" ? "on" : ""}`}
                            disabled={dial !== "clamp"}
                            aria-label={words.clampRoundItsWire(s.label)}
                            onClick={() => setRound(s.id)}
                          >
                            {s.label}
                          </button>
                        )}
                      </span>
                    );
                  })}
                </div>
              </section>
            );
          })}
      </div>
      <div className="page columns train-lower">
        <section className="card">
          <Tabs
            label={words.whatToDo}
            at={tab}
            onGo={setTab}
            tabs={[
              ["read", words.measure, null],
              ["look", words.look, null],
              ["fit", words.replace, null],
              ["verdict", words.verdict, null],
            ]}
          />
          {v.sometimes && (
            <Select
              aria-label={words.whileYouDoIt}
              value={condition}
              onChange={setCondition}
              popupMatchSelectWidth={false}
              options={[
                { value: "", label: words.asItStands },
                { value: "wiggle", label: words.wiggled },
                { value: "hot", label: words.hot },
                { value: "cold", label: words.cold },
                { value: "after_tap", label: words.afterATap },
              ]}
            />
          )}
          {tab === "read" && (
            <>
              <div className="dials" role="group" aria-label={words.dial}>
                {dials.map((d) => (
                  <button
                    key={d.id}
                    type="button"
                    aria-pressed={dial === d.id}
                    className={`dial ${dial === d.id ? "on" : ""}`}
                    onClick={() => {
                      setDial(d.id);
                      setRange(0);
                    }}
                  >
                    {d.label}
                  </button>
                ))}
                {(dial === "volts" || dial === "ohms") && (
                  <Select
                    aria-label={words.range}
                    value={range}
                    onChange={setRange}
                    popupMatchSelectWidth={false}
                    options={[
                      { value: 0, label: words.autoRange },
                      ...(v.ranges[dial] ?? []).map((r) => ({ value: r, label: unit(dial, r) })),
                    ]}
                  />
                )}
                {(dial === "ohms" || dial === "clamp") && (
                  <Button onClick={() => onMove({ kind: "zero", dial })}>
                    {dial === "ohms" ? words.holdTheLeadsTogether : words.zeroTheClamp}
                  </Button>
                )}
              </div>
              <p className="instruction">
                {dial === "clamp" ? (
                  round ? (
                    <>
                      {words.clampRoundThe} {c.stations.find((s) => s.id === round)?.label.toLowerCase()}.
                    </>
                  ) : (
                    words.touchThePartWhose
                  )
                ) : (
                  <>
                    {words.redOnTheBlack(red ? label(red) : "…", black ? label(black) : "…")}{" "}
                    <button
                      type="button"
                      className="link"
                      onClick={() => setLead(lead === "red" ? "black" : "red")}
                    >
                      {words.nextTouchSets(lead)}
                    </button>
                  </>
                )}
              </p>
              {dial !== "clamp" && (
                <Checkbox checked={clips} onChange={(e) => setClips(e.target.checked)}>
                  {words.clipTheLeadsOn}
                </Checkbox>
              )}
              <Button
                type="primary"
                size="large"
                loading={busy}
                disabled={dial === "clamp" ? !round : !red || !black || red === black}
                onClick={read}
              >
                {words.read} <kbd>Enter</kbd>
              </Button>
            </>
          )}
          {tab === "look" && (
            <div className="train-looks">
              {looks.length === 0 && <p className="quiet">{words.nothingToLookAt}</p>}
              {looks.map((o) => (
                <Button
                  key={o.id}
                  loading={busy}
                  onClick={() => go({ kind: "look", observe: o.id, state, condition })}
                >
                  {o.question}
                </Button>
              ))}
            </div>
          )}
          {tab === "fit" && (
            <>
              <p>{words.aNewPartCosts}</p>
              <Select
                aria-label={words.partToReplace}
                placeholder={words.whichPart}
                value={station}
                onChange={setStation}
                options={c.stations.filter((s) => s.replace).map((s) => ({ value: s.id, label: s.label }))}
              />
              <Button loading={busy} disabled={!station} onClick={() => onMove({ kind: "fit", station })}>
                {words.replaceIt}
              </Button>
            </>
          )}
          {tab === "verdict" && (
            <>
              <Select
                aria-label={words.partAtFault}
                placeholder={words.whichPartIsIt}
                value={station}
                onChange={(x) => {
                  setStation(x);
                  setFault(undefined);
                }}
                options={[
                  ...c.stations
                    .filter((s) => modes(s.id).length > 0)
                    .map((s) => ({ value: s.id, label: s.label })),
                  { value: "", label: words.nothingIsWrong },
                ]}
              />
              {station && (
                <Select
                  aria-label={words.whatIsWrongWith}
                  placeholder={words.whatIsWrongWithIt}
                  value={fault}
                  onChange={setFault}
                  options={modes(station).map((m) => ({ value: m, label: m.replaceAll("_", " ") }))}
                />
              )}
              {station && (
                <Select
                  aria-label={words.repairOrReplace}
                  value={option}
                  onChange={setOption}
                  options={[
                    { value: "repair", label: words.repairIt },
                    { value: "replace", label: words.attemptReplaceIt },
                  ]}
                />
              )}
              <Button
                type="primary"
                size="large"
                loading={busy}
                disabled={station === undefined}
                onClick={() => onMove({ kind: "verdict", station, fault, option })}
              >
                {words.thisIsMyVerdict}
              </Button>
            </>
          )}
          <p>
            <Button onClick={() => onMove({ kind: "hint" })}>{words.aHintForSome}</Button>
          </p>
        </section>
        <section className="card">
          <Display key={last?.n ?? 0} last={last} fresh={(last?.n ?? 0) > begun} />
          <ol className="train-log" reversed>
            {v.log.toReversed().map((e) => (
              <li key={e.n}>
                <b>{e.shown || "–"}</b>{" "}
                <small>
                  {e.kind === "read"
                    ? `${e.dial}, ${e.through ? (c.stations.find((s) => s.id === e.through)?.label ?? "") : words.to(label(e.from ?? ""), label(e.to ?? ""))}, ${states.find((s) => s.id === e.state)?.label.toLowerCase() ?? ""}`
                    : e.kind === "look"
                      ? `${v.looks.find((o) => o.id === e.observe)?.label ?? ""}, ${states.find((s) => s.id === e.state)?.label.toLowerCase() ?? ""}`
                      : e.kind === "fit"
                        ? words.newWord(c.stations.find((s) => s.id === e.station)?.label.toLowerCase() ?? "")
                        : e.says}
                  {e.minutes > 0 && words.min(Math.max(1, Math.round(e.minutes)))}
                </small>
              </li>
            ))}
          </ol>
        </section>
      </div>
      {asking && (
        <Modal
          open
          title={words.before(states.find((s) => s.id === asking.state)?.label ?? "")}
          footer={null}
          onCancel={() => setAsking(undefined)}
        >
          <div className="ask">
            <p>{words.whatIsDoneFirst}</p>
            <p className="ask-buttons">
              <Button
                autoFocus
                onClick={() => {
                  onMove({ ...asking, ready: true });
                  setReady([...ready, asking.state ?? ""]);
                  setAsking(undefined);
                }}
              >
                {states.find((s) => s.id === asking.state)?.caution}
              </Button>
              <Button
                onClick={() => {
                  onMove({ ...asking, ready: false });
                  setAsking(undefined);
                }}
              >
                {words.nothingJustDoIt}
              </Button>
              <button type="button" className="link" onClick={() => setAsking(undefined)}>
                {words.notNow}
              </button>
            </p>
          </div>
        </Modal>
      )}
    </>
  );
}
