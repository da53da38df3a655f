import { day } from "../shared/format";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";

/** What the workshop's own jobs say of a circuit's faults, against what ships. */
export function Learned() {
  const { me } = useApp();
  const client = useQueryClient();
  const circuits = useQuery({
    queryKey: ["circuits"],
    queryFn: () => must(api.GET("/api/circuits")),
    staleTime: 60_000,
  });
  const [circuit, setCircuit] = useState("starter");
  const [kind, setKind] = useState("");
  const [age, setAge] = useState(-1);
  const q = useQuery({
    queryKey: ["learned", circuit, kind, age],
    queryFn: () =>
      must(api.GET("/api/learned/{circuit}", { params: { path: { circuit }, query: { kind, age } } })),
    placeholderData: keepPreviousData,
  });
  const forget = useMutation({
    mutationFn: (forget: boolean) => must(api.POST("/api/learned/forget", { body: { forget } })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["learned"] }),
  });
  const rates = q.data?.rates ?? [];
  const of = rates[0]?.of ?? 0;
  const shown = rates.filter((r) => r.n > 0);
  const most = Math.max(...rates.map((r) => Math.max(r.here, r.shipped)), 0.01);
  return (
    <section className="card learned">
      <div className="tools">
        <Select
          aria-label="Circuit"
          value={circuit}
          onChange={setCircuit}
          popupMatchSelectWidth={false}
          options={(circuits.data ?? []).map((c) => ({ value: c.id, label: c.title }))}
        />
        <Select
          aria-label="Kind of machine"
          value={kind}
          onChange={(k) => {
            setKind(k);
            if (!k) setAge(-1);
          }}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: "all machines" },
            ...(q.data?.kinds ?? []).map((k) => ({ value: k, label: k })),
          ]}
        />
        {kind && (
          <Select
            aria-label="Age of the machine"
            value={age}
            onChange={setAge}
            popupMatchSelectWidth={false}
            options={[
              { value: -1, label: "of any age" },
              { value: 2, label: "under 5 years old" },
              { value: 8, label: "5 to 11 years old" },
              { value: 20, label: "12 years old or more" },
            ]}
          />
        )}
        {me.role === "owner" &&
          (q.data?.since ? (
            <Button loading={forget.isPending} onClick={() => forget.mutate(false)}>
              Learn from all jobs again
            </Button>
          ) : (
            <Button loading={forget.isPending} onClick={() => forget.mutate(true)}>
              Learn anew from today
            </Button>
          ))}
      </div>
      <h1>
        {of === 0
          ? "No confirmed job on this circuit yet: the rates are those that ship."
          : `${of} confirmed ${of === 1 ? "job" : "jobs"} on this circuit here.`}
      </h1>
      <p className="rate-key" aria-hidden="true">
        <i className="ships" /> as it ships <i className="here" /> as it is taken here
      </p>
      {q.data?.since && <p className="quiet">Jobs before {day(q.data.since)} do not count.</p>}
      {(q.error ?? forget.error) && (
        <p className="wrong" role="alert">
          {(q.error ?? forget.error)?.message}
        </p>
      )}
      <ul className="rates">
        {(shown.length > 0 ? shown : rates.slice(0, 8)).map((r) => (
          <li key={r.fault}>
            <span>
              <b>{r.label}</b>
              <small>
                {r.n > 0 ? `here ${r.n} of ${r.of}` : "not yet here"}: taken as {Math.round(100 * r.here)} %
                of the faults, {Math.round(100 * r.shipped)} % as it ships
              </small>
            </span>
            <span
              className="rate-bar"
              role="img"
              aria-label={`${Math.round(100 * r.here)} per cent, between ${Math.round(100 * r.low)} and ${Math.round(100 * r.high)}`}
            >
              <i className="ships" style={{ width: `${(100 * r.shipped) / most}%` }} />
              <i className="here" style={{ width: `${(100 * r.here) / most}%` }} />
            </span>
          </li>
        ))}
      </ul>
      {(q.data?.ways ?? []).length > 0 && (
        <>
          <h2>Getting there</h2>
          <ul className="rates">
            {q.data!.ways.map((w) => (
              <li key={w.access}>
                <span>
                  <b>{w.label || w.access}</b>
                  <small>
                    taken as {w.here} min instead of {w.shipped}, from {w.n} {w.n === 1 ? "job" : "jobs"} here
                  </small>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="quiet">
        Own jobs shift the shipped rates little by little: thirty of them weigh as much as what ships. A new
        job on this circuit starts from these shares; its Complaint page lists what was shifted.
      </p>
    </section>
  );
}
