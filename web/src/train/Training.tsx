import { useQuery } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { Tabs } from "../shared/Tabs";
import { useApp } from "../app/context";
import { readKept } from "../offline/sync";
import { age } from "../shared/format";
import { begin } from "./attempt";
import { Drill } from "./Drill";
import * as words from "./words";

/** The trainer: courses, a random machine, a quick drill, and how far one has come. */
export default function Training() {
  const { me } = useApp();
  const nav = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [wrong, setWrong] = useState("");
  const [seed, setSeed] = useState<number>();
  const [circuit, setCircuit] = useState("starter");
  const [kind, setKind] = useState("1");
  const drill = search.get("view") === "drill";
  const q = useQuery({
    queryKey: ["training"],
    queryFn: () => readKept("training", () => must(api.GET("/api/training"))),
  });
  const circuits = useQuery({
    queryKey: ["circuits"],
    queryFn: () => readKept("circuits", () => must(api.GET("/api/circuits"))),
    staleTime: 60_000,
  });
  const start = async (body: {
    exercise?: string;
    circuit?: string;
    seed?: number;
    count?: number;
    sometimes?: boolean;
  }) => {
    setWrong("");
    try {
      void nav(`/training/${await begin(body)}`);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const v = q.data;
  const done = (v?.attempts ?? []).filter((a) => a.mine && a.over_at).length;
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.trainer}</h1>
      </Bar>
      <main className="page training">
        {(wrong || q.error) && (
          <p className="wrong" role="alert">
            {wrong || q.error?.message}
          </p>
        )}
        <Tabs
          label={words.trainer}
          at={drill ? "drill" : "find"}
          onGo={(id) => setSearch(id === "drill" ? { view: "drill" } : {})}
          tabs={[
            [
              "find",
              words.findTheFault,
              <div key="find" className="training-find">
                <p className="lead">
                  {words.aMachineWithA} {done > 0 && words.workedSoFar(done)}
                </p>
                <div className="courses">
                  {(v?.courses ?? []).map((c) => (
                    <section key={c.id} className="card">
                      <h2>{c.title}</h2>
                      <p className="quiet">{c.about}</p>
                      <ul>
                        {c.exercises.map((x) => (
                          <li key={x.id}>
                            <button
                              type="button"
                              className="exercise"
                              onClick={() => void start({ exercise: x.id })}
                            >
                              <b>{x.title}</b>
                              <small>{x.complaint}</small>
                              {x.best != null && <span className="best-score">{x.best}</span>}
                            </button>
                          </li>
                        ))}
                      </ul>
                    </section>
                  ))}
                </div>
                <section className="card">
                  <h2>{words.anyMachine}</h2>
                  <div className="tools">
                    <Select
                      aria-label={words.circuit}
                      value={circuit}
                      onChange={setCircuit}
                      popupMatchSelectWidth={false}
                      options={(circuits.data ?? [])
                        .filter((c) => !c.mains && c.id !== "stator")
                        .map((c) => ({ value: c.id, label: c.title }))}
                    />
                    <Select
                      aria-label={words.faults}
                      value={kind}
                      onChange={setKind}
                      popupMatchSelectWidth={false}
                      options={[
                        { value: "1", label: words.oneFault },
                        { value: "2", label: words.twoFaults },
                        { value: "sometimes", label: words.aFaultThatComes },
                      ]}
                    />
                    <InputNumber
                      aria-label={words.numberOfTheMachine}
                      placeholder={words.numberToShare}
                      min={1}
                      max={999999}
                      value={seed}
                      onChange={(x) => setSeed(typeof x === "number" ? x : undefined)}
                    />
                    <Button
                      type="primary"
                      onClick={() =>
                        void start({
                          circuit,
                          seed: seed ?? Math.floor(Math.random() * 999999) + 1,
                          count: kind === "2" ? 2 : 1,
                          sometimes: kind === "sometimes",
                        })
                      }
                    >
                      {words.start}
                    </Button>
                  </div>
                  <p className="quiet">{words.theSameCircuitAnd}</p>
                </section>
                {(v?.attempts ?? []).length > 0 && (
                  <section className="card">
                    <h2>{me.role === "owner" ? words.whatEverybodyWorked : words.whatYouWorked}</h2>
                    <ul className="log attempts">
                      {v!.attempts.map((a) => (
                        <li key={a.id}>
                          <span className="log-day">{age(a.at)}</span>
                          <span>
                            {a.mine ? <Link to={`/training/${a.id}`}>{a.title}</Link> : a.title}
                            <small>{a.who}</small>
                          </span>
                          <span>{a.says || (a.over_at ? "" : words.notFinished)}</span>
                          <b>{a.score ?? ""}</b>
                        </li>
                      ))}
                    </ul>
                  </section>
                )}
              </div>,
            ],
            ["drill", words.drill, <Drill key="drill" score={v?.drill as [number, number] | undefined} />],
          ]}
        />
      </main>
    </>
  );
}
