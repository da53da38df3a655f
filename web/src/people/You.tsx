import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Segmented, Switch } from "antd";
import { lazy, Suspense, useState, type ReactNode } from "react";
import { api, must, type Me } from "../api/client";
import { Bar } from "../app/Bar";
import { useApp } from "../app/context";
import { moment } from "../shared/format";
import { NewPassword } from "./NewPassword";
import style from "./people.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";
import PasswordField from "antd/es/input/Password";

// Drawn only by whoever sets a second factor up.
const QRCode = lazy(async () => ({ default: (await import("antd/es/qr-code")).default }));

/** What concerns oneself: name, password, PIN, where one is signed in, how one likes the interface. */
export default function You() {
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.you}</h1>
      </Bar>
      <main className="page columns">
        <Likes />
        <Name />
        <Password />
        <Pin />
        <Factor />
        <Places />
      </main>
    </>
  );
}

function Likes() {
  const { me, mode, setMode, like } = useApp();
  const p = me.preferences;
  return (
    <section className={`card ${style.form}`}>
      <h2>{words.howYouLikeIt}</h2>
      <div className={style.list} role="group">
        <label style={{ display: "flex", justifyContent: "space-between", alignItems: "center" }}>
          {words.darkView}
          <Switch checked={mode === "dark"} onChange={(dark) => setMode(dark ? "dark" : "light")} />
        </label>
      </div>
      <label style={{ display: "flex", justifyContent: "space-between", alignItems: "center" }}>
        {words.keypadForTheLeft}
        <Switch checked={!!p.left_hand} onChange={(left_hand) => like({ left_hand })} />
      </label>
      <label>
        {words.text}
        <Segmented
          value={p.text ?? "normal"}
          options={[
            { value: "normal", label: words.normal },
            { value: "large", label: words.large },
            { value: "larger", label: words.larger },
          ]}
          onChange={(text) => like({ text: text as "normal" | "large" | "larger" })}
        />
      </label>
    </section>
  );
}

function Name() {
  const { me } = useApp();
  const client = useQueryClient();
  const [name, setName] = useState(me.name);
  const keep = useMutation({
    mutationFn: () => must(api.PUT("/api/session/name", { body: { name } })),
    onSuccess: (m: Me) => {
      client.setQueryData(["me"], m);
      setName(m.name);
    },
  });
  return (
    <Form title={words.name} onSubmit={() => keep.mutate()}>
      <label>
        {words.asOnPapers}
        <Input maxLength={80} autoComplete="name" value={name} onChange={(e) => setName(e.target.value)} />
        <small>{words.youSignInAs(me.login, me.role === "trainee" ? words.apprentice : me.role)}</small>
      </label>
      <Said of={keep} />
      <div className="next-tools">
        <Button htmlType="submit" loading={keep.isPending} disabled={!name.trim() || name === me.name}>
          {words.keepTheName}
        </Button>
      </div>
    </Form>
  );
}

/** A card with one form, sent by its button or by Enter. */
function Form({ title, onSubmit, children }: { title: string; onSubmit: () => void; children: ReactNode }) {
  return (
    <form
      className={`card ${style.form}`}
      onSubmit={(e) => {
        e.preventDefault();
        onSubmit();
      }}
    >
      <h2>{title}</h2>
      {children}
    </form>
  );
}

/** How a change went: refused, or kept. */
function Said({ of, done = words.kept }: { of: { error: Error | null; isSuccess: boolean }; done?: string }) {
  if (of.error)
    return (
      <p className="wrong" role="alert">
        {of.error.message}
      </p>
    );
  return of.isSuccess ? (
    <p className="quiet" role="status">
      {done}
    </p>
  ) : null;
}

