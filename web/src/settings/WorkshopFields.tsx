import { AutoComplete, Input, InputNumber } from "antd";
import type { Workshop } from "../api/client";
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
