import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { AutoComplete, Button, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { newId } from "../shared/id";

/** Opening a job: one touch on a circuit is enough; machine and words may follow. */
export default function Start() {
  const nav = useNavigate();
  const client = useQueryClient();
  const [ids] = useState(() => ({ job: newId(), machine: newId() }));
  const [machine, setMachine] = useState("");
  const [complaint, setComplaint] = useState("");
  const machines = useQuery({ queryKey: ["machines"], queryFn: () => must(api.GET("/api/machines")) });
  const circuits = useQuery({
    queryKey: ["circuits"],
    queryFn: () => must(api.GET("/api/circuits")),
    staleTime: Infinity,
  });
  const open = useMutation({
    mutationFn: (circuit: string) => {
      const known = machines.data?.find((m) => m.name === machine.trim());
      const name = machine.trim() || `Machine of ${new Date().toLocaleString()}`;
      return must(
        api.POST("/api/jobs", {
          body: known
            ? { id: ids.job, machine_id: known.id, circuit, complaint }
            : { id: ids.job, machine_id: ids.machine, new_machine: name, circuit, complaint },
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
  return (
    <>
      <Bar>
        <span className="bar-title">Start a job</span>
      </Bar>
      <main className="page narrow">
        <label htmlFor="machine">Which machine? (may follow later)</label>
        <AutoComplete
          id="machine"
          value={machine}
          onChange={setMachine}
          placeholder="Type its name, or a new one"
          options={(machines.data ?? []).map((m) => ({ value: m.name, label: `${m.name} · ${m.place}` }))}
          showSearch={{ filterOption: (t, o) => String(o?.label).toLowerCase().includes(t.toLowerCase()) }}
        />
        <label htmlFor="complaint">What does it do, or not do?</label>
        <Input.TextArea
          id="complaint"
          autoSize={{ minRows: 2, maxRows: 6 }}
          maxLength={2000}
          placeholder="In the customer's words: only clicks, slower every morning …"
          value={complaint}
          onChange={(e) => setComplaint(e.target.value)}
        />
        <h2>Touch the circuit to begin</h2>
        {(circuits.data ?? []).map((c) => (
          <Button
            key={c.id}
            className="circuit"
            size="large"
            block
            loading={open.isPending}
            onClick={() => open.mutate(c.id)}
          >
            <span>
              <b>{c.title}</b>
              <small>{c.about}</small>
            </span>
          </Button>
        ))}
        <p className="quiet">
          Starters are the first circuit. Windows, wipers, blowers, drives and the rest follow; until then
          they are not offered.
        </p>
        {(open.error ?? circuits.error) && (
          <p className="wrong" role="alert">
            {(open.error ?? circuits.error)?.message}
          </p>
        )}
      </main>
    </>
  );
}
