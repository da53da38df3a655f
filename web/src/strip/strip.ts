// A job's strip-down: its query and its writes, each of which answers with the whole record.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { StripView } from "../api/client";
import { hereStrip, post, readStrip } from "../offline/sync";
import * as words from "./words";

/** What an entry is, where it did not just come off. */
export const actWords: Record<string, string> = {
  unplugged: "unplugged",
  moved: words.movedAside,
  setting: words.doNotDisturb,
  mark: "mark",
  found: "found",
  work: words.doneBesides,
};

/** What an unsure line may be: the heading that says so. */
export const meanings: [act: string, head: string, label: string][] = [
  ["off", words.cameOff, words.cameOff],
  ["found", "found", words.foundLikeThis],
  ["work", "work", words.workDone],
];

/** A line with the heading that says what it is, in place of one it had. */
export function headed(text: string, head: string): string {
  return `${head}: ${text.replace(/^(came off|found|work):\s*/i, "")}`;
}

export interface Change {
  text?: string;
  struck?: boolean;
  back?: boolean;
  explained?: string;
  photo?: string;
  drop_photo?: string;
}

export function useStrip(job: string) {
  const client = useQueryClient();
  const key = ["strip", job];
  const q = useQuery({ queryKey: key, queryFn: () => readStrip(job) });
  const here = () => hereStrip(job);
  // One after the other: an answer that is late does not cover a newer one.
  const scope = { id: `strip ${job}` };
  const onSuccess = async (v: StripView) => {
    await client.cancelQueries({ queryKey: key }); // it was asked before this was stored
    client.setQueryData(key, v);
    void client.invalidateQueries({ queryKey: ["job", job] });
    void client.invalidateQueries({ queryKey: ["path", job] });
  };
  const add = useMutation({
    scope,
    mutationFn: (line: { id: string; text: string }) => post(job, { line }, here),
    onSuccess,
  });
  const change = useMutation({
    scope,
    mutationFn: (change: Change & { item: string }) => post(job, { change }, here),
    onSuccess,
  });
  const note = useMutation({
    scope,
    mutationFn: (note: { id: string; text: string; detail?: Record<string, unknown> }) =>
      post(job, { note }, here),
    onSuccess,
  });
  const dropNote = useMutation({
    scope,
    mutationFn: (id: string) => post(job, { drop_note: id }, here),
    onSuccess,
  });
  return { view: q.data, error: q.error, add, change, note, dropNote };
}
