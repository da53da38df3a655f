// What the keys do, for the list of them: the table that binds them is in keys.ts, and a key without its words here
// does not compile.
import type { KeyId, Where } from "./keys";

/** The places in which keys work, in the order of the list. */
export const wheres: Record<Where, string> = {
  everywhere: "Everywhere",
  board: "On the board",
  measure: "At Measure",
  look: "At a question",
  back: "At Put back",
  trace: "At a trace",
  trainer: "In the trainer",
};

/** What each key does. */
export const does: Record<KeyId, string> = {
  help: "this list",
  find: "find a job, a machine, a page or an action; the slash twice does the same",
  search: "search this page",
  go: "and then a letter or a number: go to a stage of the job, or to a page",
  start: "start a job",
  digits: "start typing a reading",
  record: "record what was typed",
  live: "take the live reading, when it has come to rest",
  another: "another reading",
  walk: "walk the path: black stays, red moves",
  cannot: "cannot reach this one",
  state: "next state of the circuit",
  strike: "strike out the last entry",
  leave: "leave the field; back to the advised reading",
  answer: "the first, second, third … answer",
  unsure: "not sure",
  flash: "with each flash of a blinking lamp",
  backNext: "the part that is named is back in its place",
  zoomIn: "closer",
  zoomOut: "further away",
  earlier: "earlier",
  later: "later",
  whole: "the whole trace",
  probe: "read the meter",
  ownState: "next state of the circuit",
  drillAnswer: "an answer of the drill",
  drillNext: "the next one of the drill",
};
