import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useEffect, useState } from "react";
import { Link, Navigate, NavLink, Route, Routes, useLocation, useNavigate, useParams } from "react-router";
import { api, must, Refused, type Job, type PathView } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { Going } from "../app/Going";
import { placeTargets } from "../app/places";
import { warm } from "../offline/core";
import { untilDone } from "../offline/again";
import { keptJob } from "../offline/keep";
import { keep, reach, readPath, useLink } from "../offline/sync";
import { useNarrow } from "../shared/hooks";
import { JobContext, useJobQuery } from "./job";
import { stages } from "./stages";
import * as words from "./words";

const Schedule = lazy(async () => ({ default: (await import("../schedule/Schedule")).Schedule }));
const Complaint = lazy(() => import("../complaint/Complaint"));
const Checks = lazy(() => import("../checks/Checks"));
const Measure = lazy(() => import("../measure/Measure"));
const Trace = lazy(() => import("../trace/Trace"));
const Strip = lazy(() => import("../strip/Strip"));
const Back = lazy(() => import("../strip/Back"));
const Prove = lazy(() => import("../prove/Prove"));
const Report = lazy(() => import("../report/Report"));
const Decide = lazy(() => import("../decide/Decide"));

const stageWords = {
  done: words.jobFrameDone,
  next: words.hereItGoesOn,
  skipped: words.notNeededSoFar,
  open: "",
};

