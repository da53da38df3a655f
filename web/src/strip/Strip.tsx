import { Button, Input, type InputRef } from "antd";
import { useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { StripItem } from "../api/client";
import { useApp } from "../app/context";
import { evidence, useJob, useWrites } from "../job/job";
import { newId } from "../shared/id";
import { Bench } from "./Bench";
import { Craft } from "./Craft";
import { Photos } from "./Photos";
import { written } from "../shared/written";
import { actWords, headed, meanings, useStrip } from "./strip";
import { Tabs } from "../shared/Tabs";

const chips = [
  "2x ",
  "bolt",
  "screw",
  "nut",
  "washer",
  "unplug ",
  "moved: ",
  "mark: ",
  "do not turn",
  "M6",
  "8 mm",
  "10 mm",
];

/** What came off, in order: one line and one key each. Beside it what is inside, the bench and the craft. */
export default function Strip() {
  const { job } = useJob();
  const { mayWrite } = useApp();
  const strip = useStrip(job.id);
  const [text, setText] = useState("");
  const [edit, setEdit] = useState<string>();
  const [pending, setPending] = useState<{ id: string; text: string }[]>([]);
  const [search, setSearch] = useSearchParams();
  const tab = (["bench", "craft"] as const).find((t) => t === search.get("beside")) ?? "inside";
  const field = useRef<InputRef>(null);
  const items = strip.view?.items ?? [];
  const held = items.filter((i) => !i.struck);
  const last = held.at(-1);
  const put = () => {
    const t = text.trim();
    if (!t) return;
    if (edit) strip.change.mutate({ item: edit, text: t });
    else {
      // It stands in the list at once; what is refused comes back into the field.
      const line = { id: newId(), text: t };
      setPending((p) => [...p, line]);
      void strip.add
        .mutateAsync(line)
        .catch(() => setText((now) => now || t))
        .finally(() => setPending((p) => p.filter((x) => x.id !== line.id)));
    }
    setText("");
    setEdit(undefined);
    field.current?.focus();
  };
  const error = strip.error ?? strip.add.error ?? strip.change.error;
  const notes = last?.entry.notes ?? [];
  return (
    <main className="page columns stripdown">
      <section className="strip-record" aria-label="What came off">
        {mayWrite && (
          <div className="strip-entry">
            <Input
              ref={field}
              autoFocus
              size="large"
              aria-label="What came off"
              placeholder="What came off next? 2x 8 mm long bolt, thin"
              maxLength={300}
              value={text}
              onChange={(e) => setText(e.target.value)}
              onPressEnter={put}
              onKeyDown={(e) => {
                if (e.key === "Escape") {
                  if (!text) e.currentTarget.blur(); // then keys go to the page
                  setText("");
                  setEdit(undefined);
                }
              }}
            />
            <Button size="large" type="primary" disabled={!text.trim()} onClick={put}>
              {edit ? "Change" : `Put down ${held.length + pending.length + 1}`}
            </Button>
            <div className="chips" role="group" aria-label="Words">
              {chips.map((c) => (
                <button
                  key={c}
                  type="button"
                  className="chip"
                  onClick={() => {
                    setText((t) => (t && !t.endsWith(" ") ? `${t} ${c}` : t + c));
                    field.current?.focus();
                  }}
                >
                  {c.trim()}
                </button>
              ))}
            </div>
          </div>
        )}
        {error && (
          <p className="wrong" role="alert">
            {error.message}
          </p>
        )}
        {notes.length > 0 && !text && (
          <aside className="note" aria-label="Craft">
            {notes.slice(0, 2).map((n) => (
              <p key={n.id}>{written(n.text)}</p>
            ))}
          </aside>
        )}
        {held.length === 0 && strip.view && (
          <div className="empty">
            {strip.view.first.map((x) => (
              <p key={x} className="caution">
                ⚠ {x}.
              </p>
            ))}
            <p>
              One line each, Enter after it: what it is, how many, what size, what to mind. A stack in its
              order: “washer, washer, large washer, nut”. Also “unplug blue plug”, “mark: cap to case”. What
              you find stands here too: “bearing rough”, “one brush missing”; and what you did besides: “cabin
              filter changed”.
            </p>
          </div>
        )}
        <ol className="strip-list" reversed>
          {pending
            .filter((p) => !items.some((it) => it.id === p.id))
            .toReversed()
            .map((p) => (
              <li key={p.id} className="strip-item" value={held.length + 1 + pending.indexOf(p)}>
                <span className="strip-n">{held.length + 1 + pending.indexOf(p)}</span>
                <span className="strip-text quiet">{p.text} …</span>
              </li>
            ))}
          {items.toReversed().map((it) => (
            <Line
              key={it.id}
              it={it}
              n={held.indexOf(it) + 1}
              mayWrite={mayWrite}
              onEdit={() => {
                setEdit(it.id);
                setText(it.entry.text);
                field.current?.focus();
              }}
              onChange={(c) => strip.change.mutate({ item: it.id, ...c })}
            />
          ))}
        </ol>
        {held.length > 0 && (
          <p>
            <Link to="../back">Put back, in reverse</Link>
          </p>
        )}
      </section>
      <section className="card strip-beside">
        <Tabs
          label="Beside the record"
          at={tab}
          onGo={(id) => setSearch(id === "inside" ? {} : { beside: id }, { replace: true })}
          tabs={[
            ["inside", "Inside", <Inside key="inside" strip={strip} />],
            ["bench", "Bench", <Bench key="bench" job={job.id} strip={strip} />],
            ["craft", "Craft", <Craft key="craft" />],
          ]}
        />
      </section>
    </main>
  );
}

function Line({
  it,
  n,
  mayWrite,
  onEdit,
  onChange,
}: {
  it: StripItem;
  n: number;
  mayWrite: boolean;
  onEdit: () => void;
  onChange: (c: { text?: string; struck?: boolean; photo?: string; drop_photo?: string }) => void;
}) {
  const { job } = useJob();
  const e = it.entry;
  return (
    <li className={`strip-item ${it.struck ? "struck" : ""}`} value={it.struck ? undefined : n}>
      <span className="strip-n">{it.struck ? "–" : n}</span>
      <span className="strip-text">
        {actWords[e.act] && <b className={`act act-${e.act}`}>{actWords[e.act]}</b>}{" "}
        {e.stack.length > 0 ? (
          <span className="stack-order">
            {e.stack.map((s, i) => (
              <span key={i}>{s}</span>
            ))}
          </span>
        ) : (
          <>
            {e.count > 1 && <b className="count">{e.count} ×</b>} {e.size && <b>{e.size}</b>} {e.what}
          </>
        )}
        {e.torque && <span className="tag">{e.torque}</span>}
        {e.warnings.map((w) => (
          <span key={w} className="tag warned">
            ! {w}
          </span>
        ))}
        {!it.struck &&
          it.counts.map((w) => (
            <span key={w} className="tag counted" title="counts as evidence">
              ✓ {w}
            </span>
          ))}
        {e.unsure && !it.struck && mayWrite && (
          <span className="answers unsure" role="group" aria-label={`What is “${e.text}”?`}>
            {meanings.map(([act, head, label]) => (
              <Button key={act} size="middle" onClick={() => onChange({ text: headed(e.text, head) })}>
                {label}
              </Button>
            ))}
          </span>
        )}
      </span>
      <Photos
        job={job.id}
        ids={it.photos}
        label={e.what || e.text}
        onAdd={mayWrite && !it.struck ? (photo) => onChange({ photo }) : undefined}
        onDrop={mayWrite ? (drop_photo) => onChange({ drop_photo }) : undefined}
      />
      {mayWrite && (
        <span className="strip-tools">
          {!it.struck && (
            <button type="button" className="link" aria-label={`Change ${e.text}`} onClick={onEdit}>
              change
            </button>
          )}
          <button
            type="button"
            className="link"
            aria-label={`${it.struck ? "Take in again" : "Strike out"} ${e.text}`}
            onClick={() => onChange({ struck: !it.struck })}
          >
            {it.struck ? "take in again" : "strike out"}
          </button>
        </span>
      )}
    </li>
  );
}

/** What can still be found inside the motor, the most telling first; each answer is evidence at once. */
function Inside({ strip }: { strip: ReturnType<typeof useStrip> }) {
  const { job, state } = useJob();
  const { mayWrite } = useApp();
  const { enter, strike } = useWrites(job.id, state);
  // Bad answers stand side by side: a brush may be broken and stuck. A good one takes the place of
  // all, and the same one again is taken back.
  const look = async (observe: string, outcome: string, isGood: boolean, good?: string) => {
    const was = job.evidence.filter((e) => e.observe === observe && !e.struck);
    const same = was.filter((e) => e.outcome === outcome);
    const away = same.length > 0 ? same : was.filter((e) => isGood || e.outcome === good);
    for (const e of away) await strike.mutateAsync({ evidence: e.id, out: true });
    if (same.length === 0)
      await enter.mutateAsync({ evidence: [evidence({ observe, state: "isolated", outcome })] });
  };
  const list = strip.view?.inside ?? [];
  const v = job.diagnosis.verdict;
  const top = job.diagnosis.diagnoses[0];
  const best = Math.max(...list.map((x) => x.bits), 0);
  return (
    <div className="inside">
      <h2 className="unseen">What can be seen inside</h2>
      <p className="lead">
        {v.status === "isolated" || v.status === "undecided"
          ? top && (
              <>
                Likeliest: <b>{top.label}</b>, {Math.round(100 * top.probability)} %.
              </>
            )
          : v.says}
      </p>
      {list.length > 0 && (strip.view?.share ?? 1) < 0.5 && list.every((x) => !x.outcome) && (
        <p className="caution">
          ⚠ Only {Math.round(100 * strip.view!.share)} in 100 that it lies in here.{" "}
          <Link to="../measure">Measure on</Link> before it comes apart.
        </p>
      )}
      {list.length === 0 && <p className="quiet">Nothing is taken apart to be looked at on this circuit.</p>}
      {(enter.error ?? strike.error) && (
        <p className="wrong" role="alert">
          {(enter.error ?? strike.error)?.message}
        </p>
      )}
      {list.map((x) => (
        <div key={x.observe} className="inside-look">
          <h3>
            {x.question}{" "}
            {!x.outcome && (
              <small className="quiet">
                {x.bits > 0.05 && x.bits === best
                  ? "most telling now"
                  : x.bits > 0.02
                    ? "tells more"
                    : "before it is closed up"}
              </small>
            )}
          </h3>
          <div className="answers" role="group" aria-label={x.label}>
            {x.outcomes.map((o) => (
              <Button
                key={o.id}
                disabled={!mayWrite || enter.isPending || strike.isPending}
                type={x.given.includes(o.id) ? "primary" : "default"}
                aria-pressed={x.given.includes(o.id)}
                onClick={() => void look(x.observe, o.id, o.id === x.outcomes[0]?.id, x.outcomes[0]?.id)}
              >
                {o.label}
              </Button>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}