function Password() {
  const client = useQueryClient();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const keep = useMutation({
    mutationFn: () => must(api.PUT("/api/session/password", { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld("");
      setFresh("");
      void client.invalidateQueries({ queryKey: ["places"] });
    },
  });
  return (
    <Form title={words.password} onSubmit={() => keep.mutate()}>
      <label>
        {words.yourPasswordNow}
        <PasswordField autoComplete="current-password" value={old} onChange={(e) => setOld(e.target.value)} />
      </label>
      <NewPassword value={fresh} onChange={setFresh} />
      <Said of={keep} done={words.changedEverywhereElseYou} />
      <div className="next-tools">
        <Button htmlType="submit" loading={keep.isPending} disabled={!old || !fresh}>
          {words.changeThePassword}
        </Button>
      </div>
    </Form>
  );
}

function Pin() {
  const { me } = useApp();
  const client = useQueryClient();
  const [pin, setPin] = useState("");
  const [password, setPassword] = useState("");
  const keep = useMutation({
    mutationFn: (pin: string) => must(api.PUT("/api/session/pin", { body: { pin, password } })),
    onSuccess: () => {
      setPin("");
      setPassword("");
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
  return (
    <Form title={words.pinForSharedDevices} onSubmit={() => keep.mutate(pin)}>
      <p className="quiet">{words.withItYouSign(me.has_pin ? words.youHaveOne : words.youHaveNone)}</p>
      <div className={style.two}>
        <label>
          {words.pin4To8}
          <PasswordField
            inputMode="numeric"
            autoComplete="off"
            maxLength={8}
            value={pin}
            onChange={(e) => setPin(e.target.value)}
          />
        </label>
        <label>
          {words.yourPassword}
          <PasswordField
            autoComplete="current-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
      </div>
      <Said of={keep} />
      <div className="next-tools">
        <Button htmlType="submit" loading={keep.isPending} disabled={!pin || !password}>
          {words.keepThePin}
        </Button>
        {me.has_pin && (
          <Button disabled={!password} onClick={() => keep.mutate("")}>
            {words.takeItAway}
          </Button>
        )}
      </div>
    </Form>
  );
}

/** A code from the phone at sign-in, beside the password. */
function Factor() {
  const { me } = useApp();
  const client = useQueryClient();
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const begin = useMutation({
    mutationFn: () => must(api.POST("/api/session/factor", { body: { password } })),
    onSuccess: () => setPassword(""),
  });
  const set = useMutation({
    mutationFn: () => must(api.PUT("/api/session/factor", { body: { code } })),
    onSuccess: () => {
      setCode("");
      begin.reset();
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
  const drop = useMutation({
    mutationFn: () => must(api.DELETE("/api/session/factor", { body: { password } })),
    onSuccess: () => {
      setPassword("");
      set.reset();
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
  if (set.data)
    return (
      <section className="card" role="status" aria-label={words.spareCodes}>
        <h2>{words.spareCodes}</h2>
        <p>{words.eachCountsOnce}</p>
        <ul className={style.codes}>
          {set.data.codes.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
        <div className="next-tools">
          <Button type="primary" onClick={() => set.reset()}>
            {words.iHaveThem}
          </Button>
        </div>
      </section>
    );
  if (begin.data)
    return (
      <Form title={words.codeAtSignIn} onSubmit={() => set.mutate()}>
        <div className={style.link}>
          <div aria-hidden style={{ flex: "none" }}>
            <Suspense>
              <QRCode value={begin.data.address} size={200} color="#25272b" bgColor="#ffffff" />
            </Suspense>
          </div>
          <div>
            <p>{words.scanItWith}</p>
            <p className={style.address}>{begin.data.secret.replace(/(.{4})(?=.)/g, "$1 ")}</p>
          </div>
        </div>
        <label>
          {words.codeItShows}
          <Input
            inputMode="numeric"
            autoComplete="one-time-code"
            autoFocus
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
        </label>
        <Said of={set} />
        <div className="next-tools">
          <Button htmlType="submit" loading={set.isPending} disabled={!code.trim()}>
            {words.askForIt}
          </Button>
          <Button onClick={() => begin.reset()}>{words.leaveItAsItIs}</Button>
        </div>
      </Form>
    );
  const go = me.second_factor ? drop : begin;
  return (
    <Form title={words.codeAtSignIn} onSubmit={() => go.mutate()}>
      <p className="quiet">{me.second_factor ? words.codeIsAskedFor : words.besideThePassword}</p>
      {me.workshop.owners_code && me.role === "owner" && (
        <p className={me.second_factor ? "quiet" : "warn"}>{words.ownersNeedOne}</p>
      )}
      <label>
        {words.yourPassword}
        <PasswordField
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
      </label>
      <Said of={begin.error || !drop.isSuccess ? go : drop} done={words.codeNoMore} />
      <div className="next-tools">
        <Button htmlType="submit" loading={go.isPending} disabled={!password}>
          {me.second_factor ? words.askNoMore : words.setItUp}
        </Button>
      </div>
    </Form>
  );
}

function Places() {
  const client = useQueryClient();
  const q = useQuery({ queryKey: ["places"], queryFn: () => must(api.GET("/api/session/places")) });
  const end = useMutation({
    mutationFn: (id: string) => must(api.DELETE("/api/session/places/{id}", { params: { path: { id } } })),
    onSuccess: (v) => client.setQueryData(["places"], v),
  });
  return (
    <section className="card">
      <h2>{words.whereYouAreSigned}</h2>
      <ul className={style.list}>
        {(q.data ?? []).map((p) => (
          <li key={p.id}>
            <span>
              <b>{p.device}</b>
              {p.here && words.here} <span className="quiet">{words.lastUsed(moment(p.seen_at))}</span>
            </span>
            {!p.here && <Button onClick={() => end.mutate(p.id)}>{words.signOutThere}</Button>}
          </li>
        ))}
      </ul>
    </section>
  );
}
