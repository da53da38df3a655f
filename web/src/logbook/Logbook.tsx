import { day } from "../shared/format";
import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, must, Refused, type LogEntry } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { useKeys, useRested } from "../shared/hooks";
import { Learned } from "./Learned";
import { ListImport } from "./ListImport";
import { Reliability } from "./Reliability";
import { fixed } from "../shared/written";

const tabs = [
  ["jobs", "Jobs"],
  ["learned", "What we learned"],
  ["reliability", "How right it was"],
  ["parts", "Parts and lists"],
] as const;

/** Every job, reading and outcome: searched in one field, looked back on, learned from. */
export default function Logbook() {
  const [search, setSearch] = useSearchParams();
  const tab = search.get("view") ?? "jobs";
  return (
    <>
      <Bar>
        <span className="bar-title">Logbook</span>
      </Bar>
      <main className="page logbook">
        <div className="tabs" role="tablist" aria-label="Logbook">
          {tabs.map(([id, label]) => (
            <button
              key={id}
              type="button"
              role="tab"
              aria-selected={tab === id}
              onClick={() => setSearch(id === "jobs" ? {} : { view: id })}
            >
              {label}
            </button>
          ))}
        </div>
        {tab === "learned" ? (
          <Learned />
        ) : tab === "reliability" ? (
          <Reliability />
        ) : tab === "parts" ? (
          <ListImport what="parts" />
        ) : (
          <Jobs />
        )}
      </main>
    </>
  );
}

function Jobs() {
  const { mayWrite } = useApp();
  const [q, setQ] = useState("");
  const [circuit, setCircuit] = useState("");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [bring, setBring] = useState(false);
  const asked = useRested(q, 250);
  const circuits = useQuery({
    queryKey: ["circuits"],
    queryFn: () => must(api.GET("/api/circuits")),
    staleTime: 60_000,
  });
  const query = { q: asked, circuit, from, to };
  const pages = useInfiniteQuery({
    queryKey: ["logbook", query],
    queryFn: ({ pageParam }) =>
      must(api.GET("/api/logbook", { params: { query: { ...query, before: pageParam } } })),
    initialPageParam: "",
    getNextPageParam: (p) => p.more ?? undefined,
    placeholderData: keepPreviousData,
  });
  useKeys((k) => {
    if (k !== "/") return false;
    document.querySelector<HTMLInputElement>(".logbook .search input")?.focus();
    return true;
  });
  const list = (pages.data?.pages ?? []).flatMap((p) => p.entries);
  const exported = (format: string) =>
    `/api/logbook/export?${new URLSearchParams({ ...query, format }).toString()}`;
  return (
    <>
      <div className="tools">
        <Input
          className="search"
          size="large"
          allowClear
          aria-label="Search the logbook"
          placeholder="Machine, part, words of the complaint, a reading: 9.87 V  ( / )"
          value={q}
          onChange={(e) => setQ(e.target.value)}
        />
        <Select
          aria-label="Circuit"
          value={circuit}
          onChange={setCircuit}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: "all circuits" },
            ...(circuits.data ?? []).map((c) => ({ value: c.id, label: c.title })),
          ]}
        />
        <Input type="date" aria-label="From" value={from} onChange={(e) => setFrom(e.target.value)} />
        <Input type="date" aria-label="To" value={to} onChange={(e) => setTo(e.target.value)} />
      </div>
      {pages.error && (
        <p className="wrong" role="alert">
          {pages.error.message}
        </p>
      )}
      {pages.data && list.length === 0 && (
        <p className="empty">
          {q ? `Nothing matches “${q}”. Fewer words, or another day.` : "No job was closed yet."}
        </p>
      )}
      <ul className="log">
        {list.map((e) => (
          <Entry key={e.id} e={e} />
        ))}
      </ul>
      {pages.hasNextPage && (
        <Button loading={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
          More
        </Button>
      )}
      <div className="tools">
        <span>Take along:</span>
        {["csv", "xlsx", "json", "cases"].map((f) => (
          <Button key={f} href={exported(f)} download>
            {f === "cases" ? "case files" : f.toUpperCase()}
          </Button>
        ))}
        {mayWrite && <Button onClick={() => setBring(!bring)}>Bring an old list in</Button>}
      </div>
      {bring && <ListImport what="old" />}
    </>
  );
}

