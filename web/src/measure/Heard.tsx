import { useState } from "react";
import { answer, subject, useJob } from "../job/job";
import { share } from "../shared/format";
import * as words from "./words";

/** What a screen reader hears once an entry is weighed: what was taken down, and who leads the suspects now. */
export function Heard() {
  const { job, circuit, then } = useJob();
  const [before] = useState(job.evidence.length); // of what was there already nothing is said
  const last = job.evidence.at(-1);
  const leads = job.suspects[0];
  const says =
    then === undefined && job.evidence.length > before && last && !job.thinking
      ? words.recorded(subject(circuit, last), answer(circuit, last)) +
        (leads ? ` ${words.leads(leads.fault || leads.label, share(leads.probability))}` : "")
      : "";
  return (
    <p className="heard" role="status">
      {says}
    </p>
  );
}
