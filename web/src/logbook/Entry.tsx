import { Link } from "react-router";
import type { LogEntry } from "../api/client";
import { day } from "../shared/format";
import { fixed } from "../shared/written";
import * as words from "./words";

/** One job of the logbook, in a row. */
export function Entry({ e, lasted }: { e: LogEntry; lasted?: boolean }) {
  return (
    <li>
      <span className="log-day">{day(e.opened_at)}</span>
      <span className="log-machine">
        {/* On its own page the machine need not be named again. */}
        {lasted ? null : e.machine_id ? <Link to={`/machines/${e.machine_id}`}>{e.machine}</Link> : e.machine}
        <small>{e.title || e.circuit}</small>
      </span>
      <span>
        {e.complaint}
        {!e.fault && <small>{e.says}</small>}
      </span>
      <span>
        {e.fault && <b>{e.fault}</b>}
        <small>
          {[e.option, e.price != null ? fixed(e.price, 0) : "", lasted ? e.lasted : ""]
            .filter(Boolean)
            .join(" · ")}
        </small>
      </span>
      <span>
        {e.old ? (
          <small>{words.oldList}</small>
        ) : (
          <>
            <Link to={`/jobs/${e.id}/report`}>{words.open}</Link>
            {!e.closed_at && <small>{words.goingOn}</small>}
          </>
        )}
      </span>
    </li>
  );
}
