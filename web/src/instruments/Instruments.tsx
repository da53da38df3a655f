import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
import { useState } from "react";
import { api, must, type Instrument } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { newId } from "../shared/id";
import * as words from "./words";
import Input from "antd/es/input/Input";

const kinds = [
  { value: "multimeter", label: words.multimeter },
  { value: "dc_clamp", label: words.dcClamp },
  { value: "scope", label: words.scope },
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
        <h1 className="bar-title">{words.meters}</h1>
      </Bar>
      <main className="page">
        <p className="lead">{words.whatAReadingIs}</p>
        {list.data?.length === 0 && <p className="empty">{words.noMetersYetAn}</p>}
        <div className="meters">
          {(list.data ?? []).map((v) => (
            <section key={v.id} className="card meter">
              <h2>
                {v.name} <small>{kinds.find((k) => k.value === v.kind)?.label}</small>
              </h2>
              <p>
                {words.countsOf(v.percent, v.counts, v.digit, v.kind === "multimeter" ? "V" : "A")}
                {v.kind === "multimeter" && v.ohm_digit != null && words.ohmsTo(v.ohm_digit)}
                {v.address ? words.readLiveAt(v.address) : words.readByEye}
              </p>
              {mayWrite && <Zero key={v.zeroed_at ?? ""} v={v} put={put} />}
              {mayWrite && (
                <div className="next-tools">
                  <Button onClick={() => setEdit(v)}>{words.change}</Button>
                  <Button onClick={() => drop.mutate(v.id)}>{words.forget}</Button>
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
            {words.addAMeter}
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
            <h2>{edit.measures?.length ? words.changeAMeter : words.addAMeter}</h2>
            <label>
              {words.name}
              <Input
                value={edit.name}
                maxLength={64}
                autoFocus
                onChange={(e) => setEdit({ ...edit, name: e.target.value })}
              />
            </label>
            <label>
              {words.kind}
              <Select
                aria-label={words.kind}
                value={edit.kind}
                options={kinds}
                onChange={(kind) => setEdit({ ...edit, kind })}
              />
            </label>
            <label>
              {words.percentOfTheReading}
              <InputNumber
                min={0}
                max={50}
                value={edit.percent}
                onChange={(x) => setEdit({ ...edit, percent: x ?? 0 })}
              />
            </label>
            <label>
              {words.counts}
              <InputNumber
                min={0}
                max={1000}
                value={edit.counts}
                onChange={(x) => setEdit({ ...edit, counts: x ?? 0 })}
              />
            </label>
            <label>
              {words.oneCount(edit.kind === "multimeter" ? words.volts : words.amperes)}
              <InputNumber
                min={0.000001}
                max={10}
                value={edit.digit}
                onChange={(x) => setEdit({ ...edit, digit: x ?? 0.01 })}
              />
            </label>
            {edit.kind === "multimeter" && (
              <label>
                {words.oneCountOhms}
                <InputNumber
                  min={0}
                  max={10}
                  value={edit.ohm_digit}
                  onChange={(x) => setEdit({ ...edit, ohm_digit: x ?? 0.1 })}
                />
              </label>
            )}
            <label>
              {words.addressForLiveReadings}
              <Input
                placeholder={words.exampleAddress}
                value={edit.address}
                disabled={!me.rights.includes("equip")}
                maxLength={120}
                onChange={(e) => setEdit({ ...edit, address: e.target.value })}
              />
              <small>{me.rights.includes("equip") ? words.orASerialLine : words.aTechnicianOrThe}</small>
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
                {words.keep}
              </Button>
              <Button size="large" onClick={() => setEdit(null)}>
                {words.cancel}
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
        {leads ? words.leadsHeldTogetherRead : words.roundNothingItReads}{" "}
        <InputNumber
          min={leads ? 0 : -100}
          max={100}
          step={0.1}
          value={x}
          aria-label={`${v.name}: ${leads ? words.leadsOhms : words.zeroAmperes}`}
          onChange={setX}
        />{" "}
        {leads ? "Ω" : "A"}
      </label>{" "}
      <Button
        onClick={() =>
          put.mutate({ ...v, leads_ohm: leads ? (x ?? 0) : v.leads_ohm, zero_a: leads ? v.zero_a : (x ?? 0) })
        }
      >
        {words.zeroedToday}
      </Button>{" "}
      <span className={today(v.zeroed_at) ? "quiet" : "warn"}>
        {today(v.zeroed_at) ? words.instrumentsZeroedToday : words.notZeroedToday}
      </span>
    </div>
  );
}
