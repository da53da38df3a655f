import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { Navigate, useSearchParams } from "react-router";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { useBound } from "../app/keys";
import { useRested } from "../shared/hooks";
import { Tabs } from "../shared/Tabs";
import { Learned } from "./Learned";
import { Entry } from "./Entry";
import { ListImport } from "./ListImport";
import { Reliability } from "./Reliability";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** Every job, reading and outcome: searched in one field, looked back on, learned from. */
export default function Logbook() {
  const [search, setSearch] = useSearchParams();
  const moved = search.get("view") === "parts"; // it has an address of its own since
  const tab = (["learned", "reliability"] as const).find((t) => t === search.get("view")) ?? "jobs";
  if (moved) return <Navigate to="/parts" replace />;
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.logbook}</h1>
      </Bar>
      <main className="page logbook">
        <Tabs
          label={words.logbook}
          at={tab}
          onGo={(id) => setSearch(id === "jobs" ? {} : { view: id })}
          tabs={[
            ["jobs", words.jobs, <Jobs key="jobs" />],
            ["learned", words.whatWeLearned, <Learned key="learned" />],
            ["reliability", words.howRightItWas, <Reliability key="reliability" />],
          ]}
        />
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
  useBound({ search: () => document.querySelector<HTMLInputElement>(".logbook .search input")?.focus() });
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
          aria-label={words.searchTheLogbook}
          placeholder={words.machinePartWordsOf}
          value={q}
          onChange={(e) => setQ(e.target.value)}
        />
        <Select
          aria-label={words.circuit}
          value={circuit}
          onChange={setCircuit}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: words.allCircuits },
            ...(circuits.data ?? []).map((c) => ({ value: c.id, label: c.title })),
          ]}
        />
        <Input type="date" aria-label={words.from} value={from} onChange={(e) => setFrom(e.target.value)} />
        <Input type="date" aria-label={words.logbookTo} value={to} onChange={(e) => setTo(e.target.value)} />
      </div>
      {pages.error && (
        <p className="wrong" role="alert">
          {pages.error.message}
        </p>
      )}
      {pages.data && list.length === 0 && (
        <p className="empty">{q ? words.nothingMatchesFewerWords(q) : words.noJobWasClosed}</p>
      )}
      <ul className="log">
        {list.map((e) => (
          <Entry key={e.id} e={e} />
        ))}
      </ul>
      {pages.hasNextPage && (
        <Button loading={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
          {words.more}
        </Button>
      )}
      <div className="tools">
        <span>{words.takeAlong}</span>
        {["csv", "xlsx", "json", "cases"].map((f) => (
          <Button key={f} href={exported(f)} download>
            {f === "cases" ? words.caseFiles : f.toUpperCase()}
          </Button>
        ))}
        {mayWrite && <Button onClick={() => setBring(!bring)}>{words.bringAnOldList}</Button>}
      </div>
      {bring && <ListImport what="old" />}
    </>
  );
}
