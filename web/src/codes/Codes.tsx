import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useRef, useState } from "react";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { CodeEditor } from "./CodeEditor";
import * as words from "./words";
import Input from "antd/es/input/Input";

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
        <h1 className="bar-title">{words.blinkCodes}</h1>
      </Bar>
      <main className="page">
        <p className="lead">{words.theSameControllerFlashes}</p>
        {tables.data?.length === 0 && <p className="empty">{words.noTablesYetMake}</p>}
        {[...by].map(([name, ts]) => (
          <section key={name} className="card">
            <h2>{name}</h2>
            <div className="tables">
              {ts.map((t) => (
                <div key={t.machine}>
                  <h3>
                    {t.machine ? words.inA(t.machine) : words.theControllerSOwn}{" "}
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
                                    .map((o) =>
                                      o.machine
                                        ? words.inAWithMachine(o.machine)
                                        : words.codesTheControllerSOwn,
                                    )
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
                    {words.saveAsCsv}
                  </a>
                </div>
              ))}
            </div>
          </section>
        ))}
        {mayWrite && (
          <section className="card">
            <h2>{words.makeOrImportA}</h2>
            <p className="quiet">{words.pickThePartsFrom}</p>
            <div className="tools">
              <Input
                aria-label={words.controller}
                placeholder={words.controllerAsItIs}
                value={controller}
                onChange={(e) => setController(e.target.value)}
              />
              <Input
                aria-label={words.machineType}
                placeholder={words.machineTypeEmptyFor}
                value={machine}
                onChange={(e) => setMachine(e.target.value)}
              />
              <Select
                aria-label={words.circuit}
                value={circuit}
                onChange={setCircuit}
                options={withCodes.map((c) => ({ value: c.id, label: c.title }))}
              />
              <Button
                type="primary"
                disabled={controller.trim() === "" || making}
                onClick={() => setMaking(true)}
              >
                {words.pickItsCodes}
              </Button>
              <Button
                disabled={controller.trim() === ""}
                loading={bring.isPending}
                onClick={() => file.current?.click()}
              >
                {words.chooseACsvFile}
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
