import { Input } from "antd";
import style from "./people.module.css";

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
      New password
      <Input.Password
        id={id}
        autoComplete="new-password"
        maxLength={200}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
      <small className={style.hint} aria-live="polite">
        {left > 0
          ? `At least 10 letters${value ? `, ${left} to go` : ""}. Three words that do not belong together are good.`
          : "Long enough. Keep it to yourself."}
      </small>
    </label>
  );
}
