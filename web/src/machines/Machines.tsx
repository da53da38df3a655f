import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, must } from "../api/client";
import { Bar } from "../app/Bar";
import { rank } from "../find/find";
import { useBound } from "../app/keys";
import css from "./machines.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** Every machine that was brought in, found by a few letters. */
export default function Machines() {
  const [find, setFind] = useState("");
  const q = useQuery({ queryKey: ["machines"], queryFn: () => must(api.GET("/api/machines")) });
  useBound({ search: () => document.querySelector<HTMLInputElement>("#find-machine")?.focus() });
  const shown = rank(find, q.data ?? [], (m) => ({ head: m.name, rest: `${m.kind} ${m.place} ${m.note}` }));
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.machines}</h1>
      </Bar>
      <main className="page">
        <div className="tools">
          <Input
            id="find-machine"
            className="search"
            allowClear
            aria-label={words.searchMachines}
            placeholder={words.nameTypeOrPlace}
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        </div>
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        {q.data && shown.length === 0 && (
          <p className="empty">{find ? words.noMachineIsCalled(find) : words.noMachineWasHere}</p>
        )}
        <ul className={css.list}>
          {shown.map((m) => (
            <li key={m.id}>
              <Link to={`/machines/${m.id}`}>
                <b>{m.name}</b>
                <span>{m.kind}</span>
                <span>{m.place}</span>
                <span>{m.built ? words.built(m.built) : ""}</span>
              </Link>
            </li>
          ))}
        </ul>
      </main>
    </>
  );
}
