import { AutoComplete, Button, InputNumber, Select } from "antd";
import { useRef, useState } from "react";
import type { Workshop } from "../api/client";
import { newId } from "../shared/id";
import { upload } from "../shared/photo";
import style from "../people/people.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";
import TextArea from "antd/es/input/TextArea";

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
        {words.nameAsOnPapers}
        <Input maxLength={120} value={value.name} onChange={(e) => set({ name: e.target.value })} />
      </label>
      {!brief && (
        <label>
          {words.addressAndTelephone}
          <TextArea
            autoSize={{ minRows: 2, maxRows: 5 }}
            maxLength={400}
            value={value.address ?? ""}
            onChange={(e) => set({ address: e.target.value })}
          />
        </label>
      )}
      <div className={style.two}>
        <label>
          {words.currency}
          <AutoComplete
            aria-label={words.currency}
            options={currencies.map((c) => ({ value: c }))}
            filterOption={(typed, o) => !!o && o.value.startsWith(typed.toUpperCase())}
            maxLength={3}
            placeholder={words.eurChfUsd}
            value={value.currency ?? ""}
            onChange={(currency: string) => set({ currency: currency.toUpperCase() })}
          />
          <small>{words.emptySumsAreWritten}</small>
        </label>
        {money("hour_rate", words.anHourOfLabour, 1000)}
        {!brief && money("loss_per_day", words.aDayOfStanding, 100000, words.eachJobCanSay)}
        {!brief && money("comeback", words.aJobThatComes, 100000, words.moneyAndGoodwill)}
        {!brief && (
          <label>
            {words.taxThatPricesHold}
            <InputNumber
              style={{ width: "100%" }}
              min={0}
              max={60}
              suffix="%"
              value={value.tax ?? 0}
              onChange={(x) => set({ tax: x ?? 0 })}
            />
            <small>{words.zeroPapersSayNothing}</small>
          </label>
        )}
        {!brief && (
          <label>
            {words.guaranteeOnWork}
            <InputNumber
              style={{ width: "100%" }}
              min={0}
              max={120}
              precision={0}
              suffix={words.months}
              value={value.guarantee ?? 0}
              onChange={(x) => set({ guarantee: x ?? 0 })}
            />
            <small>{words.forLastingWork0}</small>
          </label>
        )}
        <label>
          {words.timeZone}
          <AutoComplete
            aria-label={words.timeZone}
            options={zones().map((z) => ({ value: z }))}
            filterOption={(typed, o) => !!o && o.value.toLowerCase().includes(typed.toLowerCase())}
            maxLength={64}
            value={value.time_zone ?? ""}
            onChange={(time_zone: string) => set({ time_zone })}
          />
          <small>{words.ofTheDaysOn}</small>
        </label>
      </div>
      <div className={style.two}>
        <label>
          {words.units}
          <Select
            aria-label={words.units}
            value={value.imperial ?? false}
            onChange={(imperial: boolean) => set({ imperial: imperial || undefined })}
            options={[
              { value: false, label: words.cMmMmNm },
              { value: true, label: words.fAwgInchLb },
            ]}
          />
        </label>
        <label>
          {words.decimals}
          <Select
            aria-label={words.decimals}
            value={value.decimal_comma ?? false}
            onChange={(comma: boolean) => set({ decimal_comma: comma || undefined })}
            options={[
              { value: false, label: words.withAPoint },
              { value: true, label: words.withAComma },
            ]}
          />
          <small>{words.eitherMayBeTyped}</small>
        </label>
      </div>
      {!brief && (
        <label>
          {words.ownersSignIn}
          <Select
            aria-label={words.ownersSignIn}
            value={value.owners_code ?? false}
            onChange={(code: boolean) => set({ owners_code: code || undefined })}
            options={[
              { value: false, label: words.withAPassword },
              { value: true, label: words.withACodeBesides },
            ]}
          />
          <small>{words.withoutItAnOwner}</small>
        </label>
      )}
      {!brief && <Logo id={value.logo} onChange={(logo) => set({ logo })} />}
      {!brief && (
        <label>
          {words.atTheFootOf}
          <TextArea
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
      <p>{words.logoOnPapers}</p>
      {id && (
        <p>
          <img
            src={`/api/photos/${id}?thumb=true`}
            alt={words.theLogo}
            style={{ maxWidth: 200, maxHeight: 56 }}
          />
        </p>
      )}
      <p className="next-tools">
        <Button loading={busy} onClick={() => file.current?.click()}>
          {id ? words.anotherPicture : words.chooseAPicture}
        </Button>
        {id && <Button onClick={() => onChange(undefined)}>{words.none}</Button>}
      </p>
      <input
        ref={file}
        type="file"
        accept="image/jpeg,image/png"
        hidden
        aria-label={words.logoFile}
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
