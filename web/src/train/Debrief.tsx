import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, must, type AttemptView } from "../api/client";
import { useLost } from "../offline/sync";
import { tells } from "../shared/format";
import { begin } from "./attempt";
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
        <p className="score" aria-label={`Score ${d.score}`}>
          {d.score}
        </p>
        <div>
          <h1>
            {d.danger
              ? "Stop."
              : d.right_part
                ? d.right_fault
                  ? "Found."
                  : "The right part."
                : "Not this time."}
          </h1>
          <p>{d.says}</p>
          {d.danger && <p className="caution">⚠ {d.danger.caution}</p>}
          <p>
            <b>To take home:</b> {d.idea}
          </p>
          <p>
            <Button type="primary" onClick={() => void again()}>
              The same again
            </Button>{" "}
            <Link to="/training">Another one</Link>
          </p>
          {wrong && (
            <p className="wrong" role="alert">
              {wrong}
            </p>
          )}
        </div>
      </section>
      <section className="card">
        <h2>Move by move</h2>
        <ol className="debrief-steps">
          {d.steps.map((s) => (
            <li key={s.n}>
              <span>
                <b>{s.what}</b>
                <small>
                  {s.shown}
                  {s.minutes > 0 && ` · ${Math.max(1, Math.round(s.minutes))} min`}
                </small>
              </span>
              <span
                className="bits"
                role="img"
                aria-label={`told ${tells(s.bits)}; the true part is then at ${Math.round(100 * s.right)} per cent`}
              >
                <i style={{ width: `${(100 * s.bits) / most}%` }} />
                <small>
                  told {tells(s.bits)} · true part {Math.round(100 * s.right)} %
                </small>
              </span>
              <span>
                {s.idle && <small className="warn">{s.idle}</small>}
                {s.better && s.better !== s.what && (
                  <small>
                    The adviser: {s.better}
                    {s.why && `. ${s.why}`}
                  </small>
                )}
                {s.better && s.better === s.what && (
                  <small className="good-step">✓ as the adviser would</small>
                )}
              </span>
            </li>
          ))}
        </ol>
        {d.overlooked.length > 0 && (
          <p>
            <b>Not ruled out when you decided:</b> {d.overlooked.join("; ")}.
          </p>
        )}
        <p className="quiet">
          On this machine: you {fixed(d.minutes, 0)} minutes, the adviser {fixed(d.adviser_minutes, 0)} with{" "}
          {d.adviser_readings} readings and looks, the textbook’s order {fixed(d.textbook_minutes, 0)}.
        </p>
        <p className="quiet" role="status">
          {best.isFetching
            ? "Looking for the shortest way there was …"
            : best.data
              ? `With hindsight ${fixed(best.data.minutes, 0)} ${fixed(best.data.minutes, 0) === "1" ? "minute" : "minutes"} would have done: ${best.data.moves.join("; ")}.`
              : best.error
                ? best.error.message
                : "No short way was found, even with hindsight."}
        </p>
      </section>
    </>
  );
}
