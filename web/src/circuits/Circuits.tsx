import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
import { useRef, useState } from "react";
import { api, must, Refused, type Circuit, type Edit, type Picture, type Station } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { statesOf, tiesOf } from "../job/job";
import { CurrentPath } from "../measure/CurrentPath";
import { States } from "../measure/States";
import { saveAs } from "../shared/save";
import * as words from "./words";
import Input from "antd/es/input/Input";

const kinds = [
  { value: "joint", label: words.plugOrJoint },
  { value: "wire", label: words.wire },
  { value: "fuse", label: words.fuse },
  { value: "contact", label: words.switchOrRelayContact },
];
const idOf = (label: string) =>
  label
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+|_+$/g, "") || "part";

/** The workshop's own circuits: copied from a family and changed, with the path before one's eyes. */
export default function Circuits() {
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const list = useQuery({ queryKey: ["circuits"], queryFn: () => must(api.GET("/api/circuits")) });
  const [draft, setDraft] = useState<Circuit | null>(null);
  const [saved, setSaved] = useState(true);
  const [state, setState] = useState("");
  const [chosen, setChosen] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  // The last picture that could be drawn: a refused change leaves it as it was.
  const [pic, setPic] = useState<Picture | null>(null);

  const edit = useMutation({
    mutationFn: (v: { circuit: Circuit; edit: Edit }) => must(api.POST("/api/circuits/edit", { body: v })),
    onSuccess: (r, v) => {
      setDraft(r.circuit);
      setPic(r.picture);
      if (v.edit.op !== "check") setSaved(false);
    },
  });
  // The revision that was opened: what somebody else keeps meanwhile is not overwritten unseen.
  const tag = useRef("");
  const save = useMutation({
    mutationFn: async ({ c, over }: { c: Circuit | string; over?: boolean }) => {
      const answer = api.PUT("/api/circuits", {
        params: { header: { "If-Match": typeof c === "string" || over ? undefined : tag.current } },
        body: typeof c === "string" ? c : JSON.stringify(c),
        bodySerializer: (b) => b,
        headers: { "Content-Type": "application/json" },
      });
      const kept = await must(answer);
      tag.current = (await answer).response.headers.get("ETag") ?? "";
      return kept;
    },
    onSuccess: (c) => {
      setSaved(true);
      void client.invalidateQueries({ queryKey: ["circuits"] });
      if (!draft) show(c);
    },
  });
  const show = (c: Circuit) => {
    tag.current = "";
    if (own(c))
      void api
        .GET("/api/circuits/{id}", { params: { path: { id: c.id } } })
        .then((a) => (tag.current = a.response.headers.get("ETag") ?? ""))
        .catch(() => {}); // without a connection nothing can be kept anyway
    setChosen(null);
    setSaved(true);
    edit.mutate({ circuit: c, edit: { op: "check" } });
  };
  const copy = (c: Circuit) => {
    const title = words.ourOwn(c.title);
    let id = `own_${c.id}`;
    for (let n = 2; list.data?.some((x) => x.id === id); n++) id = `own_${c.id}_${n}`;
    setChosen(null);
    edit.mutate({ circuit: c, edit: { op: "copy", id, label: title } });
  };
  const own = (c: Circuit) => !!c.id && c.id.startsWith("own");
  const error = edit.error ?? save.error ?? list.error;
  const station = draft?.stations.find((s) => s.id === chosen);
  const check = (c: Circuit, s = state) => edit.mutate({ circuit: c, edit: { op: "check", state: s } });
  /** Changes one station and looks whether the whole can still be solved. */
  const change = (f: (s: Station) => Station) => {
    if (!draft) return;
    setSaved(false);
    check({ ...draft, stations: draft.stations.map((s) => (s.id === chosen ? f(s) : s)) });
  };
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.circuits}</h1>
      </Bar>
      <main className="page">
        {error && (
          <p className="wrong" role="alert">
            {error.message}
          </p>
        )}
        {draft && pic ? (
          <>
            <div className="tools">
              <Input
                className="search"
                aria-label={words.nameOfTheCircuit}
                value={draft.title}
                disabled={!mayWrite || !own(draft)}
                onChange={(e) => {
                  setDraft({ ...draft, title: e.target.value });
                  setSaved(false);
                }}
              />
              {mayWrite && own(draft) && (
                <Button
                  type="primary"
                  disabled={saved}
                  loading={save.isPending}
                  onClick={() => save.mutate({ c: draft })}
                >
                  {saved ? words.kept : words.keepThisCircuit}
                </Button>
              )}
              {save.error instanceof Refused && save.error.status === 412 && (
                <Button onClick={() => save.mutate({ c: draft, over: true })}>
                  {words.keepMineOverTheirs}
                </Button>
              )}
              {mayWrite && !own(draft) && (
                <Button onClick={() => copy(draft)}>{words.copyAndChangeIt}</Button>
              )}
              <Button
                onClick={() =>
                  saveAs(`${draft.id}.circuit.json`, "application/json", JSON.stringify(draft, null, 1))
                }
              >
                {words.saveAsAFile}
              </Button>
              <Button onClick={() => setDraft(null)}>{words.allCircuits}</Button>
            </div>
            <States
              states={statesOf(draft)}
              at={pic.state}
              onGo={(id) => {
                setState(id);
                check(draft, id);
              }}
            />
            <CurrentPath picture={pic} ties={tiesOf(draft)} onNode={() => undefined} onStation={setChosen} />
            {station ? (
              <StationEditor
                key={station.id}
                s={station}
                locked={!mayWrite || !own(draft)}
                busy={edit.isPending}
                onChange={change}
                onRemove={() =>
                  edit.mutate(
                    { circuit: draft, edit: { op: "remove", id: station.id, state } },
                    { onSuccess: () => setChosen(null) },
                  )
                }
                onInsert={(label, kind, ohms) =>
                  edit.mutate({
                    circuit: draft,
                    edit: { op: "insert", after: station.id, id: idOf(label), label, kind, ohms, state },
                  })
                }
              />
            ) : (
              <p className="lead">
                {words.touchAPartOn(own(draft) ? "" : ". This one ships with Corriente: copy it first")}
              </p>
            )}
          </>
        ) : (
          <>
            <div className="tools">
              <p className="lead">{words.copyACircuitAnd}</p>
              {mayWrite && (
                <>
                  <Button onClick={() => file.current?.click()}>{words.importACircuitFile}</Button>
                  <input
                    ref={file}
                    type="file"
                    accept=".json,application/json"
                    hidden
                    onChange={(e) => {
                      const f = e.target.files?.[0];
                      e.target.value = "";
                      if (f) void f.text().then((t) => save.mutate({ c: t }));
                    }}
                  />
                </>
              )}
            </div>
            <ul className="board">
              {(list.data ?? []).map((c) => (
                <li key={c.id} className="jobrow circuits-row">
                  <span>
                    <b>{c.title}</b>
                    <small>{c.about}</small>
                  </span>
                  <span>
                    {words.parts(
                      c.stations.length,
                      c.mains ? words.mainsDeadTestsOnly : `${c.nominal_voltage} V`,
                    )}
                  </span>
                  <span className="circuits-do">
                    <Button
                      onClick={() => show(c)}
                      loading={edit.isPending && edit.variables?.circuit.id === c.id}
                    >
                      {words.open}
                    </Button>
                    {mayWrite && <Button onClick={() => copy(c)}>{words.copy}</Button>}
                  </span>
                </li>
              ))}
            </ul>
          </>
        )}
      </main>
    </>
  );
}

