import { Checkbox, Input, InputNumber, Select } from "antd";
import type { Terms, Wishes } from "../api/client";
import { useMoney } from "../app/context";

/** What the customer wants of this repair, and what is so about the part. */
export function WishesCard({ wishes, onChange }: { wishes: Wishes; onChange: (w: Wishes) => void }) {
  const day = (k: "run_on" | "until", label: string) => (
    <label>
      {label}
      <Input
        type="date"
        value={wishes[k] ?? ""}
        onChange={(e) => onChange({ ...wishes, [k]: e.target.value || undefined })}
      />
    </label>
  );
  const flag = (k: "burnt" | "near_fuel" | "oily" | "strands", label: string) => (
    <Checkbox
      checked={!!wishes[k]}
      onChange={(e) => onChange({ ...wishes, [k]: e.target.checked || undefined })}
    >
      {label}
    </Checkbox>
  );
  return (
    <section className="card terms-card">
      <h2>What the customer wants</h2>
      <div className="terms">
        <label>
          Not more than
          <InputNumber
            min={0}
            max={1000000}
            placeholder="no limit"
            value={wishes.most_cost ?? null}
            onChange={(x) => onChange({ ...wishes, most_cost: x ?? undefined })}
          />
        </label>
        {day("run_on", "It must run on")}
        {day("until", "Needed only until")}
        <label>
          Guarantee
          <Select<"" | "wanted" | "waived">
            aria-label="Guarantee"
            value={wishes.guarantee ?? ""}
            onChange={(g) => onChange({ ...wishes, guarantee: g === "" ? undefined : g })}
            options={[
              { value: "", label: "nothing said" },
              { value: "wanted", label: "nothing without one" },
              { value: "waived", label: "none asked for" },
            ]}
          />
        </label>
      </div>
      <p className="flags">
        {flag("burnt", "Insulation or housing is burnt")}
        {flag("near_fuel", "It lies near fuel, oil or gas")}
        {flag("oily", "Oil got into it")}
        {flag("strands", "Strands broken, or insulation chafed")}
      </p>
    </section>
  );
}

/** What this workshop reckons with, in one line; opened it can be changed. */
export function TermsLine({ terms, onChange }: { terms: Terms; onChange: (t: Terms) => void }) {
  const money = useMoney();
  const term = (
    k:
      | "hour_rate"
      | "loss_per_day"
      | "years"
      | "comeback"
      | "postage"
      | "minimum_order"
      | "travel"
      | "missed_days",
    label: string,
    max: number,
    step = 1,
    min = 0,
  ) => (
    <label>
      {label}
      <InputNumber
        min={min}
        max={max}
        step={step}
        value={terms[k] ?? 0}
        onChange={(x) => typeof x === "number" && onChange({ ...terms, [k]: x })}
      />
    </label>
  );
  return (
    <details className="terms-line">
      <summary>
        Reckoned with {money(terms.hour_rate)} an hour, {money(terms.loss_per_day)} a day of standing still,{" "}
        {terms.years} {terms.years === 1 ? "year" : "years"} to stay. <span className="link">Change</span>
      </summary>
      <div className="terms">
        {term("hour_rate", "An hour of labour costs", 1000)}
        {term("loss_per_day", "A day of standing still costs", 100000)}
        {term("years", "Years the machine is to stay", 40, 0.5, 0.5)}
        {term("comeback", "Each comeback costs", 100000)}
        {term("postage", "Postage an order", 1000)}
        {term("minimum_order", "Least an order must come to", 10000)}
        {term("travel", "A visit to the machine costs", 10000)}
        {term("missed_days", "Days a year it is missed if left", 365)}
      </div>
      <p className="flags">
        <Checkbox
          checked={!!terms.winds_here}
          onChange={(e) => onChange({ ...terms, winds_here: e.target.checked })}
        >
          A winder is within reach
        </Checkbox>
      </p>
    </details>
  );
}
