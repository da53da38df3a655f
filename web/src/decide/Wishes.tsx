import { Checkbox, InputNumber, Select } from "antd";
import type { Terms, Wishes } from "../api/client";
import { useMoney } from "../app/context";
import * as words from "./words";
import Input from "antd/es/input/Input";

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
      <h2>{words.whatTheCustomerWants}</h2>
      <div className="terms">
        <label>
          {words.notMoreThan}
          <InputNumber
            min={0}
            max={1000000}
            placeholder={words.noLimit}
            value={wishes.most_cost ?? null}
            onChange={(x) => onChange({ ...wishes, most_cost: x ?? undefined })}
          />
        </label>
        {day("run_on", words.itMustRunOn)}
        {day("until", words.neededOnlyUntil)}
        <label>
          {words.guarantee}
          <Select<"" | "wanted" | "waived">
            aria-label={words.guarantee}
            value={wishes.guarantee ?? ""}
            onChange={(g) => onChange({ ...wishes, guarantee: g === "" ? undefined : g })}
            options={[
              { value: "", label: words.nothingSaid },
              { value: "wanted", label: words.nothingWithoutOne },
              { value: "waived", label: words.noneAskedFor },
            ]}
          />
        </label>
      </div>
      <p className="flags">
        {flag("burnt", words.insulationOrHousingIs)}
        {flag("near_fuel", words.itLiesNearFuel)}
        {flag("oily", words.oilGotIntoIt)}
        {flag("strands", words.strandsBrokenOrInsulation)}
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
        {words.reckonedWithAnHour(money(terms.hour_rate), money(terms.loss_per_day), terms.years)}{" "}
        <span className="link">{words.change}</span>
      </summary>
      <div className="terms">
        {term("hour_rate", words.anHourOfLabour, 1000)}
        {term("loss_per_day", words.aDayOfStanding, 100000)}
        {term("years", words.yearsTheMachineIs, 40, 0.5, 0.5)}
        {term("comeback", words.eachComebackCosts, 100000)}
        {term("postage", words.postageAnOrder, 1000)}
        {term("minimum_order", words.leastAnOrderMust, 10000)}
        {term("travel", words.aVisitToThe, 10000)}
        {term("missed_days", words.daysAYearIt, 365)}
      </div>
      <p className="flags">
        <Checkbox
          checked={!!terms.winds_here}
          onChange={(e) => onChange({ ...terms, winds_here: e.target.checked })}
        >
          {words.aWinderIsWithin}
        </Checkbox>
      </p>
    </details>
  );
}