function StationEditor({
  s,
  locked,
  busy,
  onChange,
  onRemove,
  onInsert,
}: {
  s: Station;
  locked: boolean;
  busy: boolean;
  onChange: (f: (s: Station) => Station) => void;
  onRemove: () => void;
  onInsert: (label: string, kind: string, ohms: number) => void;
}) {
  const [label, setLabel] = useState(s.label);
  const [place, setPlace] = useState(s.place);
  const [add, setAdd] = useState("");
  const [kind, setKind] = useState("joint");
  // What was sent last: a refused value put back clears the refusal.
  const sent = useRef<Record<string, number>>({});
  const removable = ["joint", "wire", "fuse", "contact"].includes(s.kind) && !s.closed_by;
  return (
    <section className="card known-grid">
      <div>
        <label htmlFor="st-label">{words.name}</label>
        <Input
          id="st-label"
          disabled={locked}
          value={label}
          onChange={(e) => setLabel(e.target.value)}
          onBlur={() => label !== s.label && label.trim() && onChange((x) => ({ ...x, label: label.trim() }))}
        />
        <label htmlFor="st-place">{words.whereItSits}</label>
        <Input
          id="st-place"
          disabled={locked}
          value={place}
          onChange={(e) => setPlace(e.target.value)}
          onBlur={() => place !== s.place && onChange((x) => ({ ...x, place }))}
        />
        {!locked && removable && (
          <Button danger onClick={onRemove} loading={busy}>
            {words.takeItOut}
          </Button>
        )}
        {!locked && s.from && (
          <>
            <label htmlFor="st-add">{words.putAPartBehind}</label>
            <div className="value-row">
              <Input
                id="st-add"
                placeholder={words.itsName}
                value={add}
                onChange={(e) => setAdd(e.target.value)}
              />
              <Select aria-label={words.kindOfPart} value={kind} onChange={setKind} options={kinds} />
              <Button
                disabled={add.trim() === ""}
                loading={busy}
                onClick={() => {
                  onInsert(add.trim(), kind, (s.params?.resistance?.value ?? 0.002) / 2);
                  setAdd("");
                }}
              >
                {words.putItIn}
              </Button>
            </div>
          </>
        )}
      </div>
      <div>
        {Object.entries(s.params ?? {}).map(([name, p]) => (
          <label key={name} className="param">
            {name.replaceAll("_", " ")}
            <InputNumber
              disabled={locked}
              defaultValue={p.value}
              controls={false}
              onBlur={(e) => {
                const v = Number(e.target.value);
                if (!Number.isFinite(v) || v === (sent.current[name] ?? p.value)) return;
                sent.current[name] = v;
                onChange((x) => ({ ...x, params: { ...x.params, [name]: { ...p, value: v } } }));
              }}
            />
          </label>
        ))}
        <p className="quiet">{words.siUnitsOhmVolt}</p>
      </div>
    </section>
  );
}
