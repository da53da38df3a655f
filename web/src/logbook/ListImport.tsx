import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef, useState } from "react";
import { api, must } from "../api/client";
import { useApp, useMoney } from "../app/context";
import { fixed } from "../shared/written";
import { useRested } from "../shared/hooks";
import * as words from "./words";
import Input from "antd/es/input/Input";

interface Read {
  lines: { n: number; wrong?: string; remark?: string; says: string }[];
  good: number;
  wrong: number;
  kept: number;
}

const text = {
  parts: {
    head: words.priceLists,
    says: words.aCsvWhoseFirst,
  },
  old: {
    head: words.anOldListOf,
    says: words.aCsvWhoseFirstLine,
  },
};

/** A list brought in: read line by line first, kept only when no line is wrong. */
export function ListImport({ what }: { what: "parts" | "old" }) {
  const money = useMoney();
  const { mayWrite } = useApp();
  const picker = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File>();
  const [supplier, setSupplier] = useState("");
  const [q, setQ] = useState("");
  const asked = useRested(q, 300);
  const send = async (f: File, keep: boolean): Promise<Read> => {
    const opts = {
      body: await f.text(),
      bodySerializer: (b: string) => b,
      headers: { "Content-Type": "text/csv" },
    };
    if (what === "parts") {
      const r = await must(api.PUT("/api/parts", { params: { query: { keep, supplier } }, ...opts }));
      return {
        ...r,
        lines: r.lines.map((l) => ({
          ...l,
          says: l.part
            ? `${l.part.name}, ${fixed(l.part.price, 2)}${l.part.days != null ? words.days(l.part.days) : ""}`
            : "",
        })),
      };
    }
    const r = await must(api.PUT("/api/logbook/import", { params: { query: { keep } }, ...opts }));
    return {
      ...r,
      lines: r.lines.map((l) => ({ ...l, says: `${l.on.slice(0, 10)} ${l.machine}: ${l.what || l.done}` })),
    };
  };
  const read = useMutation({ mutationFn: ({ f, keep }: { f: File; keep: boolean }) => send(f, keep) });
  const parts = useQuery({
    queryKey: ["parts", asked],
    queryFn: () => must(api.GET("/api/parts", { params: { query: { q: asked } } })),
    enabled: what === "parts",
  });
  const r = read.data;
  return (
    <section className="card list-import">
      <h2>{text[what].head}</h2>
      <p>{text[what].says}</p>
      {mayWrite && (
        <div className="tools">
          {what === "parts" && (
            <Input
              aria-label={words.whoseListItIs}
              placeholder={words.listImportWhoseListItIs}
              maxLength={80}
              value={supplier}
              onChange={(e) => setSupplier(e.target.value)}
            />
          )}
          <Button loading={read.isPending} onClick={() => picker.current?.click()}>
            {words.chooseTheCsv}
          </Button>
          <input
            ref={picker}
            type="file"
            accept=".csv,.txt,text/csv"
            hidden
            aria-label={what === "parts" ? words.csvOfParts : words.csvOfOldJobs}
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (!f) return;
              setFile(f);
              read.mutate({ f, keep: false });
            }}
          />
          {r && r.kept === 0 && (
            <Button
              type="primary"
              disabled={r.wrong > 0 || r.good === 0}
              onClick={() => file && read.mutate({ f: file, keep: true })}
            >
              {words.keepLines(r.good)}
            </Button>
          )}
        </div>
      )}
      {read.error && (
        <p className="wrong" role="alert">
          {read.error.message}
        </p>
      )}
      {r && (
        <>
          <p role="status">
            {r.kept > 0
              ? words.linesKept(r.kept)
              : r.wrong > 0
                ? words.ofLinesAreWrong(r.wrong, r.good + r.wrong)
                : words.linesCanBeKept(r.good)}
          </p>
          <ul className="list-lines">
            {r.lines.slice(0, 200).map((l) => (
              <li key={l.n}>
                <small className="quiet">{words.line(l.n)}</small>{" "}
                {l.wrong ? <b className="wrong">{l.wrong}</b> : l.says}
                {l.remark && <span className="warn">{l.remark}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
      {what === "parts" && (
        <>
          <h2>{words.findAPart}</h2>
          <Input
            allowClear
            aria-label={words.findAPart}
            placeholder={words.brush7x11x16Bearing20x47x14}
            value={q}
            onChange={(e) => setQ(e.target.value)}
          />
          {parts.data?.supplier && <p className="warn">{parts.data.supplier}</p>}
          <ul className="list-lines found-parts">
            {(parts.data?.parts ?? []).slice(0, 30).map((p, i) => (
              <li key={i}>
                <b>{p.name}</b> {p.price > 0 && <span>{money(p.price, 2)}</span>}
                <small className="quiet">
                  {[
                    p.supplier,
                    p.stock > 0 ? words.there(p.stock) : words.outOfStock,
                    p.days != null ? words.delivery(p.days) : "",
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </small>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
