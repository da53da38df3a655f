import { Button } from "antd";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { answer, subject, useJob } from "../job/job";
import { share } from "../shared/format";
import * as words from "./words";

/** A verdict takes the place of the next reading: one sentence, what it rests on, what it does not rule out. */
export function VerdictCard({
  onMore,
  canMore,
  picker,
}: {
  onMore: () => void;
  canMore: boolean;
  picker?: ReactNode;
}) {
  const { job, circuit } = useJob();
  const nav = useNavigate();
  const v = job.diagnosis.verdict;
  const key = v.status === "nothing_wrong" ? "none" : v.faults.join("+");
  const rests = job.diagnosis.evidence
    .filter((e) => (e.bits[key] ?? 0) > 0.3)
    .sort((a, b) => (b.bits[key] ?? 0) - (a.bits[key] ?? 0))
    .slice(0, 4);
  const clash = (v.clash ?? []).map((i) => job.evidence[i - 1]).filter((e) => e !== undefined);
  const title =
    v.repair !== undefined && v.status !== "isolated"
      ? words.goodEnoughToDecide
      : v.status === "contradiction"
        ? words.theseReadingsClash
        : v.status === "nothing_wrong"
          ? words.nothingWrongFound
          : words.verdictSure(share(v.probability));
  return (
    <section className={`card next verdict ${v.status}`} aria-label={words.verdict}>
      <p className="next-head">{title}</p>
      <h1 tabIndex={-1}>{v.says}</h1>
      {rests.length > 0 && (
        <p>
          {words.restsOn(
            rests
              .map((r) => job.evidence[r.index - 1])
              .filter((e) => e !== undefined)
              .map((e) => `${subject(circuit, e)}: ${answer(circuit, e)}`)
              .join("; "),
          )}
        </p>
      )}
      {clash.length > 0 && (
        <ul>
          {clash.map((e) => (
            <li key={e.id}>
              {subject(circuit, e)}: <b>{answer(circuit, e)}</b>
            </li>
          ))}
        </ul>
      )}
      {v.slip && (
        <p className="note">
          <b>{words.likeliestSlip}</b> {words.strikeItOutAnd(v.slip)}
        </p>
      )}
      {v.then && (
        <p className="note">
          <b>{words.verdictCardThen}</b> {v.then}
        </p>
      )}
      {v.overturn && <p className="quiet">{v.overturn}</p>}
      <div className="next-tools">
        {(v.status === "isolated" || v.repair !== undefined) && (
          <Button type="primary" size="large" onClick={() => void nav("../decide")}>
            {words.repairOrReplace} <kbd>G D</kbd>
          </Button>
        )}
        {canMore && <Button onClick={onMore}>{words.oneMoreReadingFirst}</Button>}
        {picker}
      </div>
    </section>
  );
}