function Entry({ e, lasted }: { e: LogEntry; lasted?: boolean }) {
  return (
    <li>
      <span className="log-day">{day(e.opened_at)}</span>
      <span className="log-machine">
        {e.machine_id ? <Link to={`/machines/${e.machine_id}`}>{e.machine}</Link> : e.machine}
        <small>{e.title || e.circuit}</small>
      </span>
      <span>
        {e.complaint}
        {!e.fault && <small>{e.says}</small>}
      </span>
      <span>
        {e.fault && <b>{e.fault}</b>}
        <small>
          {[e.option, e.price != null ? fixed(e.price, 0) : "", lasted ? e.lasted : ""]
            .filter(Boolean)
            .join(" · ")}
        </small>
      </span>
      <span>
        {e.old ? (
          <small>old list</small>
        ) : (
          <>
            <Link to={`/jobs/${e.id}/report`}>open</Link>
            {!e.closed_at && <small>going on</small>}
          </>
        )}
      </span>
    </li>
  );
}

/** What is said of a machine; its kind and age decide which jobs it is compared with. */
function About({ id }: { id: string }) {
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const machines = useQuery({ queryKey: ["machines"], queryFn: () => must(api.GET("/api/machines")) });
  const m = machines.data?.find((x) => x.id === id);
  // What stood there when the form was opened: a change that somebody makes meanwhile is not overwritten unseen.
  const [read, setRead] = useState("");
  const save = useMutation({
    mutationFn: ({ f, over }: { f: FormData; over?: boolean }) => {
      const text = (k: string) => {
        const v = f.get(k);
        return typeof v === "string" ? v.trim() : "";
      };
      return must(
        api.PUT("/api/machines/{id}", {
          params: { path: { id } },
          body: {
            name: text("name"),
            kind: text("kind"),
            place: text("place"),
            note: m?.note ?? "",
            built: Math.round(Number(text("built"))) || 0,
            revision: over ? "" : read,
          },
        }),
      );
    },
    onSuccess: () => {
      setOpen(false);
      for (const key of ["machines", "history", "board", "logbook", "job"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
  if (!m) return null;
  const says = [m.kind, m.place, m.built ? `built ${m.built}` : ""].filter(Boolean).join(" · ");
  if (!open)
    return (
      <p>
        {says}{" "}
        {mayWrite && (
          <button
            type="button"
            className="link"
            onClick={() => {
              setRead(m.revision);
              setOpen(true);
            }}
          >
            {m.built ? "Change" : "Say when it was built"}
          </button>
        )}
      </p>
    );
  return (
    <form
      className="card about"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ f: new FormData(e.currentTarget) });
      }}
    >
      {(
        [
          ["name", "Name", m.name],
          ["kind", "Type", m.kind],
          ["place", "Where it stands", m.place],
          ["built", "Built in (year)", m.built ? String(m.built) : ""],
        ] as const
      ).map(([k, label, value]) => (
        <label key={k}>
          {label}
          <Input
            name={k}
            defaultValue={value}
            maxLength={k === "built" ? 4 : 60}
            inputMode={k === "built" ? "numeric" : "text"}
            autoFocus={k === "built"}
          />
        </label>
      ))}
      {save.error && (
        <p className="wrong" role="alert">
          {save.error.message}
        </p>
      )}
      <div className="tools">
        <Button type="primary" htmlType="submit" loading={save.isPending}>
          Keep
        </Button>
        {save.error instanceof Refused && save.error.status === 412 && (
          <Button
            onClick={(e) => {
              const form = e.currentTarget.closest("form");
              if (form) save.mutate({ f: new FormData(form), over: true });
            }}
          >
            Keep mine over theirs
          </Button>
        )}
        <Button onClick={() => setOpen(false)}>Leave as it is</Button>
      </div>
    </form>
  );
}

/** One machine: what failed before and how long repairs lasted. */
export function MachineHistory() {
  const { id = "" } = useParams();
  const q = useQuery({
    queryKey: ["history", id],
    queryFn: () => must(api.GET("/api/machines/{id}/history", { params: { path: { id } } })),
  });
  const list = q.data ?? [];
  return (
    <>
      <Bar>
        <span className="bar-title">{list[0]?.machine ?? "Machine"}</span>
      </Bar>
      <main className="page logbook">
        <h1>
          {list[0]?.machine ?? "This machine"}: {list.length} {list.length === 1 ? "job" : "jobs"}
        </h1>
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        <About id={id} />
        {q.data && list.length === 0 && <p className="empty">It was never here.</p>}
        <ul className="log">
          {list.map((e) => (
            <Entry key={e.id} e={e} lasted />
          ))}
        </ul>
        <p>
          <Link to="/logbook">All of the logbook</Link>
        </p>
      </main>
    </>
  );
}
