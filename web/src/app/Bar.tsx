import { useEffect, useRef, type ReactNode } from "react";
import { Link, useLocation } from "react-router";
import { drop, useLink, useLost } from "../offline/sync";
import { useApp } from "./context";

/** The one row of navigation at the top of every view. */
export function Bar({ children, right }: { children?: ReactNode; right?: ReactNode }) {
  const { me, mode, setMode, signOut, mayManage } = useApp();
  const menu = useRef<HTMLDetailsElement>(null);
  const { pathname } = useLocation();
  // It closes where one went, at Escape, and at a touch beside it.
  useEffect(() => {
    if (menu.current) menu.current.open = false;
  }, [pathname]);
  useEffect(() => {
    const close = (e: Event) => {
      const m = menu.current;
      if (!m?.open) return;
      const away = e instanceof KeyboardEvent ? e.key === "Escape" : !m.contains(e.target as Node);
      if (!away) return;
      m.open = false;
      if (e instanceof KeyboardEvent) m.querySelector("summary")?.focus();
    };
    document.addEventListener("pointerdown", close);
    document.addEventListener("keydown", close);
    return () => {
      document.removeEventListener("pointerdown", close);
      document.removeEventListener("keydown", close);
    };
  }, []);
  return (
    <>
      <LinkState />
      <header className="bar">
        <Link to="/" className="brand" title="All jobs (G B)">
          Corriente
        </Link>
        <div className="bar-mid">{children}</div>
        {right && <div className="bar-right">{right}</div>}
        <details className="menu" ref={menu}>
          <summary aria-label="You and settings">{me.name.slice(0, 1)}</summary>
          <div className="menu-body">
            <p>{me.name}</p>
            <Link to="/training">Trainer</Link>
            <Page to="/logbook">Logbook</Page>
            <Page to="/circuits">Circuits</Page>
            <Page to="/codes">Blink codes</Page>
            <Page to="/instruments">Meters</Page>
            {mayManage && <Page to="/people">People</Page>}
            {mayManage && <Page to="/settings">Settings</Page>}
            <Page to="/you">You</Page>
            <button type="button" onClick={() => setMode(mode === "dark" ? "light" : "dark")}>
              {mode === "dark" ? "Light view" : "Dark view"}
            </button>
            <button type="button" onClick={signOut}>
              {me.device ? "Next person" : "Sign out"}
            </button>
          </div>
        </details>
      </header>
    </>
  );
}

/** The way to a page that needs the server: while that cannot be reached, the page is named and not opened. */
function Page({ to, children }: { to: string; children: string }) {
  return useLost() ? (
    <span className="away" title="needs the connection">
      {children} <small>needs the connection</small>
    </span>
  ) : (
    <Link to={to}>{children}</Link>
  );
}

/** Says when the connection is gone, what waits to be sent, and what the server would not take. */
function LinkState() {
  const { lost, waiting } = useLink();
  const open = waiting.filter((w) => !w.refused);
  const refused = waiting.filter((w) => w.refused);
  if (!lost && waiting.length === 0) return null;
  const n = open.reduce((s, w) => s + (w.evidence?.length ?? 1), 0);
  return (
    <div className="link-state" role="status">
      {lost && <b>No connection. </b>}
      {n > 0 && `${n} ${n === 1 ? "entry is" : "entries are"} kept here and sent when it is back. `}
      {lost && n === 0 && "Jobs and exercises that were opened here can be gone on with. "}
      {refused.map((w) => (
        <span key={w.id}>
          Not taken by the server: {w.refused}{" "}
          <button type="button" className="link" onClick={() => void drop(w.id)}>
            forget it
          </button>
        </span>
      ))}
    </div>
  );
}
