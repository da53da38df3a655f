// A part of the interface on a page of its own: signed in, in a job, with the server's double behind it.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { useState } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";
import type { Job, Me } from "../src/api/client";
import { AppContext } from "../src/app/context";
import { JobContext, useJobQuery, type JobCircuit } from "../src/job/job";
import circuitFile from "./fixtures/circuit.json";
import jobFile from "./fixtures/job.json";
import { server } from "./server";

/** A job of the demo's orchard as the server answers for it: a starter, three readings and two looks in. */
export const job = (): Job => structuredClone(jobFile) as unknown as Job;
export const circuit = (): JobCircuit => {
  const c = structuredClone(circuitFile) as unknown as { circuit: JobCircuit; generic: never };
  return { ...c.circuit, generic: c.generic };
};

/** Somebody signed in, in a workshop that has said nothing about itself yet. */
const me = (role: Me["role"]): Me => ({
  id: "0198a000-0000-7000-8000-000000000001",
  login: "jory",
  name: "Jory",
  role,
  rights: role === "counter" ? ["see"] : role === "owner" ? ["see", "work", "manage"] : ["see", "work"],
  has_pin: false,
  second_factor: false,
  preferences: {},
  workshop: { name: "Orchard", hour_rate: 58, loss_per_day: 25, comeback: 60, revision: 0 },
});

interface Page {
  job?: Job;
  circuit?: JobCircuit;
  mayWrite?: boolean;
  at?: string;
}

/** Where the page has gone. */
export let here = "";
function Where() {
  const l = useLocation();
  here = l.pathname + l.search;
  return null;
}

export function show(what: ReactNode, { mayWrite = true, at = "/" }: Page = {}) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <AppContext
        value={{
          me: me(mayWrite ? "technician" : "counter"),
          mode: "light",
          setMode: () => {},
          like: () => {},
          signOut: () => {},
          mayWrite,
          mayManage: false,
        }}
      >
        <MemoryRouter initialEntries={[at]}>
          <Where />
          <Routes>
            <Route path="*" element={what} />
          </Routes>
        </MemoryRouter>
      </AppContext>
    </QueryClientProvider>,
  );
}

/** A part inside a job; the server answers with the job, and with what it is told to answer to writes. */
export function showInJob(what: ReactNode, p: Page = {}) {
  const j = p.job ?? job();
  server.on(`GET /api/jobs/${j.id}`, () => j);
  return show(
    <InJob id={j.id} circuit={p.circuit ?? circuit()}>
      {what}
    </InJob>,
    { at: `/jobs/${j.id}/measure`, ...p },
  );
}

function InJob({ id, circuit, children }: { id: string; circuit: JobCircuit; children: ReactNode }) {
  const [state, setState] = useState("");
  const [then, setThen] = useState<number>();
  const q = useJobQuery(id, state);
  if (!q.data) return <p>One moment</p>;
  return (
    <JobContext
      value={{
        job: q.data,
        circuit,
        state: q.data.picture?.state ?? "",
        setState,
        then,
        setThen,
        all: q.data.evidence.length,
      }}
    >
      {children}
    </JobContext>
  );
}
