import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, must } from "../api/client";
import { NewPassword } from "./NewPassword";
import style from "./people.module.css";
import * as words from "./words";

/** Where a link of the owner's leads: choose a password, once. */
export function Join() {
  const client = useQueryClient();
  const nav = useNavigate();
  const [token] = useState(() => window.location.hash.slice(1));
  const [password, setPassword] = useState("");
  const whom = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => must(api.POST("/api/invitation", { body: { token } })),
    retry: false,
    staleTime: Infinity,
  });
  const go = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: () => must(api.POST("/api/invitation/accept", { body: { token, password } })),
    onSuccess: (me) => {
      client.setQueryData(["me"], me);
      void nav("/", { replace: true });
    },
  });
  return (
    <main className="signin">
      <form
        className={`card ${style.form}`}
        onSubmit={(e) => {
          e.preventDefault();
          go.mutate();
        }}
      >
        <h1 className="brand">{words.product}</h1>
        {whom.isPending && <p className="quiet">{words.oneMoment}</p>}
        {whom.error && (
          <>
            <p className="wrong" role="alert">
              {whom.error.message}
            </p>
            <Button onClick={() => void nav("/", { replace: true })}>{words.toTheSignIn}</Button>
          </>
        )}
        {whom.data && (
          <>
            <p>
              {words.welcome} <b>{whom.data.name}</b>
              {words.chooseAPasswordFrom} <b>{whom.data.login}</b>.
            </p>
            <NewPassword value={password} onChange={setPassword} />
            {go.error && (
              <p className="wrong" role="alert">
                {go.error.message}
              </p>
            )}
            <Button type="primary" htmlType="submit" block loading={go.isPending} disabled={!password}>
              {words.keepItAndOpen}
            </Button>
          </>
        )}
      </form>
    </main>
  );
}
