import { use, type ReactNode } from "react";
import { drop, useLink } from "../offline/sync";
import { FrameContext } from "./frame";

/** The one row at the top of every page: where one is. Where there is no room for the pages beside it, it opens them. */
export function Bar({ children, right }: { children?: ReactNode; right?: ReactNode }) {
  const { wide, openHouse } = use(FrameContext);
  return (
    <>
      <LinkState />
      <div className="bar" role="region" aria-label="Where you are">
        {!wide && (
          <button type="button" className="bar-house" aria-label="Where to" onClick={openHouse}>
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
      {lost && <b>No connection. </b>}
      {n > 0 && `${n} ${n === 1 ? "entry is" : "entries are"} kept here and sent when it is back. `}
      {lost && n === 0 && "Jobs and exercises that were opened here can be gone on with. "}
      {refused.map((w) => (
        <span key={w.id}>
          Not taken by the server: {w.refused}{" "}
          <button type="button" className="link" onClick={() => void drop(w.id)}>
            forget it
          </button>
        </span>
      ))}
    </div>
  );
}
