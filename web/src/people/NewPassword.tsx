import style from "./people.module.css";
import * as words from "./words";
import Password from "antd/es/input/Password";

/** A new password, typed once and seen: what is typed twice blind is wrong twice. */
export function NewPassword({
  value,
  onChange,
  id = "new-password",
}: {
  value: string;
  onChange: (v: string) => void;
  id?: string;
}) {
  const left = 10 - [...value].length;
  return (
    <label htmlFor={id}>
      {words.newPassword}
      <Password
        id={id}
        autoComplete="new-password"
        maxLength={200}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
      <small className={style.hint} aria-live="polite">
        {left > 0 ? words.atLeast10Letters(value ? words.toGo(left) : "") : words.longEnoughKeepIt}
      </small>
    </label>
  );
}
