import { Button, type InputRef } from "antd";
import { lazy, Suspense, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { StripItem } from "../api/client";
import { useApp } from "../app/context";
import { evidence, useJob, useWrites } from "../job/job";
import { newId } from "../shared/id";
import { Craft } from "./Craft";
import { Photos } from "./Photos";
import { written } from "../shared/written";
import { actWords, headed, meanings, useStrip } from "./strip";
import * as words from "./words";
import { Tabs } from "../shared/Tabs";
import Input from "antd/es/input/Input";

const Bench = lazy(async () => ({ default: (await import("./Bench")).Bench }));

const chips = [
  "2x ",
  "bolt",
  "screw",
  "nut",
  "washer",
  "unplug ",
  "moved: ",
  "mark: ",
  words.doNotTurn,
  "M6",
  words.example8mm,
  words.example10mm,
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
      <section className="strip-record" aria-label={words.whatCameOff}>
        {mayWrite && (
          <div className="strip-entry">
            <Input
              ref={field}
              autoFocus
              size="large"
              aria-label={words.whatCameOff}
              placeholder={words.whatCameOffNext}
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
              {edit ? words.change : words.putDown(held.length + pending.length + 1)}
            </Button>
            <div className="chips" role="group" aria-label={words.words}>
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
          <aside className="note" aria-label={words.craft}>
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
            <p>{words.oneLineEachEnter}</p>
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
            <Link to="../back">{words.putBackInReverse}</Link>
          </p>
        )}
      </section>
      <section className="card strip-beside">
        <Tabs
          label={words.besideTheRecord}
          at={tab}
          onGo={(id) => setSearch(id === "inside" ? {} : { beside: id }, { replace: true })}
          tabs={[
            ["inside", words.inside, <Inside key="inside" strip={strip} />],
            [
              "bench",
              words.bench,
              <Suspense key="bench">
                <Bench job={job.id} strip={strip} />
              </Suspense>,
            ],
            ["craft", words.craft, <Craft key="craft" />],
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
            <span key={w} className="tag counted" title={words.countsAsEvidence}>
              ✓ {w}
            </span>
          ))}
        {e.unsure && !it.struck && mayWrite && (
          <span className="answers unsure" role="group" aria-label={words.whatIs(e.text)}>
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
            <button type="button" className="link" aria-label={words.changeWithText(e.text)} onClick={onEdit}>
              {words.stripChange}
            </button>
          )}
          <button
            type="button"
            className="link"
            aria-label={`${it.struck ? words.takeInAgain : words.strikeOut} ${e.text}`}
            onClick={() => onChange({ struck: !it.struck })}
          >
            {it.struck ? words.stripTakeInAgain : words.stripStrikeOut}
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
      <h2 className="unseen">{words.whatCanBeSeen}</h2>
      <p className="lead">
        {v.status === "isolated" || v.status === "undecided"
          ? top && (
              <>
                {words.likeliest} <b>{top.label}</b>, {Math.round(100 * top.probability)} %.
              </>
            )
          : v.says}
      </p>
      {list.length > 0 && (strip.view?.share ?? 1) < 0.5 && list.every((x) => !x.outcome) && (
        <p className="caution">
          {words.onlyIn100That(Math.round(100 * strip.view!.share))}{" "}
          <Link to="../measure">{words.measureOn}</Link> {words.beforeItComesApart}
        </p>
      )}
      {list.length === 0 && <p className="quiet">{words.nothingIsTakenApart}</p>}
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
                  ? words.mostTellingNow
                  : x.bits > 0.02
                    ? words.tellsMore
                    : words.beforeItIsClosed}
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
