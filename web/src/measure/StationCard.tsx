import { Drawer } from "antd";
import { answer, nodeLabel, stateOf, stationOf, subject, useJob } from "../job/job";
import { quantity, share } from "../shared/format";
import { useNarrow } from "../shared/hooks";

/** What a station is, where it sits, its limit, caution and access, and all readings that touch it. */
export function StationCard({ id, onClose }: { id: string; onClose: () => void }) {
  const { job, circuit } = useJob();
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
  const access = circuit.access_minutes[s.access] ?? 0;
  return (
    <Drawer open title={s.label} placement={narrow ? "bottom" : "right"} onClose={onClose}>
      <dl className="facts">
        <dt>Where</dt>
        <dd>{s.place}</dd>
        {s.from && (
          <>
            <dt>Between</dt>
            <dd>
              {nodeLabel(circuit, s.from)} and {nodeLabel(circuit, s.to)}
            </dd>
          </>
        )}
        {!!s.allowed_drop && (
          <>
            <dt>May lose</dt>
            <dd>
              {quantity(s.allowed_drop, "voltage")} at normal current (common practice; the vehicle’s own
              manual wins)
            </dd>
          </>
        )}
        <dt>Access</dt>
        <dd>
          {circuit.access_labels[s.access] ?? s.access}
          {access > 0 ? `, about ${access} minutes` : ""}
        </dd>
        <dt>Suspicion</dt>
        <dd>{share(p)}</dd>
      </dl>
      {s.caution && <p className="caution">⚠ {s.caution}</p>}
      {faults.length > 0 && (
        <>
          <h3>What it could be</h3>
          <ul>
            {faults.map((f) => (
              <li key={f.label}>
                {f.label}: {share(f.probability)}
              </li>
            ))}
          </ul>
        </>
      )}
      <h3>Readings that touch it</h3>
      {touching.length === 0 ? (
        <p className="quiet">None yet.</p>
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
