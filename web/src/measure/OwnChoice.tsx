import { Button, Select } from "antd";
import { observationOf, probesOf, stateOf, useJob } from "../job/job";
import { looksIn, measureNames, partsIn, type Own } from "./own";
import type { Picking } from "./OwnPicker";
import * as words from "./words";

/** The list itself: what is read, then where. */
export default function OwnChoice({
  what,
  offered,
  from,
  onPicking,
  own,
}: {
  what: string;
  offered: string[];
  from?: string;
  onPicking: (p: Picking) => void;
  own: (o: Own) => void;
}) {
  const { circuit, state } = useJob();
  const st = stateOf(circuit, state);
  const looks = looksIn(circuit, state);
  const nodes = probesOf(circuit).map((n) => ({ value: n.id, label: n.label }));
  const byPart = what === "current" || what === "resistance";
  return (
    <span className="own">
      <span className="own-what" role="group" aria-label={words.whatIsReadIn(st?.label ?? "")}>
        {offered.map((m) => (
          <Button
            key={m}
            type={m === what ? "primary" : "default"}
            aria-pressed={m === what}
            onClick={() => onPicking({ what: m })}
          >
            {m === "look" ? words.whatIsSeenOr : measureNames[m]}
          </Button>
        ))}
        <Button type="text" onClick={() => onPicking({})}>
          {words.close}
        </Button>
      </span>
      {what === "look" && (
        <span className="own-parts" role="group" aria-label={words.looks}>
          {looks.map((o) => (
            <Button key={o.id} onClick={() => own({ observe: o.id })}>
              {observationOf(circuit, o.id)?.label}
            </Button>
          ))}
        </span>
      )}
      {byPart && (
        <Select
          aria-label={what === "current" ? words.clampRound : words.ohmsOf}
          placeholder={what === "current" ? words.ownChoiceClampRound : words.ofAPartPulled}
          showSearch={{ optionFilterProp: "label" }}
          options={partsIn(circuit, st, what).map((s) => ({ value: s.id, label: s.label }))}
          onChange={(through: string) => own({ measure: what, through })}
          popupMatchSelectWidth={280}
        />
      )}
      {what === "resistance" && <span className="quiet">{words.or}</span>}
      {what !== "look" && what !== "current" && (
        <>
          <Select
            aria-label={words.redOn}
            placeholder={words.redOn}
            options={nodes}
            value={from}
            onChange={(from: string) => onPicking({ what, from })}
            popupMatchSelectWidth={260}
          />
          <Select
            aria-label={words.blackOn}
            placeholder={words.blackOn}
            options={nodes.filter((x) => x.value !== from)}
            disabled={!from}
            onChange={(to: string) => own({ measure: what, from, to })}
            popupMatchSelectWidth={260}
          />
        </>
      )}
    </span>
  );
}
