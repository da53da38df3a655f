import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { Link, useLocation } from "react-router";
import { useMedia } from "../shared/hooks";
import { useApp } from "./context";
import { FrameContext } from "./frame";
import { Going } from "./Going";
import { House } from "./House";
import css from "./House.module.css";
import { useBound } from "./keys";
import { placeTargets } from "./places";
import * as words from "./words";

const Find = lazy(async () => ({ default: (await import("../find/Find")).Find }));
const KeyHelp = lazy(async () => ({ default: (await import("./KeyHelp")).KeyHelp }));
const Drawer = lazy(async () => ({ default: (await import("./HouseDrawer")).HouseDrawer }));

/** How soon the second slash must follow the first. */
const twice = 800;

/** What stands around every page: the pages of the house, what finds anything, the list of keys. */
export function Frame({ children }: { children: ReactNode }) {
  const app = useApp();
  const { pathname } = useLocation();
  const wide = useMedia("(min-width: 1001px)");
  const [open, setOpen] = useState<"find" | "keys" | "house">();
  const close = useCallback(() => setOpen(undefined), []);
  const targets = placeTargets(app);
  const inJob = pathname.startsWith("/jobs/");

  useBound({ help: () => setOpen("keys") });
  // Ctrl K from anywhere, also out of a field; the slash twice, the second one into the empty field of the search.
  const slash = useRef(-Infinity);
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && !e.altKey && e.key.toLowerCase() === "k") {
        e.preventDefault();
        setOpen("find");
        return;
      }
      if (e.key !== "/" || e.ctrlKey || e.metaKey) return;
      const t = e.target;
      const typed = t instanceof HTMLInputElement ? t.value : t instanceof HTMLTextAreaElement ? "/" : "";
      if (typed === "" && e.timeStamp - slash.current < twice) {
        e.preventDefault();
        setOpen("find");
      }
      slash.current = e.timeStamp;
    };
    window.addEventListener("keydown", on, { capture: true });
    return () => window.removeEventListener("keydown", on, { capture: true });
  }, []);

  const frame = useMemo(() => ({ wide, openHouse: () => setOpen("house") }), [wide]);
  const house = (onGo?: () => void) => (
    <House onFind={() => setOpen("find")} onKeys={() => setOpen("keys")} onGo={onGo} />
  );
  return (
    <FrameContext value={frame}>
      <div className={wide ? css.frame : undefined}>
        {wide && (
          <header className={css.rail}>
            <Link to="/" className={css.brand}>
              {words.product}
            </Link>
            {house()}
          </header>
        )}
        <div className={css.content}>{children}</div>
      </div>
      {/* In a job the stages have their letters beside these: it lists both. */}
      {!inJob && <Going targets={targets} />}
      <Suspense>
        {open === "find" && <Find onClose={close} onKeys={() => setOpen("keys")} />}
        {open === "keys" && <KeyHelp onClose={close} />}
        {open === "house" && !wide && (
          <Drawer onClose={close}>
            <div className={css.drawer}>{house(close)}</div>
          </Drawer>
        )}
      </Suspense>
    </FrameContext>
  );
}
