import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import { api, must, type Instrument } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { newId } from "../shared/id";

const kinds = [
  { value: "multimeter", label: "Multimeter" },
  { value: "dc_clamp", label: "DC clamp" },
  { value: "scope", label: "Scope" },
];

const fresh = (): Instrument => ({
  id: newId(),
  name: "",
  kind: "multimeter",
  address: "",
  percent: 0.5,
  counts: 2,
  digit: 0.01,
  ohm_digit: 0.1,
  leads_ohm: 0,
  zero_a: 0,
  measures: [],
});

const today = (at?: string) => !!at && new Date(at).toDateString() === new Date().toDateString();

/** The workshop's meters: how far each may be off, what its leads and its zero take, where it answers. */
export default function Instruments() {
  const { mayWrite, me } = useApp();
  const client = useQueryClient();
  const list = useQuery({ queryKey: ["instruments"], queryFn: () => must(api.GET("/api/instruments")) });
  const [edit, setEdit] = useState<Instrument | null>(null);
  const done = (l: Instrument[]) => {
    client.setQueryData(["instruments"], l);
    setEdit(null);
  };
  const put = useMutation({
    mutationFn: (v: Instrument) => must(api.PUT("/api/instruments", { body: v })),
    onSuccess: done,
  });
  const drop = useMutation({
    mutationFn: (id: string) => must(api.DELETE("/api/instruments/{id}", { params: { path: { id } } })),
    onSuccess: done,
  });
  return (
    <>
      <Bar>
        <h1 className="bar-title">Meters</h1>
      </Bar>
      <main className="page">
        <p className="lead">
          What a reading is worth depends on the meter. Zero the leads and the clamp each day, and every
          reading is corrected for them.
        </p>
        {list.data?.length === 0 && (
          <p className="empty">
            No meters yet: an ordinary handheld and an ordinary clamp are assumed. Add yours.
          </p>
        )}
        <div className="meters">
          {(list.data ?? []).map((v) => (
            <section key={v.id} className="card meter">
              <h2>
                {v.name} <small>{kinds.find((k) => k.value === v.kind)?.label}</small>
              </h2>
              <p>
                ± ({v.percent} % + {v.counts} counts of {v.digit} {v.kind === "multimeter" ? "V" : "A"})
                {v.kind === "multimeter" && ` · ohms to ${v.ohm_digit} Ω`}
                {v.address ? ` · read live at ${v.address}` : " · read by eye"}
              </p>
              {mayWrite && <Zero key={v.zeroed_at ?? ""} v={v} put={put} />}
              {mayWrite && (
                <div className="next-tools">
                  <Button onClick={() => setEdit(v)}>Change</Button>
                  <Button onClick={() => drop.mutate(v.id)}>Forget</Button>
                </div>
              )}
            </section>
          ))}
        </div>
        {mayWrite && !edit && (
          <Button
            type="primary"
            size="large"
            style={{ justifySelf: "start" }}
            onClick={() => setEdit(fresh())}
          >
            Add a meter
          </Button>
        )}
        {edit && (
          <form
            className="card meter-form"
            onSubmit={(e) => {
              e.preventDefault();
              put.mutate(edit);
            }}
          >
            <h2>{edit.measures?.length ? "Change" : "Add"} a meter</h2>
            <label>
              Name
              <Input
                value={edit.name}
                maxLength={64}
                autoFocus
                onChange={(e) => setEdit({ ...edit, name: e.target.value })}
              />
            </label>
            <label>
              Kind
              <Select
                aria-label="Kind"
                value={edit.kind}
                options={kinds}
                onChange={(kind) => setEdit({ ...edit, kind })}
              />
            </label>
            <label>
              Percent of the reading
              <InputNumber
                min={0}
                max={50}
                value={edit.percent}
                onChange={(x) => setEdit({ ...edit, percent: x ?? 0 })}
              />
            </label>
            <label>
              Counts
              <InputNumber
                min={0}
                max={1000}
                value={edit.counts}
                onChange={(x) => setEdit({ ...edit, counts: x ?? 0 })}
              />
            </label>
            <label>
              One count, {edit.kind === "multimeter" ? "volts" : "amperes"}
              <InputNumber
                min={0.000001}
                max={10}
                value={edit.digit}
                onChange={(x) => setEdit({ ...edit, digit: x ?? 0.01 })}
              />
            </label>
            {edit.kind === "multimeter" && (
              <label>
                One count, ohms
                <InputNumber
                  min={0}
                  max={10}
                  value={edit.ohm_digit}
                  onChange={(x) => setEdit({ ...edit, ohm_digit: x ?? 0.1 })}
                />
              </label>
            )}
            <label>
              Address, for live readings (SCPI)
              <Input
                placeholder="192.168.1.20:5025, or empty"
                value={edit.address}
                disabled={!me.rights.includes("equip")}
                maxLength={120}
                onChange={(e) => setEdit({ ...edit, address: e.target.value })}
              />
              {!me.rights.includes("equip") && (
                <small>A technician or the owner says where it is reached.</small>
              )}
            </label>
            {put.error && (
              <p className="wrong" role="alert">
                {put.error.message}
              </p>
            )}
            <div className="next-tools">
              <Button
                type="primary"
                size="large"
                htmlType="submit"
                loading={put.isPending}
                disabled={!edit.name.trim()}
              >
                Keep
              </Button>
              <Button size="large" onClick={() => setEdit(null)}>
                Leave it
              </Button>
            </div>
          </form>
        )}
      </main>
    </>
  );
}

/** Today's zero: the leads held together, or the clamp round nothing. */
function Zero({ v, put }: { v: Instrument; put: { mutate: (v: Instrument) => void } }) {
  const leads = v.kind === "multimeter";
  const [x, setX] = useState<number | null>(leads ? v.leads_ohm : v.zero_a);
  return (
    <div className="zero">
      <label>
        {leads ? "Leads held together read" : "Round nothing it reads"}{" "}
        <InputNumber
          min={leads ? 0 : -100}
          max={100}
          step={0.1}
          value={x}
          aria-label={`${v.name}: ${leads ? "leads, ohms" : "zero, amperes"}`}
          onChange={setX}
        />{" "}
        {leads ? "Ω" : "A"}
      </label>{" "}
      <Button
        onClick={() =>
          put.mutate({ ...v, leads_ohm: leads ? (x ?? 0) : v.leads_ohm, zero_a: leads ? v.zero_a : (x ?? 0) })
        }
      >
        Zeroed today
      </Button>{" "}
      <span className={today(v.zeroed_at) ? "quiet" : "warn"}>
        {today(v.zeroed_at) ? "✓ zeroed today" : "not zeroed today"}
      </span>
    </div>
  );
}
