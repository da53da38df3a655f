import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, type Option, type Part } from "../api/client";
import { useMoney } from "../app/context";
import { useRested } from "../shared/hooks";
import { Needs } from "../offline/Needs";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** Where the part is to be had: shelf, price lists and the supplier, by what it is and what it measures. */
export function PartsFor({ o, onTake }: { o: Option; onTake: (p: Part) => void }) {
  const money = useMoney();
  const [q, setQ] = useState("");
  const asked = useRested(q.trim(), 350);
  const found = useQuery({
    queryKey: ["parts", asked],
    queryFn: () => must(api.GET("/api/parts", { params: { query: { q: asked } } })),
    enabled: asked.length > 1,
  });
  return (
    <Needs what={words.partsCanBeLooked}>
      <div className="parts-for">
        <Input
          allowClear
          aria-label={words.findAPartFor(o.label)}
          placeholder={words.findThePartBrush}
          value={q}
          onChange={(e) => setQ(e.target.value)}
        />
        {found.isFetching && <p className="quiet">{words.askingTheShelfAnd}</p>}
        {found.error && (
          <p className="wrong" role="alert">
            {found.error.message}
          </p>
        )}
        {found.data?.supplier && <p className="warn">{found.data.supplier}</p>}
        {found.data && found.data.parts.length === 0 && <p className="quiet">{words.nothingOfTheseWords}</p>}
        <ul>
          {(found.data?.parts ?? []).slice(0, 8).map((p, i) => (
            <li key={i}>
              <span>
                <b>{p.name}</b>{" "}
                <small className="quiet">
                  {p.stock > 0 && p.days == null ? words.onTheShelf : (p.supplier ?? "")}
                  {p.days != null ? words.days(p.days) : p.stock > 0 ? "" : words.daysNotKnown}
                  {p.stock === 0 && p.days == null ? words.outOfStock : ""}
                </small>
              </span>
              <b>{money(p.price, 2)}</b>
              <Button onClick={() => onTake(p)}>{words.takeThis}</Button>
            </li>
          ))}
        </ul>
      </div>
    </Needs>
  );
}
