import { AutoComplete, Button, Input, InputNumber, Select } from "antd";
import { useRef, useState } from "react";
import type { Workshop } from "../api/client";
import { newId } from "../shared/id";
import { upload } from "../shared/photo";
import style from "../people/people.module.css";

const currencies = [
  "EUR",
  "CHF",
  "USD",
  "GBP",
  "SEK",
  "NOK",
  "DKK",
  "PLN",
  "CZK",
  "CAD",
  "AUD",
  "NZD",
  "JPY",
];
const zones = () => Intl.supportedValuesOf("timeZone");

/** What a workshop says about itself; brief asks only what the first day needs. */
export function WorkshopFields({
  value,
  onChange,
  brief,
}: {
  value: Workshop;
  onChange: (v: Workshop) => void;
  brief?: boolean;
}) {
  const set = (part: Partial<Workshop>) => onChange({ ...value, ...part });
  const money = (
    key: "hour_rate" | "loss_per_day" | "comeback",
    label: string,
    most: number,
    hint?: string,
  ) => (
    <label>
      {label}
      <InputNumber
        style={{ width: "100%" }}
        min={0}
        max={most}
        suffix={value.currency || undefined}
        value={value[key]}
        onChange={(x) => set({ [key]: x ?? 0 })}
      />
      {hint && <small>{hint}</small>}
    </label>
  );
  return (
    <>
      <label>
        Name, as on papers
        <Input maxLength={120} value={value.name} onChange={(e) => set({ name: e.target.value })} />
      </label>
      {!brief && (
        <label>
          Address and telephone
          <Input.TextArea
            autoSize={{ minRows: 2, maxRows: 5 }}
            maxLength={400}
            value={value.address ?? ""}
            onChange={(e) => set({ address: e.target.value })}
          />
        </label>
      )}
      <div className={style.two}>
        <label>
          Currency
          <AutoComplete
            aria-label="Currency"
            options={currencies.map((c) => ({ value: c }))}
            filterOption={(typed, o) => !!o && o.value.startsWith(typed.toUpperCase())}
            maxLength={3}
            placeholder="EUR, CHF, USD …"
            value={value.currency ?? ""}
            onChange={(currency: string) => set({ currency: currency.toUpperCase() })}
          />
          <small>Empty: sums are written without one.</small>
        </label>
        {money("hour_rate", "An hour of labour costs", 1000)}
        {!brief &&
          money(
            "loss_per_day",
            "A day of standing still costs the customer",
            100000,
            "Each job can say otherwise.",
          )}
        {!brief && money("comeback", "A job that comes back costs", 100000, "Money and goodwill.")}
        {!brief && (
          <label>
            Tax that prices hold
            <InputNumber
              style={{ width: "100%" }}
              min={0}
              max={60}
              suffix="%"
              value={value.tax ?? 0}
              onChange={(x) => set({ tax: x ?? 0 })}
            />
            <small>0: papers say nothing of it.</small>
          </label>
        )}
        {!brief && (
          <label>
            Guarantee on work
            <InputNumber
              style={{ width: "100%" }}
              min={0}
              max={120}
              precision={0}
              suffix="months"
              value={value.guarantee ?? 0}
              onChange={(x) => set({ guarantee: x ?? 0 })}
            />
            <small>For lasting work; 0: as each plan says.</small>
          </label>
        )}
        <label>
          Time zone
          <AutoComplete
            aria-label="Time zone"
            options={zones().map((z) => ({ value: z }))}
            filterOption={(typed, o) => !!o && o.value.toLowerCase().includes(typed.toLowerCase())}
            maxLength={64}
            value={value.time_zone ?? ""}
            onChange={(time_zone: string) => set({ time_zone })}
          />
          <small>Of the days on papers. Empty: the server’s.</small>
        </label>
      </div>
      <div className={style.two}>
        <label>
          Units
          <Select
            aria-label="Units"
            value={value.imperial ?? false}
            onChange={(imperial: boolean) => set({ imperial: imperial || undefined })}
            options={[
              { value: false, label: "°C, mm², mm, Nm" },
              { value: true, label: "°F, AWG, inch, lb ft beside them" },
            ]}
          />
        </label>
        <label>
          Decimals
          <Select
            aria-label="Decimals"
            value={value.decimal_comma ?? false}
            onChange={(comma: boolean) => set({ decimal_comma: comma || undefined })}
            options={[
              { value: false, label: "12.6 V, with a point" },
              { value: true, label: "12,6 V, with a comma" },
            ]}
          />
          <small>Either may be typed.</small>
        </label>
      </div>
      {!brief && <Logo id={value.logo} onChange={(logo) => set({ logo })} />}
      {!brief && (
        <label>
          At the foot of papers
          <Input.TextArea
            autoSize={{ minRows: 1, maxRows: 3 }}
            maxLength={400}
            value={value.foot ?? ""}
            onChange={(e) => set({ foot: e.target.value })}
          />
        </label>
      )}
    </>
  );
}

/** The picture at the head of papers. */
function Logo({ id, onChange }: { id?: string; onChange: (id: string | undefined) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const take = async (f: File) => {
    setWrong("");
    setBusy(true);
    const made = newId();
    try {
      await upload(made, f);
      onChange(made);
    } catch (e) {
      setWrong((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div>
      <p>Logo on papers</p>
      {id && (
        <p>
          <img src={`/api/photos/${id}?thumb=true`} alt="The logo" style={{ maxWidth: 200, maxHeight: 56 }} />
        </p>
      )}
      <p className="next-tools">
        <Button loading={busy} onClick={() => file.current?.click()}>
          {id ? "Another picture" : "Choose a picture"}
        </Button>
        {id && <Button onClick={() => onChange(undefined)}>None</Button>}
      </p>
      <input
        ref={file}
        type="file"
        accept="image/jpeg,image/png"
        hidden
        aria-label="Logo file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) void take(f);
        }}
      />
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      )}
    </div>
  );
}
