/** A stage of the job, in the order people work, with its letter after G. */
export const stages = [
  { id: "complaint", label: "Complaint", key: "c" },
  { id: "checks", label: "Quick checks", key: "q" },
  { id: "measure", label: "Measure", key: "m" },
  { id: "trace", label: "Trace", key: "t" },
  { id: "strip", label: "Strip-down", key: "s" },
  { id: "decide", label: "Decide", key: "d" },
  { id: "back", label: "Put back", key: "p" },
  { id: "prove", label: "Prove", key: "v" },
  { id: "report", label: "Report", key: "r" },
] as const;
