import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { RepairView } from "../api/client";
import { useApp, useMoney } from "../app/context";
import { age, lower, day } from "../shared/format";
import { newId } from "../shared/id";
import { useJob, useWrites } from "./job";
import { statusWords } from "./repairs";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** The repairs of a job, each with what was found, chosen and done of it. */
export function RepairList({ work, proving = false }: { work: RepairView[]; proving?: boolean }) {
  return (
    <ol className="repairs">
      {work.map((r) => (
        <One key={r.id} r={r} proving={proving} />
      ))}
    </ol>
  );
}

function One({ r, proving }: { r: RepairView; proving: boolean }) {
  const { mayWrite } = useApp();
  const money = useMoney();
  const chosen = [
    r.price !== undefined && r.option !== "leave" ? words.agreedAt(money(r.price, 2)) : "",
    r.by ? words.chosenByThe(r.by, r.who ? ` (${r.who})` : "", r.reason ? `: ${r.reason}` : "") : "",
  ].filter(Boolean);
  return (
    <li className={`repair is-${r.status}`}>
      <p>
        <b>{r.parts}</b> <span className="repair-status">{statusWords[r.status]}</span>{" "}
        <small className="quiet">{since(r)}</small>
      </p>
      {r.found && <p>{r.found}</p>}
      {r.label && (
        <p>
          {r.label}
          {chosen.length > 0 && `, ${chosen.join(", ")}`}
          {r.set_aside && words.againstTheAdvice(r.set_aside)}
        </p>
      )}
      {r.temporary && r.limit && r.status !== "succeeded" && (
        <p className="caution">{words.temporary(r.until ? words.until(day(r.until)) : "", r.limit)}</p>
      )}
      {mayWrite && r.status === "chosen" && <Do r={r} />}
      {(r.status === "done" || r.status === "failed") && (
        <>
          {mayWrite ? <Reword key={r.what} r={r} /> : <p>{words.done(r.what)}</p>}
          {!proving && (
            <p>
              <Link to="../prove">{words.proveIt}</Link>
            </p>
          )}
        </>
      )}
      {["proved", "accepted", "succeeded"].includes(r.status) && <p>{words.done(r.what)}</p>}
      {r.proof && r.status !== "proved" && <p className="quiet">{r.proof}</p>}
    </li>
  );
}

const since = (r: RepairView) => {
  const at = r.done_at ?? r.chosen_at;
  return at ? age(at) : "";
};

/** The work as it was really done, before it is recorded. */
function Do({ r }: { r: RepairView }) {
  const { job, state } = useJob();
  const { repair } = useWrites(job.id, state);
  const [what, setWhat] = useState(r.label);
  const [id] = useState(newId);
  const done = () => what.trim() && repair.mutate({ id, decision: r.id, what: what.trim() });
  return (
    <div className="work-done">
      <label>
        {words.whatWasDone}
        <Input maxLength={400} value={what} onChange={(e) => setWhat(e.target.value)} onPressEnter={done} />
      </label>
      <Button type="primary" size="large" loading={repair.isPending} disabled={!what.trim()} onClick={done}>
        {words.theWorkIsDone}
      </Button>
      <span className="quiet">{words.readingsFromThenOn}</span>
      {repair.error && (
        <p className="wrong" role="alert">
          {repair.error.message}
        </p>
      )}
    </div>
  );
}

/** What was done, in other words, until it is signed. */
function Reword({ r }: { r: RepairView }) {
  const { job, state } = useJob();
  const { reword } = useWrites(job.id, state);
  const [what, setWhat] = useState(r.what);
  const changed = what.trim() !== r.what && what.trim() !== "";
  const save = () => changed && reword.mutate({ repair: r.id, what: what.trim() });
  return (
    <div className="work-done">
      <label>
        {words.whatWasDoneAs}
        <Input
          aria-label={words.whatWasDoneWithParts(lower(r.parts))}
          maxLength={400}
          value={what}
          onChange={(e) => setWhat(e.target.value)}
          onPressEnter={save}
        />
      </label>
      {changed && (
        <Button loading={reword.isPending} onClick={save}>
          {words.keep}
        </Button>
      )}
      {reword.error && (
        <p className="wrong" role="alert">
          {reword.error.message}
        </p>
      )}
    </div>
  );
}
