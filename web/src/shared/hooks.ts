import { useEffect, useRef, useState, useSyncExternalStore } from "react";

const typing = (t: EventTarget | null) =>
  t instanceof HTMLElement && (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName));

/** Single keys, while nobody types into a field and no dialog is open. The handler returns true when it took the key. */
export function useKeys(handle: (key: string, e: KeyboardEvent) => boolean) {
  const ref = useRef(handle);
  useEffect(() => {
    ref.current = handle;
  });
  useEffect(() => {
    const on = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || typing(e.target) || document.querySelector("[role=dialog]"))
        return;
      if (ref.current(e.key, e)) e.preventDefault();
    };
    window.addEventListener("keydown", on);
    return () => window.removeEventListener("keydown", on);
  }, []);
}

export function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (f) => {
      const m = window.matchMedia(query);
      m.addEventListener("change", f);
      return () => m.removeEventListener("change", f);
    },
    () => window.matchMedia(query).matches,
  );
}

export const useNarrow = () => useMedia("(max-width: 760px)");

/** The width of an element, followed. */
export function useWidth<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const el = ref.current;
    if (!el) return;
    const ro = new ResizeObserver(() => setWidth(el.clientWidth));
    ro.observe(el);
    return () => ro.disconnect();
  }, []);
  return [ref, width] as const;
}

/** The value after it has rested for ms. */
export function useRested<T>(value: T, ms: number): T {
  const [v, setV] = useState(value);
  useEffect(() => {
    const t = setTimeout(() => setV(value), ms);
    return () => clearTimeout(t);
  }, [value, ms]);
  return v;
}

/**
 * Puts the focus on what is to be done, so that keys and screen readers go on there; not out of a field that somebody
 * types into already, who would lose their Enter.
 */
export function toCard() {
  requestAnimationFrame(() => {
    if (!typing(document.activeElement))
      document.querySelector<HTMLElement>(".next h1, .verdict h1")?.focus({ preventScroll: true });
  });
}
