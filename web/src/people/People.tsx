import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, QRCode, Select } from "antd";
import { useState } from "react";
import { api, must, type PeopleView, type Person } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { moment } from "../shared/format";
import { newId } from "../shared/id";
import style from "./people.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** Who works here: the owner adds, changes, suspends, and gives a way in. */
export default function People() {
  const q = useQuery({ queryKey: ["people"], queryFn: () => must(api.GET("/api/people")) });
  const [link, setLink] = useState<{ of: Person; path: string; expires: string }>();
  const roles = q.data?.roles ?? [];
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.people}</h1>
      </Bar>
      <main className="page">
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        {link && <LinkCard {...link} onClose={() => setLink(undefined)} />}
        {q.data && (
          <section className="card">
            <h2>{words.whoWorksHere}</h2>
            {q.data.people.map((p) => (
              <Row
                key={`${p.id} ${p.name} ${p.role}`}
                p={p}
                roles={roles}
                onLink={(l) => setLink({ of: p, ...l })}
              />
            ))}
          </section>
        )}
        <div className="page columns" style={{ padding: 0 }}>
          {q.data && <Add roles={roles} onLink={(of, l) => setLink({ of, ...l })} />}
          <section className="card">
            <h2>{words.whatEachRoleMay}</h2>
            <dl className={style.roles}>
              {roles.map((r) => (
                <div key={r.id}>
                  <dt>{r.name}</dt>
                  <dd>{r.says}</dd>
                </div>
              ))}
            </dl>
          </section>
          {q.data && <Devices view={q.data} />}
          <Record />
        </div>
      </main>
    </>
  );
}

const usePeople = () => {
  const client = useQueryClient();
  return (v: PeopleView) => {
    client.setQueryData(["people"], v);
    void client.invalidateQueries({ queryKey: ["record"] });
  };
};

type Made = { path: string; expires: string };

function useInvite(onLink: (l: Made) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => must(api.POST("/api/people/{id}/invitation", { params: { path: { id } } })),
    onSuccess: (l) => {
      onLink(l);
      void client.invalidateQueries({ queryKey: ["record"] });
    },
  });
}

function Row({ p, roles, onLink }: { p: Person; roles: PeopleView["roles"]; onLink: (l: Made) => void }) {
  const { me } = useApp();
  const took = usePeople();
  const [name, setName] = useState(p.name);
  const [edit, setEdit] = useState(false);
  const change = useMutation({
    mutationFn: (v: { name: string; role: Person["role"]; suspended: boolean }) =>
      must(api.PUT("/api/people/{id}", { params: { path: { id: p.id } }, body: v })),
    onSuccess: (v) => {
      took(v);
      setEdit(false);
    },
  });
  const invite = useInvite(onLink);
  const wrong = change.error ?? invite.error;
  return (
    <div className={`${style.row} ${p.suspended ? style.off : ""}`} role="group" aria-label={p.name}>
      <div>
        {edit ? (
          <Input
            aria-label={words.name}
            autoFocus
            maxLength={80}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onPressEnter={() => change.mutate({ name, role: p.role, suspended: p.suspended })}
          />
        ) : (
          <b>{p.name}</b>
        )}
        <small>{words.signsInAs(p.login)}</small>
      </div>
      <Select
        aria-label={words.roleOf(p.name)}
        value={p.role}
        options={roles.map((r) => ({ value: r.id, label: r.name }))}
        onChange={(role) => change.mutate({ name: p.name, role: role, suspended: p.suspended })}
      />
      <div>
        {p.suspended
          ? words.suspended
          : !p.ready
            ? words.hasChosenNoPassword
            : p.seen_at
              ? words.lastHere(moment(p.seen_at))
              : words.notSignedIn}
      </div>
      <div className={style.do}>
        {edit ? (
          <Button
            type="primary"
            onClick={() => change.mutate({ name, role: p.role, suspended: p.suspended })}
          >
            {words.keep}
          </Button>
        ) : (
          <Button onClick={() => setEdit(true)}>{words.rename}</Button>
        )}
        {!p.suspended && (
          <Button onClick={() => invite.mutate(p.id)}>
            {p.ready ? words.newPassword : words.signInLink}
          </Button>
        )}
        {p.id !== me.id && (
          <Button onClick={() => change.mutate({ name: p.name, role: p.role, suspended: !p.suspended })}>
            {p.suspended ? words.letInAgain : words.suspend}
          </Button>
        )}
      </div>
      {wrong && (
        <p className="wrong" role="alert" style={{ gridColumn: "1 / -1" }}>
          {wrong.message}
        </p>
      )}
    </div>
  );
}

/** A link by which somebody chooses a password: read by their phone from the screen, or sent. */
function LinkCard({ of, path, expires, onClose }: { of: Person; onClose: () => void } & Made) {
  const address = window.location.origin + path;
  const [copied, setCopied] = useState(false);
  return (
    <section className="card" role="status" aria-label={words.signInLinkFor(of.name)}>
      <h2>{words.signInLinkFor(of.name)}</h2>
      <div className={style.link}>
        <div aria-hidden style={{ flex: "none" }}>
          <QRCode value={address} size={220} color="#25272b" bgColor="#ffffff" />
        </div>
        <div>
          <p>
            {words.pointsAPhoneS(of.name)} <b>{moment(expires)}</b>.
          </p>
          <p className={style.address}>{address}</p>
          <div className="next-tools">
            {navigator.clipboard && (
              <Button onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}>
                {copied ? words.copied : words.copyTheAddress}
              </Button>
            )}
            <Button onClick={onClose}>{words.done}</Button>
          </div>
        </div>
      </div>
    </section>
  );
}

