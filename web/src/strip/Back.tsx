import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useApp } from "../app/context";
import { useBound } from "../app/keys";
import { useJob } from "../job/job";
import { Photos } from "./Photos";
import { written } from "../shared/written";
import { actWords, useStrip } from "./strip";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** The strip-down in reverse, ticked off; what is not ticked must be explained. */
export default function Back() {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const strip = useStrip(job.id);
  const [why, setWhy] = useState<{ id: string; text: string }>();
  // In the order of putting back, which is the server's: a mark comes before what it is for.
  const byId = new Map((strip.view?.items ?? []).map((i) => [i.id, i]));
  const items = (strip.view?.back ?? []).map((id) => byId.get(id)).filter((i) => i !== undefined);
  const left = strip.view?.left ?? [];
  const next = items.find((i) => left.includes(i.id));
  useBound({
    backNext: () => {
      if (!next || !mayWrite || document.activeElement instanceof HTMLButtonElement) return false;
      strip.change.mutate({ item: next.id, back: true });
    },
  });
  const error = strip.error ?? strip.change.error;
  // Nobody is told that nothing is left over before it is known what came off.
  if (!strip.view)
    return error ? (
      <main className="page narrow">
        <p className="wrong" role="alert">
          {error.message}
        </p>
      </main>
    ) : (
      <p className="quiet centred">{words.readingTheStripDown}</p>
    );
  if (items.length === 0)
    return (
      <main className="page narrow">
        <h1>{words.nothingCameOff}</h1>
        <p>
          {words.whatIsPutDown} <Link to="../strip">{words.stripDown}</Link> {words.standsHereInReverse}
        </p>
      </main>
    );
  return (
    <main className="page columns back">
      <section>
        <h1 role="status">
          {left.length === 0 ? words.allBackNothingLeft : words.ofStillToGo(left.length, items.length)}
        </h1>
        {error && (
          <p className="wrong" role="alert">
            {error.message}
          </p>
        )}
        <ol className="back-list">
          {items.map((it) => {
            const e = it.entry;
            const on = !!it.back_at;
            return (
              <li key={it.id} className={`back-item ${on ? "ticked" : ""} ${it === next ? "next-up" : ""}`}>
                <button
                  type="button"
                  className="tick"
                  role="checkbox"
                  aria-checked={on}
                  aria-label={words.isBack(e.text)}
                  disabled={!mayWrite}
                  onClick={() => strip.change.mutate({ item: it.id, back: !on })}
                >
                  {on ? "✓" : ""}
                </button>
                <div>
                  <p>
                    {actWords[e.act] && <b className="act">{actWords[e.act]} </b>}
                    {e.count > 1 && <b>{e.count} × </b>}
                    {e.size && <b>{e.size} </b>}
                    {e.stack.length > 0 ? e.stack.join(", ") : e.what}
                    {e.warnings.map((w) => (
                      <span key={w} className="tag warned">
                        ! {w}
                      </span>
                    ))}
                  </p>
                  {it.back && <p className="how">{written(it.back)}</p>}
                  {it === next &&
                    e.notes.slice(0, 1).map((n) => (
                      <p key={n.id} className="note">
                        {n.text}
                      </p>
                    ))}
                  {it.explained && <p className="quiet">{words.notBack(it.explained)}</p>}
                  {why?.id === it.id && (
                    <span className="explain">
                      <Input
                        autoFocus
                        aria-label={words.whyItDoesNot}
                        placeholder={words.replacedByANew}
                        maxLength={300}
                        value={why.text}
                        onChange={(x) => setWhy({ id: it.id, text: x.target.value })}
                        onPressEnter={() => {
                          strip.change.mutate({ item: it.id, explained: why.text });
                          setWhy(undefined);
                        }}
                      />
                    </span>
                  )}
                </div>
                <Photos job={job.id} ids={it.photos} label={e.what || e.text} />
                {mayWrite && !on && why?.id !== it.id && (
                  <button
                    type="button"
                    className="link"
                    onClick={() => setWhy({ id: it.id, text: it.explained })}
                  >
                    {words.doesNotGoBack}
                  </button>
                )}
              </li>
            );
          })}
        </ol>
      </section>
      <section className="card">
        <h2>{words.beforeItIsCalled}</h2>
        {left.length > 0 ? (
          <p>
            <b>{words.thingsAreNeitherBack(left.length)}</b> {words.untilThenItCannot}
          </p>
        ) : (
          <p>
            {words.everythingIsBackOr} <Link to="../prove">{words.proveIt}</Link>
          </p>
        )}
        {strip.view.relearn.length > 0 && (
          <>
            <h3>{words.itWasOffThe}</h3>
            <ul>
              {strip.view.relearn.map((r) => (
                <li key={r}>{r}</li>
              ))}
            </ul>
          </>
        )}
        <h3>{words.always}</h3>
        <ul>
          {strip.view.last.map((x) => (
            <li key={x}>{x}.</li>
          ))}
        </ul>
        {mayWrite && next && (
          <Button
            type="primary"
            size="large"
            onClick={() => strip.change.mutate({ item: next.id, back: true })}
          >
            {words.isBackWithStack(next.entry.stack[0] ?? next.entry.what)} <kbd>Enter</kbd>
          </Button>
        )}
      </section>
    </main>
  );
}
