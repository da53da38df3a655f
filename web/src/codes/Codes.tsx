import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { CodeEditor } from "./CodeEditor";

/** Tables of blink codes: a controller's own, and those of machines that give its codes other meanings. */
export default function Codes() {
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const tables = useQuery({ queryKey: ["codes"], queryFn: () => must(api.GET("/api/codes")) });
  const circuits = useQuery({ queryKey: ["circuits"], queryFn: () => must(api.GET("/api/circuits")) });
  const [controller, setController] = useState("");
  const [machine, setMachine] = useState("");
  const [circuit, setCircuit] = useState("traction");
  const [making, setMaking] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const bring = useMutation({
    mutationFn: async (f: File) =>
      must(
        api.PUT("/api/codes", {
          params: { query: { controller, machine, circuit } },
          body: await f.text(),
          bodySerializer: (b) => b,
          headers: { "Content-Type": "text/csv" },
        }),
      ),
    onSuccess: (t) => client.setQueryData(["codes"], t),
  });
  const withCodes = (circuits.data ?? []).filter((c) => c.observations.some((o) => o.model === "blink_code"));
  const picked = withCodes.find((c) => c.id === circuit);
  const by = new Map<string, NonNullable<typeof tables.data>>();
  for (const t of tables.data ?? []) by.set(t.controller, [...(by.get(t.controller) ?? []), t]);
  const title = (id: string) => circuits.data?.find((c) => c.id === id)?.title ?? id;
  return (
    <>
      <Bar>
        <h1 className="bar-title">Blink codes</h1>
      </Bar>
      <main className="page">
        <p className="lead">
          The same controller flashes different meanings in different machines. A machine’s own table comes
          before the controller’s; a code read from the wrong one counts for half.
        </p>
        {tables.data?.length === 0 && <p className="empty">No tables yet. Make one below.</p>}
        {[...by].map(([name, ts]) => (
          <section key={name} className="card">
            <h2>{name}</h2>
            <div className="tables">
              {ts.map((t) => (
                <div key={t.machine}>
                  <h3>
                    {t.machine ? `In a ${t.machine}` : "The controller’s own"}{" "}
                    <small>{title(t.circuit)}</small>
                  </h3>
                  <table className="codes">
                    <tbody>
                      {t.entries.map((e) => {
                        const others = ts.filter(
                          (o) => o !== t && o.entries.some((x) => x.code === e.code && x.says !== e.says),
                        );
                        return (
                          <tr key={e.code} className={others.length ? "differs" : ""}>
                            <th scope="row">{e.code}</th>
                            <td>
                              {e.says}
                              {others.length > 0 && (
                                <small>
                                  ≠{" "}
                                  {others
                                    .map((o) => (o.machine ? `in a ${o.machine}` : "the controller’s own"))
                                    .join(", ")}
                                </small>
                              )}
                            </td>
                          </tr>
                        );
                      })}
                    </tbody>
                  </table>
                  <a
                    href={`/api/codes/csv?controller=${encodeURIComponent(t.controller)}&machine=${encodeURIComponent(t.machine)}&circuit=${t.circuit}`}
                    download="codes.csv"
                  >
                    Save as CSV
                  </a>
                </div>
              ))}
            </div>
          </section>
        ))}
        {mayWrite && (
          <section className="card">
            <h2>Make or import a table</h2>
            <p className="quiet">
              Pick the parts from lists, or bring a CSV with the head “code, meaning, faults” and the faults
              in plain words: 3, Motor circuit open, drive motor: worn brushes | motor connector: open
            </p>
            <div className="tools">
              <Input
                aria-label="Controller"
                placeholder="Controller, as it is called here"
                value={controller}
                onChange={(e) => setController(e.target.value)}
              />
              <Input
                aria-label="Machine type"
                placeholder="Machine type, empty for its own"
                value={machine}
                onChange={(e) => setMachine(e.target.value)}
              />
              <Select
                aria-label="Circuit"
                value={circuit}
                onChange={setCircuit}
                options={withCodes.map((c) => ({ value: c.id, label: c.title }))}
              />
              <Button
                type="primary"
                disabled={controller.trim() === "" || making}
                onClick={() => setMaking(true)}
              >
                Pick its codes
              </Button>
              <Button
                disabled={controller.trim() === ""}
                loading={bring.isPending}
                onClick={() => file.current?.click()}
              >
                Choose a CSV file
              </Button>
              <input
                ref={file}
                type="file"
                accept=".csv,text/csv"
                hidden
                onChange={(e) => {
                  const f = e.target.files?.[0];
                  e.target.value = "";
                  if (f) bring.mutate(f);
                }}
              />
            </div>
            {making && picked && (
              <CodeEditor
                key={circuit}
                circuit={picked}
                controller={controller}
                machine={machine}
                onDone={() => setMaking(false)}
              />
            )}
            {(bring.error ?? tables.error) && (
              <p className="wrong" role="alert">
                {(bring.error ?? tables.error)?.message}
              </p>
            )}
          </section>
        )}
      </main>
    </>
  );
}
