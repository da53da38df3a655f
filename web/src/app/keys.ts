// Every key of the application: bound by this table, and listed from it.
import { useKeys } from "../shared/hooks";

/** Where a key works. */
export type Where = "everywhere" | "board" | "measure" | "look" | "back" | "trace" | "trainer";

interface Key {
  where: Where;
  /** What the key is called on the list. */
  shown: string;
  /** The keys themselves, letters in lower case. */
  is: string | RegExp;
}

const table = {
  help: { where: "everywhere", shown: "?", is: "?" },
  find: {
    where: "everywhere",
    shown: "Ctrl K",
    is: /^$/, // with Ctrl, or the slash twice: bound where it is found
  },
  search: { where: "everywhere", shown: "/", is: "/" },
  go: {
    where: "everywhere",
    shown: "G",
    is: "g",
  },
  start: { where: "board", shown: "N", is: "n" },
  digits: {
    where: "measure",
    shown: "0-9 - . O",
    is: /^[0-9.,o-]$/,
  },
  record: { where: "measure", shown: "Enter", is: "enter" },
  live: {
    where: "measure",
    shown: "Space",
    is: " ",
  },
  another: { where: "measure", shown: "N", is: "n" },
  walk: { where: "measure", shown: "W", is: "w" },
  cannot: { where: "measure", shown: "C", is: "c" },
  state: { where: "measure", shown: "S", is: "s" },
  strike: { where: "measure", shown: "U", is: "u" },
  leave: {
    where: "measure",
    shown: "Esc",
    is: "escape",
  },
  answer: {
    where: "look",
    shown: "1 to 9",
    is: /^[1-9]$/,
  },
  unsure: { where: "look", shown: "0", is: "0" },
  flash: { where: "look", shown: "Space", is: " " },
  backNext: {
    where: "back",
    shown: "Enter",
    is: /^(enter| )$/,
  },
  zoomIn: { where: "trace", shown: "+", is: /^[+=]$/ },
  zoomOut: { where: "trace", shown: "-", is: "-" },
  earlier: { where: "trace", shown: "←", is: "arrowleft" },
  later: { where: "trace", shown: "→", is: "arrowright" },
  whole: { where: "trace", shown: "Home", is: "home" },
  probe: { where: "trainer", shown: "Enter", is: "enter" },
  ownState: { where: "trainer", shown: "S", is: "s" },
  drillAnswer: { where: "trainer", shown: "1 to 9", is: /^[1-9]$/ },
  drillNext: { where: "trainer", shown: "Enter", is: /^(enter| )$/ },
} as const satisfies Record<string, Key>;

export type KeyId = keyof typeof table;

const matches = (k: Key, key: string) => (typeof k.is === "string" ? k.is === key : k.is.test(key));

/** The keys that work in one place, in the order of the list. */
export const keysAt = (where: Where) =>
  (Object.entries(table) as [KeyId, Key][])
    .filter(([, k]) => k.where === where)
    .map(([id, k]) => ({ id, shown: k.shown }));

/**
 * Binds keys of the table while nobody types into a field and no dialog is open. A handler that answers false did not
 * take the key.
 */
export function useBound(handlers: Partial<Record<KeyId, (key: string) => unknown>>) {
  useKeys((key) => {
    const low = key.toLowerCase();
    for (const [id, run] of Object.entries(handlers) as [KeyId, (key: string) => unknown][])
      if (matches(table[id], low) && run(key) !== false) return true;
    return false;
  });
}
