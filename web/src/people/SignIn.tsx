import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, Refused } from "../api/client";
import { Shift, useShift } from "./Shift";
import * as words from "./words";
import Input from "antd/es/input/Input";
import Password from "antd/es/input/Password";

/** How the server says that a code from the phone is wanted as well: RFC 6585, 3. */
const codeWanted = 428;

export function SignIn({ again, onDone }: { again?: boolean; onDone?: () => void }) {
  const client = useQueryClient();
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const go = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: () => must(api.POST("/api/session", { body: { login, password, code } })),
    onSuccess: (me) => {
      client.setQueryData(["me"], me);
      if (again) void client.invalidateQueries();
      onDone?.();
    },
  });
  // Asked for after the password, of whoever has a second factor.
  const [asked, setAsked] = useState(false);
  const asksCode = go.error instanceof Refused && go.error.status === codeWanted;
  if (asksCode && !asked) setAsked(true);
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
          onChange={(e) => {
            setLogin(e.target.value);
            setAsked(false); // another may have no second factor
            go.reset();
          }}
        />
        <label htmlFor="password">{words.password}</label>
        <Password
          id="password"
          name="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {asked && (
          <>
            <label htmlFor="code">{words.codeFromYourPhone}</label>
            <Input
              id="code"
              name="code"
              autoComplete="one-time-code"
              inputMode="numeric"
              autoFocus
              aria-describedby="code-hint"
              value={code}
              onChange={(e) => setCode(e.target.value)}
            />
            <p className="quiet" id="code-hint">
              {words.noPhoneAtHand}
            </p>
          </>
        )}
        {go.error && !asksCode && (
          <p className="wrong" role="alert">
            {go.error.message}
          </p>
        )}
        <Button
          type="primary"
          htmlType="submit"
          block
          loading={go.isPending}
          disabled={!login || !password || (asked && !code)}
        >
          {words.signIn}
        </Button>
      </form>
    </main>
  );
}
