import { Button } from "antd";
import { useState } from "react";
import type { Job } from "../api/client";
import * as words from "./words";

/** Whether the fault was there just now: asked with each reading of an intermittent complaint. */
export function useSymptom(job: Job) {
  const [s, set] = useState("unknown");
  return [job.intermittent ? s : undefined, set] as const;
}

const answers: [string, string][] = [
  ["present", words.itShowedTheFault],
  ["absent", words.theFaultWasAway],
  ["unknown", words.cannotSay],
];

export function SymptomBar({ value, onChange }: { value?: string; onChange: (v: string) => void }) {
  return (
    <div className="symptom" role="group" aria-label={words.wasTheFaultThere}>
      {answers.map(([v, label]) => (
        <Button
          key={v}
          size="middle"
          type={value === v ? "primary" : "default"}
          aria-pressed={value === v}
          onClick={() => onChange(v)}
        >
          {label}
        </Button>
      ))}
    </div>
  );
}
