import { day } from "../shared/format";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import { ByKind } from "./ByKind";
import * as words from "./words";

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
          aria-label={words.circuit}
          value={circuit}
          onChange={setCircuit}
          popupMatchSelectWidth={false}
          options={(circuits.data ?? []).map((c) => ({ value: c.id, label: c.title }))}
        />
        <Select
          aria-label={words.kindOfMachine}
          value={kind}
          onChange={(k) => {
            setKind(k);
            if (!k) setAge(-1);
          }}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: words.allMachines },
            ...(q.data?.kinds ?? []).map((k) => ({ value: k, label: k })),
          ]}
        />
        {kind && (
          <Select
            aria-label={words.ageOfTheMachine}
            value={age}
            onChange={setAge}
            popupMatchSelectWidth={false}
            options={[
              { value: -1, label: words.ofAnyAge },
              { value: 2, label: words.under5YearsOld },
              { value: 8, label: words.years5To11 },
              { value: 20, label: words.years12AndMore },
            ]}
          />
        )}
        {me.role === "owner" &&
          (q.data?.since ? (
            <Button loading={forget.isPending} onClick={() => forget.mutate(false)}>
              {words.learnFromAllJobs}
            </Button>
          ) : (
            <Button loading={forget.isPending} onClick={() => forget.mutate(true)}>
              {words.learnAnewFromToday}
            </Button>
          ))}
      </div>
      <h1>{of === 0 ? words.noConfirmedJobOn : words.confirmedJobsOnThis(of)}</h1>
      <ByKind kinds={q.data?.by_kind ?? []} />
      <p className="rate-key" aria-hidden="true">
        <i className="ships" /> {words.asItShips} <i className="here" /> {words.asItIsTaken}
      </p>
      {q.data?.since && <p className="quiet">{words.jobsBeforeDoNot(day(q.data.since))}</p>}
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
                {words.takenAsOfThe(
                  r.n > 0 ? words.hereOf(r.n, r.of) : words.notYetHere,
                  Math.round(100 * r.here),
                  Math.round(100 * r.shipped),
                )}
              </small>
            </span>
            <span
              className="rate-bar"
              role="img"
              aria-label={words.perCentBetweenAnd(
                Math.round(100 * r.here),
                Math.round(100 * r.low),
                Math.round(100 * r.high),
              )}
            >
              <i className="ships" style={{ width: `${(100 * r.shipped) / most}%` }} />
              <i className="here" style={{ width: `${(100 * r.here) / most}%` }} />
            </span>
          </li>
        ))}
      </ul>
      {(q.data?.ways ?? []).length > 0 && (
        <>
          <h2>{words.gettingThere}</h2>
          <ul className="rates">
            {q.data!.ways.map((w) => (
              <li key={w.access}>
                <span>
                  <b>{w.label || w.access}</b>
                  <small>{words.takenAsMinInstead(w.here, w.shipped, w.n)}</small>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="quiet">{words.ownJobsShiftThe}</p>
    </section>
  );
}
