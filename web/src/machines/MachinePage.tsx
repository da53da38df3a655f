import { useQuery } from "@tanstack/react-query";
import { Button, QRCode } from "antd";
import type { ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, must, type MachineView } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { Entry } from "../logbook/Entry";
import { day, upper } from "../shared/format";
import { About } from "./About";
import css from "./machines.module.css";
import * as words from "./words";

/** One machine: its jobs, what is to come, what was fitted, its values, codes, wiring and photos, and its label. */
export default function MachinePage() {
  const { id = "" } = useParams();
  const { mayWrite } = useApp();
  const nav = useNavigate();
  const q = useQuery({
    queryKey: ["machine", id],
    queryFn: () => must(api.GET("/api/machines/{id}", { params: { path: { id } } })),
  });
  const v = q.data;
  return (
    <>
      <Bar>
        <span className="bar-title">{words.machines}</span>
      </Bar>
      <main className={`page ${css.noprint}`}>
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        {v && (
          <>
            <div className="tools">
              <h1>{v.machine.name}</h1>
              {mayWrite && (
                <Button
                  type="primary"
                  onClick={() => void nav("/start", { state: { machine: v.machine.name } })}
                >
                  {words.startAJobOn}
                </Button>
              )}
            </div>
            <div className={css.page}>
              <div>
                <About machine={v.machine} />
                <Section title={words.toCome} empty={words.nothingIsDue}>
                  {v.due.map((d, i) => (
                    <Row key={i} on={d.on} job={d.job}>
                      {upper(d.what)}
                    </Row>
                  ))}
                </Section>
                <Section title={words.jobs(v.jobs.length)} empty={words.itWasNeverHere}>
                  <ul className="log">
                    {v.jobs.map((e) => (
                      <Entry key={e.id} e={e} lasted />
                    ))}
                  </ul>
                </Section>
                <Section title={words.whatWasFittedAnd} empty={words.noWorkWasEntered}>
                  {v.fitted.map((f, i) => (
                    <Row key={i} on={f.on} job={f.job}>
                      <b>{f.parts}</b>: {f.what}
                      <small>{f.proof || words.notProved}</small>
                    </Row>
                  ))}
                </Section>
              </div>
              <div>
                <Label v={v} />
                <Values v={v} />
                <Section title={words.blinkCodesItShowed} empty={words.noneWasRead}>
                  {v.codes.map((c, i) => (
                    <Row key={i} on={c.on} job={c.job}>
                      {c.says}
                    </Row>
                  ))}
                </Section>
                <Wiring v={v} />
                <Photos v={v} />
              </div>
            </div>
          </>
        )}
      </main>
      {v && <Sticker v={v} />}
    </>
  );
}

/** A card with its rows, or what it says where there are none. */
function Section({ title, empty, children }: { title: string; empty: string; children: ReactNode }) {
  const none = Array.isArray(children) && children.length === 0;
  return (
    <section className="card">
      <h2>{title}</h2>
      {none ? (
        <p className="quiet">{empty}</p>
      ) : Array.isArray(children) ? (
        <ul className={css.rows}>{children}</ul>
      ) : (
        children
      )}
    </section>
  );
}

function Row({ on, job, children }: { on?: string; job: string; children: ReactNode }) {
  return (
    <li>
      <span className="quiet">{on ? day(on) : words.noDayYet}</span>
      <span>{children}</span>
      <Link to={`/jobs/${job}`}>{words.open}</Link>
    </li>
  );
}

function Values({ v }: { v: MachineView }) {
  return (
    <section className="card">
      <h2>{words.itsValues}</h2>
      {v.values.length === 0 ? (
        <p className="quiet">{words.noneIsKnownThey}</p>
      ) : (
        <dl className={css.values}>
          {v.values.map((x) => (
            <div key={x.title + x.label} style={{ display: "contents" }}>
              <dt title={x.title}>{x.label}</dt>
              <dd>{x.says}</dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}

/** What the wiring diagram says, for all machines of its type. */
function Wiring({ v }: { v: MachineView }) {
  if (v.marks.length === 0) return null;
  return (
    <section className="card">
      <h2>{words.wiringOfThisType}</h2>
      <dl className={css.values}>
        {v.marks.map((m) => (
          <div key={m.title + m.at} style={{ display: "contents" }}>
            <dt title={m.title}>{m.at}</dt>
            <dd>
              {[
                m.mark.colour,
                m.mark.connector,
                m.mark.pin && words.pin(m.mark.pin),
                m.mark.fuse,
                m.mark.place,
              ]
                .filter(Boolean)
                .join(", ")}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Photos({ v }: { v: MachineView }) {
  if (v.photos.length === 0) return null;
  return (
    <section className="card">
      <h2>{words.photos}</h2>
      <div className={css.photos}>
        {v.photos.map((p) => (
          <Link key={p.id} to={`/jobs/${p.job}/strip`}>
            <img src={`/api/photos/${p.id}?thumb=true`} alt={p.says} loading="lazy" />
            <small>{p.says}</small>
          </Link>
        ))}
      </div>
    </section>
  );
}

const addressOf = (v: MachineView) => `${window.location.origin}/machines/${v.machine.id}`;

/** What sticks on the machine: a phone that looks at it opens this page. */
function Label({ v }: { v: MachineView }) {
  return (
    <section className="card">
      <h2>{words.labelForTheMachine}</h2>
      <div className={css.label}>
        <div aria-hidden>
          <QRCode value={addressOf(v)} size={132} color="#25272b" bgColor="#ffffff" />
        </div>
        <div>
          <p>{words.stickItOnThe}</p>
          <Button onClick={() => window.print()}>{words.printTheLabel}</Button>
        </div>
      </div>
    </section>
  );
}

function Sticker({ v }: { v: MachineView }) {
  return (
    <div className={css.sticker} aria-hidden>
      <QRCode value={addressOf(v)} type="svg" size={128} bordered={false} color="#000000" bgColor="#ffffff" />
      <div>
        <b>{v.machine.name}</b>
        {[v.machine.kind, v.machine.place].filter(Boolean).join(", ")}
      </div>
    </div>
  );
}
