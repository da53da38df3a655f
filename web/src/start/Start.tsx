import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { moment, share } from "../shared/format";
import { FreeText } from "../shared/FreeText";
import { useRested } from "../shared/hooks";
import { newId } from "../shared/id";
import { Needs } from "../offline/Needs";
import * as words from "./words";
import TextArea from "antd/es/input/TextArea";

/** Opening a job: the complaint in plain words finds the circuit; one touch on a circuit is enough. */
export default function Start() {
  const nav = useNavigate();
  const client = useQueryClient();
  const [ids] = useState(() => ({ job: newId(), machine: newId() }));
  // Started from a machine's page, it is that machine.
  const from = useLocation().state as { machine?: string } | null;
  const [machine, setMachine] = useState(from?.machine ?? "");
  const [kind, setKind] = useState("");
  const [built, setBuilt] = useState<number>();
  const [complaint, setComplaint] = useState("");
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [all, setAll] = useState(false);
  const machines = useQuery({ queryKey: ["machines"], queryFn: () => must(api.GET("/api/machines")) });
  const circuits = useQuery({ queryKey: ["circuits"], queryFn: () => must(api.GET("/api/circuits")) });
  const text = useRested(complaint.trim(), 250);
  const advice = useQuery({
    queryKey: ["intake", text, answers],
    queryFn: () => must(api.POST("/api/intake", { body: { text, answers } })),
    placeholderData: (p) => p,
    staleTime: Infinity,
  });
  const known = machines.data?.find((m) => m.name === machine.trim());
  const open = useMutation({
    mutationFn: (circuit: string) => {
      const name = machine.trim() || words.machineHereSince(moment(new Date().toISOString()));
      const rest = { id: ids.job, circuit, complaint, answers };
      return must(
        api.POST("/api/jobs", {
          body: known
            ? { ...rest, machine_id: known.id }
            : { ...rest, machine_id: ids.machine, new_machine: name, kind, built },
        }),
      );
    },
    onSuccess: (j) => {
      client.setQueryData(["job", j.id, ""], j);
      void client.invalidateQueries({ queryKey: ["board"] });
      void client.invalidateQueries({ queryKey: ["machines"] });
      void nav(`/jobs/${j.id}/measure`, { replace: true });
    },
  });
  const said = text !== "" || Object.keys(answers).length > 0;
  const fits = (advice.data?.fits ?? []).filter((f, i) => i === 0 || f.share >= 0.12).slice(0, 3);
  const own = (circuits.data ?? []).filter((c) => !advice.data?.fits.some((f) => f.circuit === c.id));
  const rest = (circuits.data ?? []).filter((c) => !said || all || own.includes(c));
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.startAJob}</h1>
      </Bar>
      <main className="page columns start">
        <Needs what={words.aJobCanBe}>
          <section className="card">
            <label htmlFor="complaint">{words.whatDoesItDo}</label>
            <TextArea
              id="complaint"
              autoFocus
              autoSize={{ minRows: 2, maxRows: 6 }}
              maxLength={2000}
              placeholder={words.inTheCustomersWords}
              value={complaint}
              onChange={(e) => setComplaint(e.target.value)}
            />
            {(advice.data?.heard ?? []).length > 0 && (
              <p className="heard" role="status">
                {words.understood}{" "}
                {advice.data!.heard.map((h) => (
                  <span key={h.id} className="tag">
                    {h.says}
                  </span>
                ))}
              </p>
            )}
            {(advice.data?.ask ?? []).map((q) => (
              <fieldset key={q.id} className="ask">
                <legend>{q.text}</legend>
                {q.answers.map((a) => (
                  <Button key={a.id} onClick={() => setAnswers({ ...answers, [q.id]: a.id })}>
                    {a.label}
                  </Button>
                ))}
              </fieldset>
            ))}
            {Object.keys(answers).length > 0 && (
              <p>
                <button type="button" className="link" onClick={() => setAnswers({})}>
                  {words.askMeAgain}
                </button>
              </p>
            )}
            <label htmlFor="machine">{words.whichMachineMayFollow}</label>
            <FreeText
              id="machine"
              value={machine}
              onChange={setMachine}
              placeholder={words.typeItsNameOr}
              options={(machines.data ?? []).map((m) => ({ value: m.name, label: `${m.name} · ${m.place}` }))}
              showSearch={{
                filterOption: (t, o) => String(o?.value).toLowerCase().includes(t.toLowerCase()),
              }}
            />
            {machine.trim() !== "" && !known && (
              <>
                <label htmlFor="kind">{words.aNewMachineWhat}</label>
                <FreeText
                  id="kind"
                  value={kind}
                  onChange={setKind}
                  placeholder={words.vanTractorBoatWire}
                  options={[...new Set((machines.data ?? []).map((m) => m.kind))]
                    .filter(Boolean)
                    .map((k) => ({ value: k }))}
                />
                <label htmlFor="built">{words.builtInIfYou}</label>
                <InputNumber
                  id="built"
                  min={1900}
                  max={new Date().getFullYear() + 1}
                  controls={false}
                  placeholder={words.year}
                  value={built}
                  onChange={(x) => setBuilt(typeof x === "number" ? Math.round(x) : undefined)}
                />
              </>
            )}
          </section>
          <section className="card">
            <h2>{said ? words.touchTheCircuitThat : words.orTouchACircuit}</h2>
            {said &&
              fits.map((f, i) => (
                <Button
                  key={f.circuit}
                  className="circuit"
                  size="large"
                  block
                  type={i === 0 ? "primary" : "default"}
                  loading={open.isPending && open.variables === f.circuit}
                  onClick={() => open.mutate(f.circuit)}
                >
                  <span>
                    <b>
                      {f.title}
                      <i> {share(f.share)}</i>
                    </b>
                    <small>{f.why}</small>
                  </span>
                </Button>
              ))}
            {rest
              .filter((c) => !said || !fits.some((f) => f.circuit === c.id))
              .map((c) => (
                <Button
                  key={c.id}
                  className="circuit slim"
                  block
                  loading={open.isPending && open.variables === c.id}
                  onClick={() => open.mutate(c.id)}
                  title={c.about}
                >
                  <span>
                    <b>{c.title}</b>
                    <small>{(c.asks?.machine ?? []).slice(0, 4).join(", ")}</small>
                  </span>
                </Button>
              ))}
            {said && !all && (
              <button type="button" className="link" onClick={() => setAll(true)}>
                {words.anotherCircuit}
              </button>
            )}
            {(open.error ?? circuits.error ?? advice.error) && (
              <p className="wrong" role="alert">
                {(open.error ?? circuits.error ?? advice.error)?.message}
              </p>
            )}
          </section>
        </Needs>
      </main>
    </>
  );
}