function Add({ roles, onLink }: { roles: PeopleView["roles"]; onLink: (of: Person, l: Made) => void }) {
  const took = usePeople();
  const [id, setID] = useState(newId);
  const [name, setName] = useState("");
  const [typed, setTyped] = useState<string>();
  const [role, setRole] = useState<Person["role"]>("technician");
  // The first name is what most people sign in with.
  const login =
    typed ??
    (name.trim().split(/\s+/)[0] ?? "")
      .normalize("NFKD")
      .replace(/[^A-Za-z0-9._-]/g, "")
      .toLowerCase();
  const add = useMutation({
    mutationFn: async () => {
      const v = await must(api.POST("/api/people", { body: { id, name, login, role } }));
      const l = await must(api.POST("/api/people/{id}/invitation", { params: { path: { id } } }));
      return { v, l };
    },
    onSuccess: ({ v, l }) => {
      took(v);
      const p = v.people.find((x) => x.id === id);
      if (p) onLink(p, l);
      setID(newId());
      setName("");
      setTyped(undefined);
    },
  });
  return (
    <form
      className={`card ${style.form}`}
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate();
      }}
    >
      <h2>{words.addAPerson}</h2>
      <label>
        {words.nameAsOnPapers}
        <Input maxLength={80} autoComplete="off" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label>
        {words.peopleSignsInAs}
        <Input
          maxLength={40}
          autoComplete="off"
          autoCapitalize="none"
          value={login}
          onChange={(e) => setTyped(e.target.value)}
        />
      </label>
      <label>
        {words.role}
        <Select
          aria-label={words.role}
          value={role}
          options={roles.map((r) => ({ value: r.id, label: r.name }))}
          onChange={(r) => setRole(r)}
        />
      </label>
      {add.error && (
        <p className="wrong" role="alert">
          {add.error.message}
        </p>
      )}
      <div className="next-tools">
        <Button
          type="primary"
          size="large"
          htmlType="submit"
          loading={add.isPending}
          disabled={!name.trim() || !login}
        >
          {words.addAndShowThe}
        </Button>
      </div>
    </form>
  );
}

/** Tablets that several people share, each by a PIN. */
function Devices({ view }: { view: PeopleView }) {
  const took = usePeople();
  const client = useQueryClient();
  const { me } = useApp();
  const [name, setName] = useState("");
  const admit = useMutation({
    mutationFn: () => must(api.POST("/api/devices", { body: { id: newId(), name } })),
    onSuccess: (v) => {
      took(v);
      setName("");
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
  const drop = useMutation({
    mutationFn: (id: string) => must(api.DELETE("/api/devices/{id}", { params: { path: { id } } })),
    onSuccess: (v) => {
      took(v);
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
  return (
    <section className={`card ${style.form}`}>
      <h2>{words.sharedDevices}</h2>
      <p className="quiet">{words.onATabletThat}</p>
      {view.devices.length > 0 && (
        <ul className={style.list}>
          {view.devices.map((d) => (
            <li key={d.id}>
              <span>
                <b>{d.name}</b> <span className="quiet">{words.admittedBy(d.by, moment(d.since))}</span>
              </span>
              <Button onClick={() => drop.mutate(d.id)}>{words.takeBack}</Button>
            </li>
          ))}
        </ul>
      )}
      {me.device ? (
        <p>
          {words.thisDeviceIs} <b>{me.device}</b>.
        </p>
      ) : (
        <form
          className={style.form}
          onSubmit={(e) => {
            e.preventDefault();
            admit.mutate();
          }}
        >
          <label>
            {words.nameOfTheDevice}
            <Input
              placeholder={words.tabletAtTheLift}
              maxLength={80}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          {admit.error && (
            <p className="wrong" role="alert">
              {admit.error.message}
            </p>
          )}
          <div className="next-tools">
            <Button htmlType="submit" loading={admit.isPending} disabled={!name.trim()}>
              {words.admitThisDevice}
            </Button>
          </div>
        </form>
      )}
    </section>
  );
}

/** Who did what to people, settings and signed papers. */
function Record() {
  const q = useQuery({ queryKey: ["record"], queryFn: () => must(api.GET("/api/record")) });
  const [all, setAll] = useState(false);
  const acts = q.data ?? [];
  return (
    <section className="card">
      <h2>{words.record}</h2>
      {acts.length === 0 && <p className="quiet">{words.nothingYetWhatIs}</p>}
      <ul className={style.list}>
        {(all ? acts : acts.slice(0, 8)).map((a) => (
          <li key={a.id}>
            <span>{a.says}</span>
            <span className="quiet">
              {a.by}, {moment(a.at)}
            </span>
          </li>
        ))}
      </ul>
      {acts.length > 8 && !all && <Button onClick={() => setAll(true)}>{words.all(acts.length)}</Button>}
    </section>
  );
}
