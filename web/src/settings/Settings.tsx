import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, Refused, type Workshop } from "../api/client";
import { Bar } from "../app/Bar";
import style from "../people/people.module.css";
import { moment } from "../shared/format";
import { writeLike } from "../shared/written";
import { WorkshopFields } from "./WorkshopFields";
import * as words from "./words";
import { fixed } from "../shared/written";

/** The workshop's settings and its backups: the owner's page. */
export default function Settings() {
  const q = useQuery({
    queryKey: ["workshop"],
    queryFn: () => must(api.GET("/api/settings/workshop")),
    staleTime: Infinity,
  });
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.settings}</h1>
      </Bar>
      <main className="page columns">
        {q.error && (
          <p className="wrong" role="alert">
            {q.error.message}
          </p>
        )}
        {q.data && <WorkshopForm now={q.data} />}
        <BackupCard />
      </main>
    </>
  );
}

function WorkshopForm({ now }: { now: Workshop }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState<Workshop>();
  const value = typed ?? now;
  const keep = useMutation({
    mutationFn: (v: Workshop) => must(api.PUT("/api/settings/workshop", { body: v })),
    onSuccess: (v) => {
      client.setQueryData(["workshop"], v);
      setTyped(undefined);
      writeLike(v);
      void client.invalidateQueries(); // figures are written anew everywhere
    },
  });
  const stale = keep.error instanceof Refused && keep.error.status === 412;
  // Somebody else was quicker: theirs is read, mine stays in the fields, and what is saved next is saved over theirs.
  const overTheirs = async () => {
    const theirs = await must(api.GET("/api/settings/workshop"));
    keep.mutate({ ...value, revision: theirs.revision });
  };
  return (
    <form
      className={`card ${style.form}`}
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(value);
      }}
    >
      <h2>{words.theWorkshop}</h2>
      <WorkshopFields
        value={value}
        onChange={(v) => {
          keep.reset();
          setTyped(v);
        }}
      />
      {keep.error && (
        <p className="wrong" role="alert">
          {keep.error.message}
        </p>
      )}
      <div className="next-tools">
        <Button
          type="primary"
          size="large"
          htmlType="submit"
          loading={keep.isPending}
          disabled={!typed || !value.name.trim() || stale}
        >
          {words.keep}
        </Button>
        {stale && (
          <>
            <Button size="large" onClick={() => void overTheirs()}>
              {words.keepMineOverTheirs}
            </Button>
            <Button
              size="large"
              onClick={() => {
                keep.reset();
                setTyped(undefined);
                void client.invalidateQueries({ queryKey: ["workshop"] });
              }}
            >
              {words.takeTheirs}
            </Button>
          </>
        )}
        {keep.isSuccess && !typed && (
          <span className="quiet" role="status">
            {words.kept}
          </span>
        )}
      </div>
    </form>
  );
}

const size = (bytes: number) =>
  bytes < 1e6 ? words.kb(Math.max(1, Math.round(bytes / 1e3))) : `${fixed(bytes / 1e6, 1)} MB`;

/** How the backups stand, with the last one's age. */
function BackupCard() {
  const client = useQueryClient();
  const now = useMutation({
    mutationFn: (stop: AbortController) => must(api.POST("/api/backups", { signal: stop.signal })),
    onSuccess: (v) => client.setQueryData(["backups"], v),
    onError: () => void client.invalidateQueries({ queryKey: ["backups"] }),
  });
  const q = useQuery({
    queryKey: ["backups"],
    queryFn: () => must(api.GET("/api/backups")),
    refetchInterval: now.isPending ? 500 : false,
  });
  const stopped = now.variables?.signal.aborted;
  const b = q.data;
  const [opened] = useState(() => Date.now());
  const age = b?.last ? (opened - new Date(b.last).getTime()) / 3.6e6 : undefined;
  return (
    <section className={`card ${style.form}`}>
      <h2>{words.backups}</h2>
      {q.error && <p className="wrong">{q.error.message}</p>}
      {b && !b.on && (
        <p>
          {words.noneAreKeptThis} <code>--backups none</code>.
        </p>
      )}
      {b?.on && (
        <>
          {b.problem && (
            <p className="wrong" role="alert">
              {words.theLastTryFailed(b.problem)}
            </p>
          )}
          {!b.last && !b.problem && <p>{words.theFirstOneIs}</p>}
          {b.last && (
            <p className={age! > 48 ? "warn" : ""}>
              {words.theLastOne} <b>{moment(b.last)}</b>
              {age! > 48 && words.moreThanTwoDays}.
            </p>
          )}
          <p className="quiet">
            {words.filesIn(b.files, size(b.bytes))} <span className={style.address}>{b.folder}</span>
            {words.oneADayIs}
          </p>
          {now.error && !stopped && (
            <p className="wrong" role="alert">
              {now.error.message}
            </p>
          )}
          {now.isPending ? (
            <div className="next-tools">
              <progress aria-label={words.backUpNow} max={100} value={b.share ?? undefined} />
              <Button onClick={() => now.variables.abort()}>{words.stopTheBackup}</Button>
            </div>
          ) : (
            <Button onClick={() => now.mutate(new AbortController())}>{words.backUpNow}</Button>
          )}
          {now.isError && stopped && (
            <p className="quiet" role="status">
              {words.theBackupWasStopped}
            </p>
          )}
        </>
      )}
      <p className="quiet">
        {words.toPutOneBack} <code>corriente restore FILE --replace</code> {words.whereItIsInstalled}
      </p>
    </section>
  );
}
