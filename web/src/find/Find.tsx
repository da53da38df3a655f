import { useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useState, type KeyboardEvent } from "react";
import { useLocation, useNavigate } from "react-router";
import { api, must } from "../api/client";
import { stages } from "../job/stages";
import { keptBoard } from "../offline/keep";
import { useLost } from "../offline/sync";
import { useApp } from "../app/context";
import css from "./Find.module.css";
import { rank } from "./find";
import { placesOf } from "../app/places";
import * as words from "./words";
import Input from "antd/es/input/Input";

interface Hit {
  id: string;
  /** What kind of thing it is, in words. */
  kind: string;
  label: string;
  more: string;
  /** What else it is found by. */
  also?: string;
  run: () => void;
}

/** How many are shown: what can be taken in at a glance. */
const most = 9;

/** Finds a job, a machine, a page or an action by a few letters. */
export function Find({ onClose, onKeys }: { onClose: () => void; onKeys: () => void }) {
  const app = useApp();
  const nav = useNavigate();
  const lost = useLost();
  const { pathname } = useLocation();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const jobs = useQuery({
    queryKey: ["board", true],
    queryFn: async () =>
      lost
        ? ((await keptBoard(true)) ?? [])
        : must(api.GET("/api/board", { params: { query: { all: true } } })),
  });
  const machines = useQuery({
    queryKey: ["machines"],
    queryFn: () => must(api.GET("/api/machines")),
    enabled: !lost,
  });
  const go = (to: string) => () => {
    onClose();
    void nav(to);
  };
  const job = /^\/jobs\/([^/]+)/.exec(pathname)?.[1];
  const hits: Hit[] = [
    ...(job
      ? stages.map((s) => ({
          id: `stage ${s.id}`,
          kind: words.stage,
          label: s.label,
          more: words.ofThisJob,
          run: go(`/jobs/${job}/${s.id}`),
        }))
      : []),
    ...(jobs.data ?? []).map((r) => ({
      id: r.id,
      kind: words.job,
      label: r.machine,
      more: r.complaint || r.says,
      also: `${r.place} ${r.person} ${r.station}`,
      run: go(`/jobs/${r.id}`),
    })),
    ...(machines.data ?? []).map((m) => ({
      id: m.id,
      kind: words.machine,
      label: m.name,
      more: [m.kind, m.place].filter(Boolean).join(", "),
      run: go(`/machines/${m.id}`),
    })),
    ...placesOf(app)
      .filter((p) => p.here || !lost)
      .map((p) => ({
        id: p.to,
        kind: words.page,
        label: p.label,
        more: "",
        also: p.also,
        run: go(p.to),
      })),
    ...actionsOf(app, lost, go, onClose, onKeys),
  ];
  const found = rank(text, hits, (h) => ({
    head: h.label,
    rest: `${h.kind} ${h.more} ${h.also ?? ""}`,
  })).slice(0, most);
  const chosen = found[Math.min(at, found.length - 1)];
  const onKeyDown = (e: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step !== undefined && found.length > 0)
      setAt((Math.min(at, found.length - 1) + step + found.length) % found.length);
    else if (e.key === "Enter") chosen?.run();
    else return;
    e.preventDefault();
  };
  return (
    <Modal
      open
      title={words.findAJobA}
      footer={<Button onClick={onClose}>{words.close}</Button>}
      closable={false} // the field has the focus at once, or the first letters are lost
      width={640}
      onCancel={onClose}
    >
      <Input
        autoFocus
        size="large"
        role="combobox"
        aria-label={words.find}
        aria-expanded={found.length > 0}
        aria-controls="found"
        aria-activedescendant={chosen && `found-${found.indexOf(chosen)}`}
        placeholder={words.aFewLetters}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={onKeyDown}
      />
      <ul className={css.found} role="listbox" id="found" aria-label={words.found}>
        {found.map((h, i) => (
          <li
            key={`${h.kind} ${h.id}`}
            id={`found-${i}`}
            role="option"
            aria-selected={h === chosen}
            onPointerMove={() => setAt(i)}
            onClick={h.run}
          >
            <span>{h.kind}</span>
            <b>{h.label}</b>
            <small>{h.more}</small>
          </li>
        ))}
      </ul>
      <p className="quiet" role="status">
        {found.length === 0 ? words.nothingIsCalledFewer(text) : words.arrowsChooseEnterOpens}
      </p>
    </Modal>
  );
}

function actionsOf(
  { mode, setMode, signOut, mayWrite }: ReturnType<typeof useApp>,
  lost: boolean,
  go: (to: string) => () => void,
  onClose: () => void,
  onKeys: () => void,
): Hit[] {
  const does = (id: string, label: string, also: string, run: () => void): Hit => ({
    id,
    kind: words.action,
    label,
    more: "",
    also,
    run: () => {
      onClose();
      run();
    },
  });
  return [
    ...(mayWrite && !lost ? [does("start", words.startAJob, words.newMachine, go("/start"))] : []),
    does("mode", mode === "dark" ? words.lightView : words.darkView, words.themeColours, () =>
      setMode(mode === "dark" ? "light" : "dark"),
    ),
    ...(lost ? [] : [does("you", words.yourNamePasswordAnd, words.pinSignInsText, go("/you"))]),
    { ...does("keys", words.listOfKeys, words.shortcutsHelp, () => {}), run: onKeys },
    does("out", words.signOut, words.leaveNextPerson, signOut),
  ];
}
