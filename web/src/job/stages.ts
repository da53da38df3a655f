/** A stage of the job, in the order people work, with its letter after G. */
import * as words from "./words";

export const stages = [
  { id: "complaint", label: words.complaint, key: "c" },
  { id: "checks", label: words.quickChecks, key: "q" },
  { id: "measure", label: words.measure, key: "m" },
  { id: "trace", label: words.trace, key: "t" },
  { id: "strip", label: words.stripDown, key: "s" },
  { id: "decide", label: words.decide, key: "d" },
  { id: "back", label: words.putBack, key: "p" },
  { id: "prove", label: words.prove, key: "v" },
  { id: "report", label: words.report, key: "r" },
] as const;
