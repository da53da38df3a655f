import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import type { InputRef } from "antd";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, must, Refused, type Row } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { keepBoard, keptBoard } from "../offline/keep";
import { reach } from "../offline/sync";
import { age, lower, share } from "../shared/format";
import { useKeys } from "../shared/hooks";
import { newId } from "../shared/id";

const stages: Record<Row["stage"], { label: string; to: string }> = {
  complaint: { label: "Complaint", to: "complaint" },
  checks: { label: "Quick checks", to: "measure" },
  measure: { label: "Measuring", to: "measure" },
  decide: { label: "To decide", to: "decide" },
  decided: { label: "Decided", to: "decide" },
  closed: { label: "Closed", to: "measure" },
};

const order: Row["stage"][] = ["decide", "measure", "checks", "complaint", "decided", "closed"];

function outcome(r: Row): string {
  if (r.was && r.closed_at) return r.was; // as it was signed; the verdict before it is past
  if (r.readings + r.looks === 0) return "nothing taken yet";
  if (r.status === "isolated") return `${r.station}, ${share(r.probability)}`;
  if (r.status === "nothing_wrong") return "nothing wrong";
  if (r.status === "contradiction") return "readings clash";
  return r.station ? `perhaps ${lower(r.station)}, ${share(r.probability)}` : "not decided yet";
}

export function Board() {
  const { mayWrite } = useApp();
  const [all, setAll] = useState(false);
  const [find, setFind] = useState("");
  const search = useRef<InputRef>(null);
  const nav = useNavigate();
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const rows = useQuery({
    queryKey: ["board", all],
    queryFn: async () => {
      try {
        const list = await reach(must(api.GET("/api/board", { params: { query: { all } } })));
        void keepBoard(all, list);
        return list;
      } catch (e) {
        const kept = e instanceof Refused && e.status === 0 ? await keptBoard(all) : undefined;
        if (kept) return kept;
        throw e;
      }
    },
  });
  const bring = useMutation({
    mutationFn: async (f: File) =>
      must(
        api.POST("/api/cases", {
          params: { query: { id: newId() } },
          body: await f.text(),
          bodySerializer: (b) => b,
          headers: { "Content-Type": "application/json" },
        }),
      ),
    onSuccess: (j) => {
      void client.invalidateQueries({ queryKey: ["board"] });
      void nav(`/jobs/${j.id}/measure`);
    },
  });
  useKeys((k) => {
    if (k === "/") search.current?.focus();
    else if (k === "n" || k === "N") void nav("/start");
    else return false;
    return true;
  });
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = (rows.data ?? [])
    .filter((r) => {
      const text = `${r.machine} ${r.kind} ${r.place} ${r.complaint} ${r.says} ${r.station}`.toLowerCase();
      return words.every((w) => text.includes(w));
    })
    .sort(
      (a, b) => order.indexOf(a.stage) - order.indexOf(b.stage) || b.opened_at.localeCompare(a.opened_at),
    );

  return (
    <>
      <Bar right={<span className="quiet-on-dark">{rows.data ? `${rows.data.length} jobs` : ""}</span>} />
      <main className="page">
        <div className="tools">
          {mayWrite && (
            <Button type="primary" size="large" onClick={() => void nav("/start")}>
              Start a job <kbd>N</kbd>
            </Button>
          )}
          <Input
            ref={search}
            className="search"
            allowClear
            placeholder="Search machine, complaint, part  ( / )"
            aria-label="Search jobs"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
          <Button onClick={() => setAll(!all)} aria-pressed={all}>
            {all ? "Open jobs only" : "Show closed too"}
          </Button>
          {mayWrite && (
            <>
              <Button onClick={() => file.current?.click()} loading={bring.isPending}>
                Import a case
              </Button>
              <input
                ref={file}
                type="file"
                accept=".json,application/json"
                hidden
                onChange={(e) => {
                  const f = e.target.files?.[0];
                  e.target.value = "";
                  if (f) bring.mutate(f);
                }}
              />
            </>
          )}
        </div>
        {bring.error && (
          <p className="wrong" role="alert">
            {bring.error.message}
          </p>
        )}
        {rows.error && (
          <p className="wrong" role="alert">
            {rows.error.message} <Button onClick={() => void rows.refetch()}>Try again</Button>
          </p>
        )}
        {rows.data && shown.length === 0 && (
          <p className="empty">
            {find ? `Nothing matches “${find}”.` : "No open jobs. Start one when the next machine comes in."}
          </p>
        )}
        <ul className="board">
          {shown.map((r) => (
            <li key={r.id}>
              <Link to={`/jobs/${r.id}/${stages[r.stage].to}`} className={`jobrow stage-${r.stage}`}>
                <span className="jobrow-stage">{stages[r.stage].label}</span>
                <span className="jobrow-machine">
                  <b>{r.machine}</b>
                  <small>{r.place}</small>
                </span>
                <span className="jobrow-complaint">{r.complaint || "no complaint noted"}</span>
                <span className="jobrow-outcome">
                  {r.follow_up ? (
                    <b className="warn">
                      {r.follow_what} Due {new Date(r.follow_up).toLocaleDateString()}
                    </b>
                  ) : (
                    outcome(r)
                  )}
                  {r.readings + r.looks > 0 && (
                    <small>
                      {r.readings === 1 ? "1 reading" : `${r.readings} readings`},{" "}
                      {r.looks === 1 ? "1 check" : `${r.looks} checks`}
                    </small>
                  )}
                </span>
                <span className="jobrow-age">{age(r.opened_at)}</span>
              </Link>
            </li>
          ))}
        </ul>
      </main>
    </>
  );
}
