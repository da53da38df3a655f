// A job's strip-down: its query and its writes, each of which answers with the whole record.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, must, type StripView } from "../api/client";

/** What an entry is, where it did not just come off. */
export const actWords: Record<string, string> = {
  unplugged: "unplugged",
  moved: "moved aside",
  setting: "do not disturb",
  mark: "mark",
  found: "found",
  work: "done besides",
};

/** What an unsure line may be: the heading that says so. */
export const meanings: [act: string, head: string, label: string][] = [
  ["off", "came off", "came off"],
  ["found", "found", "found like this"],
  ["work", "work", "work done"],
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
  const path = { id: job };
  const q = useQuery({
    queryKey: key,
    queryFn: () => must(api.GET("/api/jobs/{id}/strip", { params: { path } })),
  });
  const onSuccess = (v: StripView) => {
    client.setQueryData(key, v);
    void client.invalidateQueries({ queryKey: ["job", job] });
  };
  const add = useMutation({
    mutationFn: (body: { id: string; text: string }) =>
      must(api.POST("/api/jobs/{id}/strip", { params: { path }, body })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ item, ...body }: Change & { item: string }) =>
      must(api.PATCH("/api/jobs/{id}/strip/{item}", { params: { path: { id: job, item } }, body })),
    onSuccess,
  });
  const note = useMutation({
    mutationFn: (body: { id: string; text: string; detail?: Record<string, unknown> }) =>
      must(api.POST("/api/jobs/{id}/notes", { params: { path }, body })),
    onSuccess,
  });
  const dropNote = useMutation({
    mutationFn: (id: string) =>
      must(api.DELETE("/api/jobs/{id}/notes/{note}", { params: { path: { id: job, note: id } } })),
    onSuccess,
  });
  return { view: q.data, error: q.error, add, change, note, dropNote };
}
