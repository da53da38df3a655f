import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef, useState } from "react";
import { api, must, Refused, type Workshop } from "../api/client";
import { newId } from "../shared/id";
import { WorkshopFields } from "../settings/WorkshopFields";
import { NewPassword } from "./NewPassword";
import style from "./people.module.css";
import * as words from "./words";
import Input from "antd/es/input/Input";

/** The first page of a new installation: the workshop and whoever answers for it. */
export function SetUp() {
  const client = useQueryClient();
  const [id] = useState(newId);
  const [code, setCode] = useState("");
  const [name, setName] = useState("");
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const [workshop, setWorkshop] = useState<Workshop>({
    name: "",
    hour_rate: 60,
    loss_per_day: 25,
    comeback: 60,
    time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    revision: 0,
  });
  const go = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: () => must(api.POST("/api/setup", { body: { id, code, name, login, password, workshop } })),
    onSuccess: (me) => client.setQueryData(["me"], me),
  });
  return (
    <main className="page narrow">
      <form
        className={`card ${style.form}`}
        onSubmit={(e) => {
          e.preventDefault();
          go.mutate();
        }}
      >
        <h1>{words.setThisWorkshopUp}</h1>
        <p className="quiet">{words.onceByWhoeverAnswers}</p>
        <label>
          {words.code}
          <Input
            className={style.code}
            autoFocus
            autoComplete="off"
            placeholder={words.exampleCode}
            maxLength={20}
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
          <small className={style.hint}>{words.itStandsWhereThe}</small>
        </label>
        <h2>{words.theWorkshop}</h2>
        <WorkshopFields value={workshop} onChange={setWorkshop} brief />
        <h2>{words.youItsOwner}</h2>
        <div className={style.two}>
          <label>
            {words.yourNameAsOn}
            <Input
              autoComplete="name"
              maxLength={80}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          <label>
            {words.shortNameToSign}
            <Input
              autoComplete="username"
              autoCapitalize="none"
              maxLength={40}
              value={login}
              onChange={(e) => setLogin(e.target.value)}
            />
          </label>
        </div>
        <NewPassword value={password} onChange={setPassword} />
        {go.error && (
          <p className="wrong" role="alert">
            {go.error.message}
          </p>
        )}
        <Button
          type="primary"
          size="large"
          htmlType="submit"
          loading={go.isPending}
          disabled={!code.trim() || !workshop.name.trim() || !name.trim() || !login.trim() || !password}
        >
          {words.setUpAndOpen}
        </Button>
      </form>
      <PutBack code={code} />
    </main>
  );
}

/** Instead of beginning anew: the data of a workshop that stood elsewhere, or here before. */
function PutBack({ code }: { code: string }) {
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const put = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: async (f: File) => {
      let r: Response;
      try {
        r = await fetch("/api/setup/restore", { method: "POST", headers: { "Setup-Code": code }, body: f });
      } catch {
        throw new Refused(0, words.noConnectionToThe);
      }
      if (!r.ok)
        throw new Refused(r.status, ((await r.json()) as { detail?: string }).detail ?? words.tryAgain);
      return (await r.json()) as { jobs: number; people: number };
    },
  });
  return (
    <section className={`card ${style.form}`}>
      <h2>{words.orPutABackup}</h2>
      {put.data ? (
        <>
          <p role="status">{words.jobsAndPeopleAre(put.data.jobs, put.data.people)}</p>
          <Button type="primary" onClick={() => void client.invalidateQueries()}>
            {words.toTheSignIn}
          </Button>
        </>
      ) : (
        <>
          <p className="quiet">{words.allOfAWorkshop}</p>
          {put.error && (
            <p className="wrong" role="alert">
              {put.error.message}
            </p>
          )}
          <Button disabled={!code.trim()} loading={put.isPending} onClick={() => file.current?.click()}>
            {words.chooseTheBackup}
          </Button>
          <input
            ref={file}
            type="file"
            aria-label={words.backupFile}
            hidden
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (f) put.mutate(f);
            }}
          />
        </>
      )}
    </section>
  );
}
