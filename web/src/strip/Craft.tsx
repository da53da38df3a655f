import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { useApp } from "../app/context";
import { useRested } from "../shared/hooks";
import { newId } from "../shared/id";
import { Needs } from "../offline/Needs";
import { readKept, useLost } from "../offline/sync";
import * as words from "./words";
import Input from "antd/es/input/Input";
import TextArea from "antd/es/input/TextArea";

/** Short notes of the craft, searchable, with room for the workshop's own. */
export function Craft() {
  const { mayWrite } = useApp();
  const client = useQueryClient();
  const [q, setQ] = useState("");
  const asked = useRested(q, 150);
  const lost = useLost();
  const [belongs, setBelongs] = useState("");
  const [text, setText] = useState("");
  const list = useQuery({
    queryKey: ["craft", asked],
    queryFn: () =>
      readKept(`craft ${asked}`, () =>
        must(api.GET("/api/craft-notes", { params: { query: { q: asked } } })),
      ),
  });
  const done = () => {
    void client.invalidateQueries({ queryKey: ["craft"] });
    void client.invalidateQueries({ queryKey: ["strip"] });
  };
  const put = useMutation({
    mutationFn: () =>
      must(
        api.PUT("/api/craft-notes/{id}", {
          params: { path: { id: newId() } },
          body: { words: belongs, text },
        }),
      ),
    onSuccess: () => {
      setBelongs("");
      setText("");
      done();
    },
  });
  const drop = useMutation({
    mutationFn: (id: string) => must(api.DELETE("/api/craft-notes/{id}", { params: { path: { id } } })),
    onSuccess: done,
  });
  const error = list.error ?? put.error ?? drop.error;
  return (
    <div className="craft">
      <Input
        allowClear
        aria-label={words.searchTheNotes}
        placeholder={words.bearingCirclipLongBolts}
        value={q}
        onChange={(e) => setQ(e.target.value)}
      />
      <ul>
        {(list.data ?? []).map((n) => (
          <li key={n.id}>
            {n.text}{" "}
            {n.own && (
              <>
                <span className="tag">{words.ours((n.words ?? []).join(", "))}</span>
                {mayWrite && (
                  <button type="button" className="link" disabled={lost} onClick={() => drop.mutate(n.id)}>
                    {words.takeAway}
                  </button>
                )}
              </>
            )}
          </li>
        ))}
      </ul>
      {list.data?.length === 0 && <p className="quiet">{words.noNoteSaysThis}</p>}
      {mayWrite && (
        <Needs what={words.aNoteCanBe}>
          <div className="craft-own">
            <Input
              aria-label={words.wordsItBelongsTo}
              placeholder={words.standsBesideTailLift}
              maxLength={200}
              value={belongs}
              onChange={(e) => setBelongs(e.target.value)}
            />
            <TextArea
              aria-label={words.noteOfTheCraft}
              placeholder={words.whatTheNextOne}
              maxLength={600}
              autoSize={{ minRows: 2 }}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <Button
              disabled={belongs.trim().length < 2 || text.trim().length < 3}
              loading={put.isPending}
              onClick={() => put.mutate()}
            >
              {words.addOurOwnNote}
            </Button>
          </div>
        </Needs>
      )}
      {error && (
        <p className="wrong" role="alert">
          {error.message}
        </p>
      )}
    </div>
  );
}
