import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import { useJob } from "../job/job";
import { money } from "../shared/format";

/** What it came to in the end, against what was estimated. */
export function Costs() {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const last = job.decisions.at(-1);
  const [v, setV] = useState<{ parts?: number; minutes?: number; price?: number }>({});
  const client = useQueryClient();
  const kept = useQuery({
    queryKey: ["costs", job.id],
    queryFn: () => must(api.GET("/api/jobs/{id}/costs", { params: { path: { id: job.id } } })),
  });
  const put = useMutation({
    mutationFn: () =>
      must(
        api.PUT("/api/jobs/{id}/costs", {
          params: { path: { id: job.id } },
          body: {
            parts: v.parts ?? kept.data?.parts ?? 0,
            minutes: v.minutes ?? kept.data?.minutes ?? 0,
            price: v.price ?? kept.data?.price ?? 0,
          },
        }),
      ),
    onSuccess: (d) => client.setQueryData(["costs", job.id], d),
  });
  if (!last || !mayWrite) return null;
  const field = (k: "parts" | "minutes" | "price", label: string) => (
    <label>
      {label}
      <InputNumber
        min={0}
        max={1000000}
        value={v[k] ?? kept.data?.[k]}
        onChange={(x) => setV({ ...v, [k]: typeof x === "number" ? x : undefined })}
      />
    </label>
  );
  const now = kept.data;
  const off = now ? now.price - last.price : 0;
  return (
    <details className="card terms-card">
      <summary>What it came to in the end</summary>
      <div className="terms">
        {field("parts", "Parts")}
        {field("minutes", "Minutes of labour")}
        {field("price", "Charged")}
      </div>
      <p>
        <Button loading={put.isPending} disabled={v.price === undefined} onClick={() => put.mutate()}>
          Keep
        </Button>{" "}
        {now &&
          `✓ Kept: ${money(now.price)} against ${money(last.price)} estimated, ${off === 0 ? "as estimated" : off > 0 ? `${money(off)} more` : `${money(-off)} less`}.`}
      </p>
      {put.error && (
        <p className="wrong" role="alert">
          {put.error.message}
        </p>
      )}
    </details>
  );
}
