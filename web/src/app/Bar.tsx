import { use, type ReactNode } from "react";
import { drop, useLink } from "../offline/sync";
import { FrameContext } from "./frame";
import * as words from "./words";

/** The one row at the top of every page: where one is. Where there is no room for the pages beside it, it opens them. */
export function Bar({ children, right }: { children?: ReactNode; right?: ReactNode }) {
  const { wide, openHouse } = use(FrameContext);
  return (
    <>
      <LinkState />
      <div className="bar" role="region" aria-label={words.whereYouAre}>
        {!wide && (
          <button type="button" className="bar-house" aria-label={words.whereTo} onClick={openHouse}>
            ☰
          </button>
        )}
        <div className="bar-mid">{children}</div>
        {right && <div className="bar-right">{right}</div>}
      </div>
    </>
  );
}

/** Says when the connection is gone, what waits to be sent, and what the server would not take. */
function LinkState() {
  const { lost, waiting } = useLink();
  const open = waiting.filter((w) => !w.refused);
  const refused = waiting.filter((w) => w.refused);
  if (!lost && waiting.length === 0) return null;
  const n = open.reduce((s, w) => s + (w.evidence?.length ?? 1), 0);
  return (
    <div className="link-state" role="status">
      {lost && <b>{words.noConnection} </b>}
      {n > 0 && words.entriesAreKeptHere(n)}
      {lost && n === 0 && words.jobsAndExercisesThat}
      {refused.map((w) => (
        <span key={w.id}>
          {words.notTakenByThe} {w.refused}{" "}
          <button type="button" className="link" onClick={() => void drop(w.id)}>
            {words.forgetIt}
          </button>
        </span>
      ))}
    </div>
  );
}
