import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, must, type Me } from "../api/client";
import style from "./people.module.css";
import * as words from "./words";
import Password from "antd/es/input/Password";

/** Whom a shared device offers; nobody where it is none. */
export const useShift = () =>
  useQuery({ queryKey: ["shift"], queryFn: () => must(api.GET("/api/shift")), retry: false });

/** On a shared device: who are you, and your PIN. */
export function Shift({ onDone }: { onDone?: (me: Me) => void }) {
  const client = useQueryClient();
  const shift = useShift();
  const [person, setPerson] = useState("");
  const [pin, setPin] = useState("");
  const go = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: () => must(api.POST("/api/shift", { body: { person, pin } })),
    onSuccess: (me) => {
      client.setQueryData(["me"], me);
      onDone?.(me);
    },
    onError: () => setPin(""),
  });
  const whom = shift.data?.people.find((p) => p.id === person);
  if (!shift.data?.people.length) return null;
  if (!whom)
    return (
      <div className={style.shift} role="group" aria-label={words.whoAreYou(shift.data.device)}>
        <b>{words.shiftWhoAreYou}</b>
        {shift.data.people.map((p) => (
          <Button key={p.id} size="large" onClick={() => setPerson(p.id)}>
            {p.name}
          </Button>
        ))}
      </div>
    );
  return (
    <form
      className={style.form}
      onSubmit={(e) => {
        e.preventDefault();
        go.mutate();
      }}
    >
      <label>
        {words.yourPin(whom.name)}
        <Password
          autoFocus
          inputMode="numeric"
          autoComplete="off"
          maxLength={8}
          visibilityToggle={false}
          value={pin}
          onChange={(e) => setPin(e.target.value)}
        />
      </label>
      {go.error && (
        <p className="wrong" role="alert">
          {go.error.message}
        </p>
      )}
      <div className="next-tools">
        <Button
          type="primary"
          size="large"
          htmlType="submit"
          loading={go.isPending}
          disabled={pin.length < 4}
        >
          {words.goOnAs(whom.name)}
        </Button>
        <Button size="large" onClick={() => setPerson("")}>
          {words.somebodyElse}
        </Button>
      </div>
    </form>
  );
}
