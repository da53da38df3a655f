import { type ReactNode } from "react";
import { Link } from "react-router";
import { useApp } from "./context";

/** The one row of navigation at the top of every view. */
export function Bar({ children, right }: { children?: ReactNode; right?: ReactNode }) {
  const { me, mode, setMode, signOut } = useApp();
  return (
    <header className="bar">
      <Link to="/" className="brand" title="All jobs (G B)">
        Corriente
      </Link>
      <div className="bar-mid">{children}</div>
      {right && <div className="bar-right">{right}</div>}
      <details className="menu">
        <summary aria-label="You and settings">{me.name.slice(0, 1)}</summary>
        <div className="menu-body">
          <p>{me.name}</p>
          <Link to="/circuits">Circuits</Link>
          <Link to="/codes">Blink codes</Link>
          <button type="button" onClick={() => setMode(mode === "dark" ? "light" : "dark")}>
            {mode === "dark" ? "Light view" : "Dark view"}
          </button>
          <button type="button" onClick={signOut}>
            Sign out
          </button>
        </div>
      </details>
    </header>
  );
}
