import { Button, Drawer } from "antd";
import { useState } from "react";
import { useApp } from "../app/context";
import { answer, nodeLabel, stateOf, stationOf, subject, useJob, useWrites } from "../job/job";
import { lower, quantity, share } from "../shared/format";
import { useNarrow } from "../shared/hooks";
import { newId } from "../shared/id";
import { Marks } from "./Marks";
import { measureNames, partsIn, readsOf, type Own } from "./own";
import * as words from "./words";

/** What a station is, where it sits, its limit, caution and access, and all readings that touch it. */
export function StationCard({
  id,
  onClose,
  onOwn,
}: {
  id: string;
  onClose: () => void;
  onOwn?: (o: Own) => void;
}) {
  const { job, circuit, state } = useJob();
  const { mayWrite } = useApp();
  const { repair } = useWrites(job.id, state);
  const [repairId] = useState(newId);
  const narrow = useNarrow();
  const s = stationOf(circuit, id);
  if (!s) return null;
  const p = job.diagnosis.stations.find((x) => x.station === id)?.probability ?? 0;
  const touching = job.evidence.filter(
    (e) =>
      !e.struck &&
      (e.through === id ||
        (e.from && [s.from, s.to].includes(e.from)) ||
        (e.to && [s.from, s.to].includes(e.to))),
  );
  const faults = job.diagnosis.diagnoses
    .filter((d) => d.faults.some((f) => f.startsWith(`${id}.`)))
    .slice(0, 5);
  const st = stateOf(circuit, state);
  const own = readsOf(st)
    .filter(
      (m) =>
        s.from &&
        (["voltage", "ac_voltage", "capacitance"].includes(m) || partsIn(circuit, st, m).includes(s)),
    )
    .map((m) => ({
      m,
      label:
        { voltage: words.voltsAcrossIt, current: words.ampsThroughIt, resistance: words.itsOhms }[m] ??
        measureNames[m],
      read:
        m === "current" || m === "resistance"
          ? { measure: m, through: id }
          : { measure: m, from: s.from, to: s.to },
    }));
  const access = circuit.access_minutes[s.access] ?? 0;
  return (
    <Drawer open title={s.label} placement={narrow ? "bottom" : "right"} onClose={onClose}>
      <dl className="facts">
        <dt>{words.where}</dt>
        <dd>{s.place}</dd>
        {s.from && (
          <>
            <dt>{words.between}</dt>
            <dd>{words.and(nodeLabel(circuit, s.from), nodeLabel(circuit, s.to))}</dd>
          </>
        )}
        {!!s.allowed_drop && (
          <>
            <dt>{words.mayLose}</dt>
            <dd>{words.atNormalCurrentCommon(quantity(s.allowed_drop, "voltage"))}</dd>
          </>
        )}
        <dt>{words.access}</dt>
        <dd>
          {circuit.access_labels[s.access] ?? s.access}
          {access > 0 ? words.aboutMinutes(access) : ""}
        </dd>
        <dt>{words.stationCardSuspicion}</dt>
        <dd>{share(p)}</dd>
      </dl>
      {onOwn && own.length > 0 && (
        <p className="station-read" role="group" aria-label={words.enterAReading(lower(st?.label ?? ""))}>
          {own.map((x) => (
            <Button key={x.m} size="large" onClick={() => onOwn(x.read)}>
              {x.label}
            </Button>
          ))}
        </p>
      )}
      {s.caution && <p className="caution">⚠ {s.caution}</p>}
      {faults.length > 0 && (
        <>
          <h3>{words.whatItCouldBe}</h3>
          <ul>
            {faults.map((f) => (
              <li key={f.label}>
                {f.label}: {share(f.probability)}
              </li>
            ))}
          </ul>
        </>
      )}
      {mayWrite && (
        <>
          <Button
            loading={repair.isPending}
            onClick={() =>
              repair.mutate(
                { id: repairId, station: id, what: s.replace?.label ?? "" },
                { onSuccess: onClose },
              )
            }
          >
            {words.thisWasPutRight}
          </Button>
          <p className="quiet">{words.readingsSoFarKeep}</p>
          {repair.error && (
            <p className="wrong" role="alert">
              {repair.error.message}
            </p>
          )}
        </>
      )}
      <h3>{words.fromTheWiringDiagram}</h3>
      <Marks at={id} label={s.label} />
      {[s.from, s.to].map(
        (n) => n && !n.startsWith("bat_") && <Marks key={n} at={n} label={nodeLabel(circuit, n)} />,
      )}
      <h3>{words.readingsThatTouchIt}</h3>
      {touching.length === 0 ? (
        <p className="quiet">{words.noneYet}</p>
      ) : (
        <ul>
          {touching.map((e) => (
            <li key={e.id}>
              {subject(circuit, e)}, {stateOf(circuit, e.state)?.label.toLowerCase()}:{" "}
              <b>{answer(circuit, e)}</b>
            </li>
          ))}
        </ul>
      )}
    </Drawer>
  );
}
