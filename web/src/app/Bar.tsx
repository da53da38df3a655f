import { useQuery } from "@tanstack/react-query";
import { use, type ReactNode } from "react";
import { api, must } from "../api/client";
import { drop, useLink } from "../offline/sync";
import { useApp } from "./context";
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

/** Says that the server's disk runs out of room: early to who can make some, at last to all. */
function useRoom(lost: boolean): string {
  const { mayManage } = useApp();
  const { data } = useQuery({
    queryKey: ["server"],
    queryFn: () => must(api.GET("/api/server")),
    refetchInterval: 120_000,
    enabled: !lost,
  });
  if (data?.disk === "full") return words.diskFull(data.left ?? "");
  if (data?.disk === "low" && mayManage) return words.diskLow(data.left ?? "");
  return "";
}

/** Says when the connection is gone, what waits to be sent, and what the server would not take. */
function LinkState() {
  const { lost, waiting } = useLink();
  const room = useRoom(lost);
  const open = waiting.filter((w) => !w.refused);
  const refused = waiting.filter((w) => w.refused);
  if (!lost && waiting.length === 0 && !room) return null;
  const n = open.reduce((s, w) => s + (w.evidence?.length ?? 1), 0);
  return (
    <div className="link-state" role="status">
      {room && <b>{room} </b>}
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
