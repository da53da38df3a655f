import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { api, must, type RepairView } from "../api/client";
import { useApp, useMoney } from "../app/context";
import { useJob } from "../job/job";
import { post, readKept } from "../offline/sync";
import * as words from "./words";

type Kept = { parts: number; minutes: number; price: number; repair: string };

/** What each repair came to in the end, against what was estimated. */
export function Costs() {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const kept = useQuery({
    queryKey: ["costs", job.id],
    queryFn: () =>
      readKept<Kept[]>(`costs ${job.id}`, () =>
        must(api.GET("/api/jobs/{id}/costs", { params: { path: { id: job.id } } })),
      ),
  });
  const worked = job.work.filter((w) => w.status !== "changed" && w.option !== "leave");
  if (worked.length === 0 || !mayWrite) return null;
  return (
    <details className="card terms-card">
      <summary>{words.whatItCameTo}</summary>
      {worked.map((r) => (
        <Of key={r.id} r={r} now={kept.data?.find((c) => c.repair === r.id)} named={worked.length > 1} />
      ))}
    </details>
  );
}

function Of({ r, now, named }: { r: RepairView; now?: Kept; named: boolean }) {
  const money = useMoney();
  const { job } = useJob();
  const client = useQueryClient();
  const [v, setV] = useState<{ parts?: number; minutes?: number; price?: number }>({});
  const entered: Kept = {
    repair: r.id,
    parts: v.parts ?? now?.parts ?? 0,
    minutes: v.minutes ?? now?.minutes ?? 0,
    price: v.price ?? now?.price ?? 0,
  };
  const put = useMutation({
    mutationFn: () => post(job.id, { costs: entered }, () => Promise.resolve(entered)),
    onSuccess: () => {
      client.setQueryData<Kept[]>(["costs", job.id], (old) => [
        ...(old ?? []).filter((c) => c.repair !== r.id),
        entered,
      ]);
      void client.invalidateQueries({ queryKey: ["paper", job.id] });
    },
  });
  const field = (k: "parts" | "minutes" | "price", label: string) => (
    <label>
      {label}
      <InputNumber
        min={0}
        max={1000000}
        value={v[k] ?? now?.[k]}
        onChange={(x) => setV({ ...v, [k]: typeof x === "number" ? x : undefined })}
      />
    </label>
  );
  const off = now && r.price !== undefined ? now.price - r.price : 0;
  return (
    <>
      {named && <h3>{r.parts}</h3>}
      <div className="terms">
        {field("parts", words.parts)}
        {field("minutes", words.minutesOfLabour)}
        {field("price", words.charged)}
      </div>
      <p>
        <Button loading={put.isPending} disabled={v.price === undefined} onClick={() => put.mutate()}>
          {words.keep}
        </Button>{" "}
        {now &&
          `✓ Kept: ${money(now.price)}${
            r.price === undefined
              ? ""
              : words.againstEstimated(
                  money(r.price),
                  off === 0 ? words.asEstimated : off > 0 ? words.more(money(off)) : words.less(money(-off)),
                )
          }.`}
      </p>
      {put.error && (
        <p className="wrong" role="alert">
          {put.error.message}
        </p>
      )}
    </>
  );
}
