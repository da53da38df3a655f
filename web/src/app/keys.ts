// Every key of the application: bound by this table, and listed from it.
import { useKeys } from "../shared/hooks";

/** Where a key works, in the order of the list. */
export const wheres = {
  everywhere: "Everywhere",
  board: "On the board",
  measure: "At Measure",
  look: "At a question",
  back: "At Put back",
  trace: "At a trace",
  trainer: "In the trainer",
} as const;

interface Key {
  where: keyof typeof wheres;
  /** What the key is called on the list. */
  shown: string;
  /** The keys themselves, letters in lower case. */
  is: string | RegExp;
  what: string;
}

const table = {
  help: { where: "everywhere", shown: "?", is: "?", what: "this list" },
  find: {
    where: "everywhere",
    shown: "Ctrl K",
    is: /^$/, // with Ctrl, or the slash twice: bound where it is found
    what: "find a job, a machine, a page or an action; the slash twice does the same",
  },
  search: { where: "everywhere", shown: "/", is: "/", what: "search this page" },
  go: {
    where: "everywhere",
    shown: "G",
    is: "g",
    what: "and then a letter or a number: go to a stage of the job, or to a page",
  },
  start: { where: "board", shown: "N", is: "n", what: "start a job" },
  digits: {
    where: "measure",
    shown: "0-9 - . O",
    is: /^[0-9.,o-]$/,
    what: "start typing a reading",
  },
  record: { where: "measure", shown: "Enter", is: "enter", what: "record what was typed" },
  live: {
    where: "measure",
    shown: "Space",
    is: " ",
    what: "take the live reading, when it has come to rest",
  },
  another: { where: "measure", shown: "N", is: "n", what: "another reading" },
  walk: { where: "measure", shown: "W", is: "w", what: "walk the path: black stays, red moves" },
  cannot: { where: "measure", shown: "C", is: "c", what: "cannot reach this one" },
  state: { where: "measure", shown: "S", is: "s", what: "next state of the circuit" },
  strike: { where: "measure", shown: "U", is: "u", what: "strike out the last entry" },
  leave: {
    where: "measure",
    shown: "Esc",
    is: "escape",
    what: "leave the field; back to the advised reading",
  },
  answer: {
    where: "look",
    shown: "1 to 9",
    is: /^[1-9]$/,
    what: "the first, second, third … answer",
  },
  unsure: { where: "look", shown: "0", is: "0", what: "not sure" },
  flash: { where: "look", shown: "Space", is: " ", what: "with each flash of a blinking lamp" },
  backNext: {
    where: "back",
    shown: "Enter",
    is: /^(enter| )$/,
    what: "the part that is named is back in its place",
  },
  zoomIn: { where: "trace", shown: "+", is: /^[+=]$/, what: "closer" },
  zoomOut: { where: "trace", shown: "-", is: "-", what: "further away" },
  earlier: { where: "trace", shown: "←", is: "arrowleft", what: "earlier" },
  later: { where: "trace", shown: "→", is: "arrowright", what: "later" },
  whole: { where: "trace", shown: "Home", is: "home", what: "the whole trace" },
  probe: { where: "trainer", shown: "Enter", is: "enter", what: "read the meter" },
  ownState: { where: "trainer", shown: "S", is: "s", what: "next state of the circuit" },
  drillAnswer: { where: "trainer", shown: "1 to 9", is: /^[1-9]$/, what: "an answer of the drill" },
  drillNext: { where: "trainer", shown: "Enter", is: /^(enter| )$/, what: "the next one of the drill" },
} as const satisfies Record<string, Key>;

export type KeyId = keyof typeof table;

const matches = (k: Key, key: string) => (typeof k.is === "string" ? k.is === key : k.is.test(key));

/** The list of keys, by where they work. */
export const keyList = (Object.keys(wheres) as (keyof typeof wheres)[]).map((where) => ({
  title: wheres[where],
  keys: (Object.entries(table) as [KeyId, Key][])
    .filter(([, k]) => k.where === where)
    .map(([id, k]) => ({ id, shown: k.shown, what: k.what })),
}));

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
