import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import type { InputRef } from "antd";
import Input from "antd/es/input/Input";
import { lazy, Suspense, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, must, Refused, type Row } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { useBound } from "../app/keys";
import { keepBoard, keptBoard } from "../offline/keep";
import { reach, useLost } from "../offline/sync";
import { age, day, lower, share } from "../shared/format";
import { newId } from "../shared/id";
import { waitWords } from "./waits";
import * as words from "./words";

const First = lazy(async () => ({ default: (await import("../first/First")).First }));
const Schedule = lazy(async () => ({ default: (await import("../schedule/Schedule")).Schedule }));

const stages: Record<Row["stage"], { label: string; to: string }> = {
  complaint: { label: words.complaint, to: "complaint" },
  checks: { label: words.quickChecks, to: "measure" },
  measure: { label: words.measuring, to: "measure" },
  decide: { label: words.toDecide, to: "decide" },
  decided: { label: words.decided, to: "decide" },
  closed: { label: words.closed, to: "measure" },
};

const groups: Record<Row["group"], string> = {
  overdue: words.overdue,
  now: words.toDoNow,
  waiting: words.waiting,
  closed: words.closed,
};

function outcome(r: Row): string {
  if (r.was && r.closed_at) return r.was; // as it was signed; the verdict before it is past
  if (r.readings + r.looks === 0) return words.nothingTakenYet;
  if (r.status === "isolated") return `${r.station}, ${share(r.probability)}`;
  if (r.status === "nothing_wrong") return words.nothingWrong;
  if (r.status === "contradiction") return words.readingsClash;
  return r.station ? words.perhaps(lower(r.station), share(r.probability)) : words.notDecidedYet;
}

export default function Board() {
  const { mayWrite } = useApp();
  const lost = useLost();
  const [all, setAll] = useState(false);
  const [find, setFind] = useState("");
  const [plan, setPlan] = useState<Row>();
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
  useBound({ search: () => search.current?.focus(), start: () => mayWrite && !lost && void nav("/start") });
  const sought = find.toLowerCase().split(/\s+/).filter(Boolean);
  // In the board's own order: what is overdue on top, then what can be gone on with.
  const shown = (rows.data ?? []).filter((r) => {
    const waits = r.waits.map(waitWords).join(" ");
    const text =
      `${r.machine} ${r.kind} ${r.place} ${r.complaint} ${r.says} ${r.station} ${r.bench} ${r.person} ${waits}`.toLowerCase();
    return sought.every((w) => text.includes(w));
  });
  const several = new Set(shown.map((r) => r.group)).size > 1;

  return (
    <>
      <Bar
        right={
          <span className="quiet-on-dark">
            {rows.data ? `${rows.data.length} ${words.jobs(rows.data.length)}` : ""}
          </span>
        }
      >
        <h1 className="bar-title">{words.board}</h1>
      </Bar>
      <main className="page">
        <div className="tools">
          {mayWrite && (
            <Button
              type="primary"
              size="large"
              disabled={lost}
              title={lost ? words.aJobCanBe : undefined}
              onClick={() => void nav("/start")}
            >
              {words.startAJob} <kbd>N</kbd>
            </Button>
          )}
          <Input
            ref={search}
            className="search"
            allowClear
            placeholder={words.searchMachineComplaintPart}
            aria-label={words.searchJobs}
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
          <Button onClick={() => setAll(!all)} aria-pressed={all}>
            {all ? words.openJobsOnly : words.showClosedToo}
          </Button>
          {!lost && (
            <a className="link-button" href="/api/calendar.ics" download="corriente.ics">
              {words.calendar}
            </a>
          )}
          {mayWrite && (
            <>
              <Button disabled={lost} onClick={() => file.current?.click()} loading={bring.isPending}>
                {words.importACase}
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
            {rows.error.message} <Button onClick={() => void rows.refetch()}>{words.tryAgain}</Button>
          </p>
        )}
        <Suspense>
          <First />
        </Suspense>
        {rows.data && shown.length === 0 && (
          <p className="empty">{find ? words.nothingMatches(find) : words.noOpenJobsStart}</p>
        )}
        {(Object.keys(groups) as Row["group"][]).map((g) => {
          const of = shown.filter((r) => r.group === g);
          if (of.length === 0) return null;
          return (
            <section key={g} aria-label={groups[g]}>
              {several && (
                <h2 className={`board-group ${g}`}>
                  {groups[g]} <small>{of.length}</small>
                </h2>
              )}
              <ul className="board">
                {of.map((r) => (
                  <JobRow key={r.id} r={r} onPlan={mayWrite ? () => setPlan(r) : undefined} />
                ))}
              </ul>
            </section>
          );
        })}
        {plan && (
          <Suspense>
            <Schedule job={plan.id} machine={plan.machine} onClose={() => setPlan(undefined)} />
          </Suspense>
        )}
      </main>
    </>
  );
}

function JobRow({ r, onPlan }: { r: Row; onPlan?: () => void }) {
  const place = [r.bench, r.person].filter(Boolean).join(" · ");
  return (
    <li>
      <Link to={`/jobs/${r.id}/${stages[r.stage].to}`} className={`jobrow stage-${r.stage}`}>
        <span className="jobrow-stage">{stages[r.stage].label}</span>
        <span className="jobrow-machine">
          <b>{r.machine}</b>
          <small>{place || r.place}</small>
        </span>
        <span className="jobrow-complaint">{r.complaint || words.noComplaintNoted}</span>
        <span className="jobrow-outcome">
          {r.waits.map((w) => (
            <b key={w.id} className={r.group === "overdue" ? "warn" : ""}>
              {r.group === "overdue" ? words.boardOverdue : words.waitsFor}
              {waitWords(w)}
            </b>
          ))}
          {r.follow_up && (
            <b className={r.group === "overdue" ? "warn" : ""}>
              {r.follow_what} {r.group === "overdue" ? words.wasDue : words.due} {day(r.follow_up)}
            </b>
          )}
          {r.waits.length === 0 && !r.follow_up && outcome(r)}
          {r.readings + r.looks > 0 && (
            <small>
              {words.readings(r.readings)}, {words.checks(r.looks)}
            </small>
          )}
        </span>
        <span className="jobrow-age">{age(r.opened_at)}</span>
      </Link>
      {onPlan && (
        <Button
          type="text"
          className="jobrow-plan"
          aria-label={words.waitsAndBench(r.machine)}
          onClick={onPlan}
        >
          ⋯
        </Button>
      )}
    </li>
  );
}
