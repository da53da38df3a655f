import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, must, type AttemptView } from "../api/client";
import { useLost } from "../offline/sync";
import { tells } from "../shared/format";
import { begin } from "./attempt";
import * as words from "./words";
import { fixed } from "../shared/written";

/** Every move on a line with what it told, what the adviser would have done, and what to take home. */
export function Debrief({ v }: { v: AttemptView }) {
  const nav = useNavigate();
  const [wrong, setWrong] = useState("");
  const d = v.debrief;
  const lost = useLost();
  const best = useQuery({
    queryKey: ["best", v.id],
    queryFn: () => must(api.GET("/api/training/attempts/{id}/best", { params: { path: { id: v.id } } })),
    enabled: !!d && !lost,
    staleTime: Infinity,
  });
  if (!d) return null;
  const again = async () => {
    try {
      const id = await begin(
        v.exercise === "random"
          ? { circuit: v.circuit.id, seed: v.seed, sometimes: v.sometimes }
          : { exercise: v.exercise },
      );
      void nav(`/training/${id}`);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const most = Math.max(...d.steps.map((s) => s.bits), 0.5);
  return (
    <>
      <section className={`card debrief ${d.danger ? "danger" : ""}`}>
        <p className="score" aria-label={words.score(d.score)}>
          {d.score}
        </p>
        <div>
          <h1>
            {d.danger
              ? words.stop
              : d.right_part
                ? d.right_fault
                  ? words.found
                  : words.theRightPart
                : words.notThisTime}
          </h1>
          <p>{d.says}</p>
          {d.danger && <p className="caution">⚠ {d.danger.caution}</p>}
          <p>
            <b>{words.toTakeHome}</b> {d.idea}
          </p>
          <p>
            <Button type="primary" onClick={() => void again()}>
              {words.theSameAgain}
            </Button>{" "}
            <Link to="/training">{words.anotherOne}</Link>
          </p>
          {wrong && (
            <p className="wrong" role="alert">
              {wrong}
            </p>
          )}
        </div>
      </section>
      <section className="card">
        <h2>{words.moveByMove}</h2>
        <ol className="debrief-steps">
          {d.steps.map((s) => (
            <li key={s.n}>
              <span>
                <b>{s.what}</b>
                <small>
                  {s.shown}
                  {s.minutes > 0 && words.min(Math.max(1, Math.round(s.minutes)))}
                </small>
              </span>
              <span
                className="bits"
                role="img"
                aria-label={words.toldTheTruePart(tells(s.bits), Math.round(100 * s.right))}
              >
                <i style={{ width: `${(100 * s.bits) / most}%` }} />
                <small>{words.toldTruePart(tells(s.bits), Math.round(100 * s.right))}</small>
              </span>
              <span>
                {s.idle && <small className="warn">{s.idle}</small>}
                {s.better && s.better !== s.what && (
                  <small>{words.theAdviser(s.better, s.why && `. ${s.why}`)}</small>
                )}
                {s.better && s.better === s.what && (
                  <small className="good-step">{words.asTheAdviserWould}</small>
                )}
              </span>
            </li>
          ))}
        </ol>
        {d.overlooked.length > 0 && (
          <p>
            <b>{words.notRuledOutWhen}</b> {d.overlooked.join("; ")}.
          </p>
        )}
        <p className="quiet">
          {words.onThisMachineYou(
            fixed(d.minutes, 0),
            fixed(d.adviser_minutes, 0),
            d.adviser_readings,
            fixed(d.textbook_minutes, 0),
          )}
        </p>
        <p className="quiet" role="status">
          {best.isFetching
            ? words.lookingForTheShortest
            : best.data
              ? words.withHindsightWouldHave(
                  fixed(best.data.minutes, 0),
                  fixed(best.data.minutes, 0) === "1" ? words.minute : words.minutes,
                  best.data.moves.join("; "),
                )
              : best.error
                ? best.error.message
                : words.noShortWayWas}
        </p>
      </section>
    </>
  );
}
