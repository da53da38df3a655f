import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate } from "react-router";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import style from "./First.module.css";
import * as words from "./words";

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
          <b>{words.theDemoIsIn}</b> {words.itsMachinesAndJobs}
        </span>
        {mayManage && (
          <Button loading={drop.isPending} onClick={() => drop.mutate()}>
            {words.takeTheDemoOut}
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
        [h.named, words.theWorkshopSName, "/settings"],
        [h.people > 1, words.thePeopleWhoWork, "/people"],
        [false, words.yourMetersSoThat, "/instruments"],
      ]
    : [];
  return (
    <section className={`card ${style.first}`}>
      <h2>{words.whereToBegin}</h2>
      <Button type="primary" size="large" onClick={() => void nav("/start")}>
        {words.theFirstMachineIs}
      </Button>
      {steps.length > 0 && (
        <ul>
          {steps.map(([done, what, to]) => (
            <li key={to}>
              <span aria-hidden>{done ? "✓" : "○"}</span> <Link to={to}>{what}</Link>
              {done && <span className="quiet"> {words.done}</span>}
            </li>
          ))}
        </ul>
      )}
      {h.may_demo && mayManage && (
        <p>
          {words.onlyLooking}{" "}
          <Button loading={load.isPending} onClick={() => load.mutate()}>
            {words.loadTheDemo}
          </Button>{" "}
          <span className="quiet">{words.aMadeUpWorkshop}</span>
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
