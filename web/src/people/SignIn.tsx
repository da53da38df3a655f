import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must } from "../api/client";
import { Shift, useShift } from "./Shift";
import * as words from "./words";
import Input from "antd/es/input/Input";
import Password from "antd/es/input/Password";

export function SignIn({ again, onDone }: { again?: boolean; onDone?: () => void }) {
  const client = useQueryClient();
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const go = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: () => must(api.POST("/api/session", { body: { login, password } })),
    onSuccess: (me) => {
      client.setQueryData(["me"], me);
      if (again) void client.invalidateQueries();
      onDone?.();
    },
  });
  const shared = useShift().data;
  const [byName, setByName] = useState(false);
  if (shared?.people.length && !byName)
    return (
      <main className="signin">
        <div className="card">
          <h1 className="brand">{words.product}</h1>
          <p className="quiet">
            {again ? words.whatWasTypedIs : ""}
            {shared.device}
          </p>
          <Shift
            onDone={() => {
              if (again) void client.invalidateQueries();
              onDone?.();
            }}
          />
          <button type="button" className="link" onClick={() => setByName(true)}>
            {words.withNameAndPassword}
          </button>
        </div>
      </main>
    );
  return (
    <main className="signin">
      <form
        className="card"
        onSubmit={(e) => {
          e.preventDefault();
          go.mutate();
        }}
      >
        <h1 className="brand">{words.product}</h1>
        <p className="quiet">{again ? words.youWereSignedOut : words.whyDoesTheMotor}</p>
        <label htmlFor="login">{words.name}</label>
        <Input
          id="login"
          name="username"
          autoComplete="username"
          autoCapitalize="none"
          autoFocus
          value={login}
          onChange={(e) => setLogin(e.target.value)}
        />
        <label htmlFor="password">{words.password}</label>
        <Password
          id="password"
          name="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {go.error && (
          <p className="wrong" role="alert">
            {go.error.message}
          </p>
        )}
        <Button type="primary" htmlType="submit" block loading={go.isPending} disabled={!login || !password}>
          {words.signIn}
        </Button>
      </form>
    </main>
  );
}
