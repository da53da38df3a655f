import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef, useState } from "react";
import { api, must, type Mark } from "../api/client";
import { useApp } from "../app/context";
import { useJob } from "../job/job";
import { newId } from "../shared/id";
import { upload } from "../shared/photo";
import { Needs } from "../offline/Needs";
import { useLost } from "../offline/sync";
import * as words from "./words";
import Input from "antd/es/input/Input";

const fields: [keyof Mark, string, string][] = [
  ["colour", words.wireColour, "brown/white"],
  ["connector", words.connector, "C4"],
  ["pin", words.pin, "2"],
  ["fuse", words.fusePosition, "F12"],
  ["place", words.place, words.behindTheLeftKick],
];

/** What the wiring diagram says of a point: once, for this type of machine. */
export function Marks({ at, label }: { at: string; label: string }) {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const lost = useLost();
  const client = useQueryClient();
  const mark: Mark = job.marks[at] ?? {};
  const [edit, setEdit] = useState<Mark | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const done = () => {
    setEdit(null);
    void client.invalidateQueries({ queryKey: ["job", job.id] });
  };
  const save = useMutation({
    mutationFn: (m: Mark) =>
      must(api.PUT("/api/jobs/{id}/marks/{at}", { params: { path: { id: job.id, at } }, body: m })),
    onSuccess: done,
  });
  const photo = useMutation({
    mutationFn: async (f: File) => {
      const id = newId();
      await upload(id, f);
      return must(
        api.PUT("/api/jobs/{id}/marks/{at}", {
          params: { path: { id: job.id, at } },
          body: { ...mark, photo: id, x: 0, y: 0 },
        }),
      );
    },
    onSuccess: done,
  });
  const known = fields.filter(([k]) => mark[k]);
  const error = save.error ?? photo.error;
  return (
    <div className="marks">
      <h4>{label}</h4>
      {!edit && (
        <p>
          {known.length > 0
            ? known.map(([k, l]) => `${l.toLowerCase()} ${String(mark[k])}`).join(", ")
            : words.nothingFromTheWiring}{" "}
          {mayWrite && (
            <button
              type="button"
              className="link"
              disabled={lost}
              title={lost ? words.needsTheConnection : undefined}
              onClick={() => setEdit(mark)}
            >
              {known.length > 0 ? words.change : words.enter}
            </button>
          )}
        </p>
      )}
      {edit && (
        <Needs what={words.itCanBeKept}>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              save.mutate(edit);
            }}
          >
            {fields.map(([k, l, hint]) => (
              <label key={k}>
                {l}
                <Input
                  placeholder={hint}
                  value={(edit[k] as string | undefined) ?? ""}
                  onChange={(e) => setEdit({ ...edit, [k]: e.target.value })}
                />
              </label>
            ))}
            <Button type="primary" htmlType="submit" loading={save.isPending}>
              {words.keepForEvery(job.machine.kind || words.machineLikeThis)}
            </Button>
            <Button onClick={() => file.current?.click()} loading={photo.isPending}>
              {mark.photo ? words.anotherPhoto : words.photoOfTheDiagram}
            </Button>
            <input
              ref={file}
              type="file"
              accept="image/jpeg,image/png"
              hidden
              onChange={(e) => {
                const f = e.target.files?.[0];
                e.target.value = "";
                if (f) photo.mutate(f);
              }}
            />
          </form>
        </Needs>
      )}
      {mark.photo && (
        <button
          type="button"
          className="diagram"
          title={mayWrite ? words.touchThePlaceTo : undefined}
          onClick={(e) => {
            if (!mayWrite) return;
            const r = e.currentTarget.getBoundingClientRect();
            save.mutate({ ...mark, x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height });
          }}
        >
          <img src={`/api/photos/${mark.photo}`} alt={words.wiringDiagramAt(label)} />
          {(mark.x ?? 0) + (mark.y ?? 0) > 0 && (
            <i style={{ left: `${(mark.x ?? 0) * 100}%`, top: `${(mark.y ?? 0) * 100}%` }} aria-hidden />
          )}
        </button>
      )}
      {error && (
        <p className="wrong" role="alert">
          {error.message}
        </p>
      )}
    </div>
  );
}
