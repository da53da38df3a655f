import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { api, must, type Workshop } from "../api/client";
import { newId } from "../shared/id";
import { WorkshopFields } from "../settings/WorkshopFields";
import { NewPassword } from "./NewPassword";
import style from "./people.module.css";

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
        <h1>Set this workshop up</h1>
        <p className="quiet">Once, by whoever answers for it. Everything here can be changed later.</p>
        <label>
          Code
          <Input
            className={style.code}
            autoFocus
            autoComplete="off"
            placeholder="ABCD-2345"
            maxLength={20}
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
          <small className={style.hint}>
            It stands where the application was started, so that nobody else on the network takes this place.
          </small>
        </label>
        <h2>The workshop</h2>
        <WorkshopFields value={workshop} onChange={setWorkshop} brief />
        <h2>You, its owner</h2>
        <div className={style.two}>
          <label>
            Your name, as on papers
            <Input
              autoComplete="name"
              maxLength={80}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          <label>
            Short name to sign in with
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
          Set up and open
        </Button>
      </form>
    </main>
  );
}
