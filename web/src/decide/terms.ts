// What a job is decided by besides its evidence: the workshop's own terms, remembered on this device, and what belongs
// to the job, kept with it.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { Figures, Terms, Wishes } from "../api/client";
import { useApp } from "../app/context";
import { post, readTerms } from "../offline/sync";
import { useRested } from "../shared/hooks";

const usual: Terms = { hour_rate: 58, loss_per_day: 25, years: 4, comeback: 60, postage: 8 };
const kept = "corriente-terms";

function remembered(): Terms {
  try {
    const t = JSON.parse(localStorage.getItem(kept) ?? "null") as Terms | null;
    return t && typeof t.hour_rate === "number" ? { ...usual, ...t } : usual;
  } catch {
    return usual;
  }
}

/**
 * The workshop's terms: what its settings say, and where they say nothing yet, what was used last on this device. What
 * is typed beside a job is for the job in hand.
 */
export function useTerms() {
  const { hour_rate, loss_per_day, comeback, revision, currency } = useApp().me.workshop;
  const [terms, set] = useState<Terms>(() =>
    revision > 0 ? { ...remembered(), hour_rate, loss_per_day, comeback } : remembered(),
  );
  return {
    terms: useMemo(() => ({ ...terms, currency }), [terms, currency]),
    setTerms: (t: Terms) => {
      set(t);
      try {
        localStorage.setItem(kept, JSON.stringify(t));
      } catch {
        // A browser that keeps nothing still decides.
      }
    },
  };
}

/** What the customer wants and the figures typed for this job, kept with it a moment after they rest. */
export function useJobTerms(id: string, mayWrite: boolean) {
  const client = useQueryClient();
  const q = useQuery({
    queryKey: ["terms", id],
    queryFn: () => readTerms(id),
    staleTime: Infinity,
  });
  const [typed, setTyped] = useState<{ wishes: Wishes; with: Record<string, Figures> }>();
  const now = typed ?? q.data ?? { wishes: {}, with: {} };
  const keep = useMutation({
    mutationFn: (terms: typeof now) => post(id, { terms }, () => Promise.resolve(terms)),
    onSuccess: (v) => client.setQueryData(["terms", id], v),
  });
  const rested = useRested(typed, 500);
  const put = keep.mutate;
  useEffect(() => {
    if (rested && mayWrite) put(rested);
  }, [rested, mayWrite, put]);
  return {
    ready: q.isSuccess || q.isError,
    wishes: now.wishes,
    figures: now.with,
    setWishes: (wishes: Wishes) => setTyped({ ...now, wishes }),
    setFigures: (figures: Record<string, Figures>) => setTyped({ ...now, with: figures }),
    error: keep.error ?? q.error,
  };
}
