import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, Refused, type Round } from "../api/client";
import { useBound } from "../app/keys";
import { train } from "../offline/core";
import { post, reach } from "../offline/sync";
import * as words from "./words";

/** Fast rounds of one question each: which reading now, good or bad, which part. */
export function Drill({ score }: { score?: [number, number] }) {
  const [seed, setSeed] = useState(() => Math.floor(Math.random() * 1e9));
  const [given, setGiven] = useState<number>();
  const [tally, setTally] = useState<[number, number]>();
  const q = useQuery({
    queryKey: ["drill", seed],
    queryFn: async () => {
      try {
        return await reach(must(api.GET("/api/training/drill", { params: { query: { seed } } })));
      } catch (e) {
        if (!(e instanceof Refused) || e.status !== 0) throw e;
        return (await train<{ drill: Round }>({ drill: { circuit: "", seed } })).drill;
      }
    },
    staleTime: Infinity,
  });
  const d = q.data;
  const [right, of] = tally ?? score ?? [0, 0];
  const answer = (i: number) => {
    if (!d || given !== undefined || i >= d.options.length) return;
    setGiven(i);
    const hit = i === d.answer;
    void post("", { drilled: { kind: d.kind, circuit: d.circuit, right: hit } }, () =>
      Promise.resolve([right + (hit ? 1 : 0), of + 1]),
    ).then(
      (t) => setTally(t as [number, number]),
      () => {},
    );
  };
  const next = () => {
    setGiven(undefined);
    setSeed((s) => s + 1);
  };
  useBound({
    drillNext: () => (given === undefined ? false : next()),
    drillAnswer: (k) => answer(Number(k) - 1),
  });
  if (q.error)
    return (
      <p className="wrong" role="alert">
        {q.error.message}
      </p>
    );
  if (!d) return <p className="quiet">{words.makingUpAMachine}</p>;
  return (
    <section className="card drill">
      <p className="quiet">
        {d.circuit}
        {of > 0 && words.ofRightSoFar(right, of)}
      </p>
      {d.told.length > 0 && (
        <ul>
          {d.told.map((t, i) => (
            <li key={i}>{t}</li>
          ))}
        </ul>
      )}
      <h1>{d.ask}</h1>
      <div className="drill-options">
        {d.options.map((o, i) => (
          <button
            key={i}
            type="button"
            className={`drill-option ${given === undefined ? "" : i === d.answer ? "is-right" : i === given ? "is-wrong" : ""}`}
            disabled={given !== undefined}
            onClick={() => answer(i)}
          >
            <kbd>{i + 1}</kbd> {given !== undefined && (i === d.answer ? "✓ " : i === given ? "✕ " : "")}
            {o}
          </button>
        ))}
      </div>
      {given !== undefined && (
        <p role="status">
          <b>{given === d.answer ? words.right : words.notThisTime}</b> {d.why}{" "}
          <Button type="primary" onClick={next} autoFocus>
            {words.next} <kbd>Enter</kbd>
          </Button>
        </p>
      )}
    </section>
  );
}
