import { Button, Select } from "antd";
import { useState } from "react";
import { observationOf, probesOf, stateOf, useJob } from "../job/job";
import { looksIn, measureNames, partsIn, readsOf, type Own } from "./own";

/**
 * A reading of one's own by list, for those who do not want to touch the picture: two points for the probes, the part a
 * clamp goes round, ohms of a part, or a look. Only what the state has is offered.
 */
export function OwnPicker({ onOwn }: { onOwn: (p: Own) => void }) {
  const { circuit, state } = useJob();
  const [what, setWhat] = useState<string>();
  const [from, setFrom] = useState<string>();
  const st = stateOf(circuit, state);
  const reads = readsOf(st);
  const looks = looksIn(circuit, state);
  if (reads.length === 0 && looks.length === 0) return null;
  if (!what)
    return (
      <Button onClick={() => setWhat(reads[0] ?? "look")} title="Or touch two points, or a part, on the path">
        Other reading
      </Button>
    );
  const nodes = probesOf(circuit).map((n) => ({ value: n.id, label: n.label }));
  const byPart = what === "current" || what === "resistance";
  return (
    <span className="own">
      <span className="own-what" role="group" aria-label={`What is read: ${st?.label}`}>
        {[...reads, ...(looks.length > 0 ? ["look"] : [])].map((m) => (
          <Button
            key={m}
            type={m === what ? "primary" : "default"}
            aria-pressed={m === what}
            onClick={() => {
              setWhat(m);
              setFrom(undefined);
            }}
          >
            {m === "look" ? "What is seen or heard" : measureNames[m]}
          </Button>
        ))}
        <Button type="text" onClick={() => setWhat(undefined)}>
          close
        </Button>
      </span>
      {what === "look" && (
        <span className="own-parts" role="group" aria-label="Looks">
          {looks.map((o) => (
            <Button key={o.id} onClick={() => onOwn({ observe: o.id })}>
              {observationOf(circuit, o.id)?.label}
            </Button>
          ))}
        </span>
      )}
      {byPart && (
        <Select
          aria-label={what === "current" ? "Clamp round" : "Ohms of"}
          placeholder={what === "current" ? "Clamp round …" : "of a part, pulled out …"}
          showSearch={{ optionFilterProp: "label" }}
          options={partsIn(circuit, st, what).map((s) => ({ value: s.id, label: s.label }))}
          onChange={(through: string) => onOwn({ measure: what, through })}
          popupMatchSelectWidth={280}
        />
      )}
      {what === "resistance" && <span className="quiet">or</span>}
      {what !== "look" && what !== "current" && (
        <>
          <Select
            aria-label="Red on"
            placeholder="Red on"
            options={nodes}
            value={from}
            onChange={setFrom}
            popupMatchSelectWidth={260}
          />
          <Select
            aria-label="Black on"
            placeholder="Black on"
            options={nodes.filter((x) => x.value !== from)}
            disabled={!from}
            onChange={(to: string) => onOwn({ measure: what, from, to })}
            popupMatchSelectWidth={260}
          />
        </>
      )}
    </span>
  );
}
