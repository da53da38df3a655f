import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { api, must, type Option, type Part } from "../api/client";
import { useMoney } from "../app/context";
import { useRested } from "../shared/hooks";
import { Needs } from "../offline/Needs";

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
    <Needs what="Parts can be looked for">
      <div className="parts-for">
        <Input
          allowClear
          aria-label={`Find a part for: ${o.label}`}
          placeholder="Find the part: brush 7x11x16, bearing 20x47x14, starter"
          value={q}
          onChange={(e) => setQ(e.target.value)}
        />
        {found.isFetching && <p className="quiet">Asking the shelf and the supplier …</p>}
        {found.error && (
          <p className="wrong" role="alert">
            {found.error.message}
          </p>
        )}
        {found.data?.supplier && <p className="warn">{found.data.supplier}</p>}
        {found.data && found.data.parts.length === 0 && (
          <p className="quiet">Nothing of these words and measures. Fewer words, or type its price above.</p>
        )}
        <ul>
          {(found.data?.parts ?? []).slice(0, 8).map((p, i) => (
            <li key={i}>
              <span>
                <b>{p.name}</b>{" "}
                <small className="quiet">
                  {p.stock > 0 && p.days == null ? "on the shelf" : (p.supplier ?? "")}
                  {p.days != null ? ` · ${p.days} days` : p.stock > 0 ? "" : " · days not known"}
                  {p.stock === 0 && p.days == null ? " · out of stock" : ""}
                </small>
              </span>
              <b>{money(p.price, 2)}</b>
              <Button onClick={() => onTake(p)}>Take this</Button>
            </li>
          ))}
        </ul>
      </div>
    </Needs>
  );
}
