import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { api, must, Refused, type Machine } from "../api/client";
import { useApp } from "../app/context";
import css from "./machines.module.css";

/** What is said of a machine; its kind and age decide which jobs it is compared with. */
export function About({ machine: m }: { machine: Machine }) {
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  // What stood there when the form was opened: a change that somebody makes meanwhile is not overwritten unseen.
  const [read, setRead] = useState("");
  const save = useMutation({
    mutationFn: ({ f, over }: { f: FormData; over?: boolean }) => {
      const text = (k: string) => {
        const v = f.get(k);
        return typeof v === "string" ? v.trim() : "";
      };
      return must(
        api.PUT("/api/machines/{id}", {
          params: { path: { id: m.id } },
          body: {
            name: text("name"),
            kind: text("kind"),
            place: text("place"),
            note: text("note"),
            built: Math.round(Number(text("built"))) || 0,
            revision: over ? "" : read,
          },
        }),
      );
    },
    onSuccess: () => {
      setOpen(false);
      for (const key of ["machines", "machine", "board", "logbook", "job"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
  const says = [m.kind, m.place, m.built ? `built ${m.built}` : ""].filter(Boolean).join(" · ");
  if (!open)
    return (
      <p>
        {says}{" "}
        {mayWrite && (
          <button
            type="button"
            className="link"
            onClick={() => {
              setRead(m.revision);
              setOpen(true);
            }}
          >
            {m.built ? "Change" : "Say when it was built"}
          </button>
        )}
      </p>
    );
  return (
    <form
      className={`card ${css.about}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ f: new FormData(e.currentTarget) });
      }}
    >
      {(
        [
          ["name", "Name", m.name],
          ["kind", "Type", m.kind],
          ["place", "Where it stands", m.place],
          ["note", "Note", m.note],
          ["built", "Built in (year)", m.built ? String(m.built) : ""],
        ] as const
      ).map(([k, label, value]) => (
        <label key={k}>
          {label}
          <Input
            name={k}
            defaultValue={value}
            maxLength={k === "built" ? 4 : 60}
            inputMode={k === "built" ? "numeric" : "text"}
            autoFocus={k === "built"}
          />
        </label>
      ))}
      {save.error && (
        <p className="wrong" role="alert">
          {save.error.message}
        </p>
      )}
      <div className="tools">
        <Button type="primary" htmlType="submit" loading={save.isPending}>
          Keep
        </Button>
        {save.error instanceof Refused && save.error.status === 412 && (
          <Button
            onClick={(e) => {
              const form = e.currentTarget.closest("form");
              if (form) save.mutate({ f: new FormData(form), over: true });
            }}
          >
            Keep mine over theirs
          </Button>
        )}
        <Button onClick={() => setOpen(false)}>Leave as it is</Button>
      </div>
    </form>
  );
}
