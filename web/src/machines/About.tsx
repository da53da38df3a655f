import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, Refused, type Machine } from "../api/client";
import { useApp } from "../app/context";
import css from "./machines.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";

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
  const says = [m.kind, m.place, m.built ? words.built(m.built) : ""].filter(Boolean).join(" · ");
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
            {m.built ? words.change : words.sayWhenItWas}
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
          ["name", words.name, m.name],
          ["kind", words.type, m.kind],
          ["place", words.whereItStands, m.place],
          ["note", words.note, m.note],
          ["built", words.builtInYear, m.built ? String(m.built) : ""],
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
          {words.keep}
        </Button>
        {save.error instanceof Refused && save.error.status === 412 && (
          <Button
            onClick={(e) => {
              const form = e.currentTarget.closest("form");
              if (form) save.mutate({ f: new FormData(form), over: true });
            }}
          >
            {words.keepMineOverTheirs}
          </Button>
        )}
        <Button onClick={() => setOpen(false)}>{words.cancel}</Button>
      </div>
    </form>
  );
}