/** The frame of a job: the ribbon of stages above, one stage below. */
export default function JobFrame() {
  const { id = "" } = useParams();
  const [state, setState] = useState("");
  const q = useJobQuery(id, state);
  const c = useQuery({
    queryKey: ["circuit", id],
    queryFn: async () => {
      try {
        const r = await reach(must(api.GET("/api/jobs/{id}/circuit", { params: { path: { id } } })));
        return { ...r.circuit, generic: r.generic };
      } catch (e) {
        const kept = await keptJob(id);
        if (kept && e instanceof Refused && e.status === 0) return kept.circuit;
        throw e;
      }
    },
    staleTime: Infinity,
  });
  const [then, setThen] = useState<number>();
  const shown = q.data?.picture?.state ?? "";
  const path = useQuery({
    queryKey: ["path", id, q.data?.revision],
    queryFn: () => readPath(id),
    enabled: q.data !== undefined && !q.data.thinking,
    placeholderData: (prev: PathView | undefined) => prev,
  });
  const past = useQuery({
    queryKey: ["past", id, shown, q.data?.revision, then],
    queryFn: () =>
      must(api.GET("/api/jobs/{id}", { params: { path: { id }, query: { state: shown, upto: then } } })),
    enabled: then !== undefined,
    placeholderData: (prev: Job | undefined) => prev,
  });
  const nav = useNavigate();
  const here = useLocation().pathname.split("/")[3] ?? "";
  const narrow = useNarrow();
  const [plan, setPlan] = useState(false);
  const app = useApp();
  const { mayWrite } = app;
  const [open, setOpen] = useState(false);
  // The job and the core are kept here as they change, for when the connection goes.
  const link = useLink();
  const view = q.data;
  const circuit = c.data;
  const fresh = view && circuit && !link.lost && !link.waiting.some((w) => w.job === id && !w.refused);
  useEffect(() => {
    if (!fresh) return;
    return untilDone(async () => {
      const kit = await keep(view, circuit);
      if (!kit) return false;
      await warm(kit, view.picture?.state ?? "");
      return true;
    });
    // A revision never changes, so it alone says whether there is something new.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [fresh, view?.id, view?.revision]);
  const error = q.error ?? c.error;
  if (error && !q.data)
    return (
      <>
        <Bar />
        <main className="page narrow">
          <p className="wrong" role="alert">
            {error.message}
          </p>
          <Button onClick={() => void nav("/")}>{words.backToTheBoard}</Button>
        </main>
      </>
    );
  const job = q.data;
  const at = stages.findIndex((s) => s.id === here);
  const links = stages.map((s) => {
    const stands = path.data?.steps.find((x) => x.stage === s.id)?.state ?? "open";
    return (
      <NavLink
        key={s.id}
        to={`/jobs/${id}/${s.id}`}
        className={({ isActive }) => `stage is-${stands} ${isActive ? "here" : ""}`}
        title={`${stageWords[stands]} G ${s.key.toUpperCase()}`}
        onClick={() => setOpen(false)}
      >
        <i aria-hidden>{{ done: "✓", next: "▸", skipped: "–", open: "" }[stands]}</i>
        {s.label}
        {stands !== "open" && <span className="unseen"> {stageWords[stands]}</span>}
      </NavLink>
    );
  });
  // At Measure the card says it. Everywhere else it has its line, also before it is known: what comes in later must
  // not push a button away under the finger.
  const says = here !== "measure" || (path.data && !["measure", "decide"].includes(path.data.next));
  return (
    <>
      <Bar
        right={
          job && (
            <>
              <h1 className="bar-job" title={job.complaint}>
                <Link to={`/machines/${job.machine.id}`}>{job.machine.name}</Link>
                {job.complaint && <i> · {job.complaint}</i>}
              </h1>
              {mayWrite && (
                <button
                  type="button"
                  className="bar-plan"
                  aria-label={words.waitsAndBench}
                  title={words.whatItWaitsFor}
                  onClick={() => setPlan(true)}
                >
                  ⋯
                </button>
              )}
            </>
          )
        }
      >
        {narrow ? (
          <button type="button" className="ribbon-button" aria-expanded={open} onClick={() => setOpen(!open)}>
            {stages[at]?.label ?? words.stage} {at + 1}/9 ▾
          </button>
        ) : (
          <nav className="ribbon" aria-label={words.stagesOfTheJob}>
            {links}
          </nav>
        )}
      </Bar>
      {says && job && <NextStage path={path.data} id={id} here={here} />}
      {narrow && open && (
        <nav className="ribbon-list" aria-label={words.stagesOfTheJob}>
          {links}
        </nav>
      )}
      <Going
        targets={[
          ...stages.map((x) => ({ key: x.key, label: x.label, to: `/jobs/${id}/${x.id}` })),
          ...placeTargets(app),
        ]}
      />
      {plan && job && (
        <Suspense>
          <Schedule job={job.id} machine={job.machine.name} onClose={() => setPlan(false)} />
        </Suspense>
      )}
      {job && c.data ? (
        <JobContext
          value={{
            job: past.data && then !== undefined ? past.data : job,
            circuit: c.data,
            state: job.picture?.state ?? "",
            setState,
            then,
            setThen,
            all: job.evidence.length,
          }}
        >
          <Suspense fallback={<p className="quiet centred">{words.oneMoment}</p>}>
            <Routes>
              <Route path="complaint" element={<Complaint />} />
              <Route path="checks" element={<Checks />} />
              <Route path="measure" element={<Measure />} />
              <Route path="trace" element={<Trace />} />
              <Route path="strip" element={<Strip />} />
              <Route path="back" element={<Back />} />
              <Route path="prove" element={<Prove />} />
              <Route path="report" element={<Report />} />
              <Route path="decide" element={<Decide />} />
              <Route path="*" element={<Navigate to="measure" replace />} />
            </Routes>
          </Suspense>
        </JobContext>
      ) : (
        <p className="quiet centred">{words.readingTheJob}</p>
      )}
    </>
  );
}

/** Where the job goes on, and with what. */
function NextStage({ path, id, here }: { path?: PathView; id: string; here: string }) {
  const next = (
    <>
      {/* A closed job goes on nowhere. */}
      {(!path || path.steps.some((s) => s.state === "next")) && <span>{words.next}</span>}{" "}
      <b>{path?.says ?? "…"}</b>
    </>
  );
  return (
    <nav aria-label={words.whereItGoesOn}>
      {path && path.next !== here ? (
        <Link className="next-stage" to={`/jobs/${id}/${path.next}`}>
          {next} <span>{stages.find((s) => s.id === path.next)?.label} ▸</span>
        </Link>
      ) : (
        <p className="next-stage">{next}</p>
      )}
    </nav>
  );
}
