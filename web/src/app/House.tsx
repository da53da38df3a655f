import { useLocation, Link } from "react-router";
import { useLost } from "../offline/sync";
import { useApp } from "./context";
import css from "./House.module.css";
import { isAt, placesOf } from "./places";
import * as words from "./words";

/** The pages of the house and what belongs to the person: beside every page, or in the drawer of a small screen. */
export function House({
  onFind,
  onKeys,
  onGo,
}: {
  onFind: () => void;
  onKeys: () => void;
  onGo?: () => void;
}) {
  const app = useApp();
  const { me, mode, setMode, signOut } = app;
  const { pathname } = useLocation();
  const lost = useLost();
  const link = (to: string, label: string, here: boolean, current: boolean) =>
    lost && !here ? (
      <span key={to} className={`${css.place} ${css.away}`} title={words.needsTheConnection}>
        {label} <small>{words.needsTheConnection}</small>
      </span>
    ) : (
      <Link
        key={to}
        to={to}
        className={`${css.place} ${current ? css.current : ""}`}
        aria-current={current ? "page" : undefined}
        onClick={onGo}
      >
        {label}
      </Link>
    );
  return (
    <>
      <button type="button" className={css.find} onClick={onFind} title={words.aJobAMachine}>
        {words.find} <kbd>Ctrl K</kbd>
      </button>
      <nav className={css.places} aria-label={words.pages}>
        {placesOf(app).map((p) => link(p.to, p.label, !!p.here, isAt(p, pathname)))}
      </nav>
      <div className={css.person}>
        {link("/you", me.name, false, pathname === "/you")}
        <button
          type="button"
          className={css.place}
          onClick={() => setMode(mode === "dark" ? "light" : "dark")}
        >
          {mode === "dark" ? words.lightView : words.darkView}
        </button>
        <button type="button" className={css.place} onClick={onKeys}>
          {words.keys} <kbd>?</kbd>
        </button>
        <button type="button" className={css.place} onClick={signOut}>
          {me.device ? words.nextPerson : words.signOut}
        </button>
      </div>
    </>
  );
}
