import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate } from "react-router";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import style from "./First.module.css";

/** What a new workshop does first, and the demo for a look; nothing once there is work. */
export function First() {
  const { mayManage, mayWrite } = useApp();
  const client = useQueryClient();
  const nav = useNavigate();
  const house = useQuery({ queryKey: ["house"], queryFn: () => must(api.GET("/api/house")), retry: false });
  const h = house.data;
  const done = (v: typeof h) => {
    client.setQueryData(["house"], v);
    void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "house" && q.queryKey[0] !== "me" });
  };
  const load = useMutation({ mutationFn: () => must(api.POST("/api/house/demo")), onSuccess: done });
  const drop = useMutation({ mutationFn: () => must(api.DELETE("/api/house/demo")), onSuccess: done });
  const wrong = load.error ?? drop.error;
  if (!h) return null;
  if (h.demo)
    return (
      <section className={style.demo} role="status">
        <span>
          <b>The demo is in, for a look:</b> its machines and jobs are made up. Taken out, all work goes, what
          you tried on it as well; people and settings stay.
        </span>
        {mayManage && (
          <Button loading={drop.isPending} onClick={() => drop.mutate()}>
            Take the demo out
          </Button>
        )}
        {wrong && (
          <p className="wrong" role="alert">
            {wrong.message}
          </p>
        )}
      </section>
    );
  if (h.work || !mayWrite) return null;
  const steps: [boolean, string, string][] = mayManage
    ? [
        [h.named, "The workshop’s name, prices and currency", "/settings"],
        [h.people > 1, "The people who work here", "/people"],
        [false, "Your meters, so that readings are weighed rightly", "/instruments"],
      ]
    : [];
  return (
    <section className={`card ${style.first}`}>
      <h2>Where to begin</h2>
      <Button type="primary" size="large" onClick={() => void nav("/start")}>
        The first machine is here: start a job
      </Button>
      {steps.length > 0 && (
        <ul>
          {steps.map(([done, what, to]) => (
            <li key={to}>
              <span aria-hidden>{done ? "✓" : "○"}</span> <Link to={to}>{what}</Link>
              {done && <span className="quiet"> done</span>}
            </li>
          ))}
        </ul>
      )}
      {h.may_demo && mayManage && (
        <p>
          Only looking?{" "}
          <Button loading={load.isPending} onClick={() => load.mutate()}>
            Load the demo
          </Button>{" "}
          <span className="quiet">
            A made-up workshop with machines and jobs; it is taken out again with one touch.
          </span>
        </p>
      )}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong.message}
        </p>
      )}
    </section>
  );
}
