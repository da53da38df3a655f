import { Button } from "antd";
import { useState } from "react";
import type { Job } from "../api/client";

/** Whether the fault was there just now: asked with each reading of an intermittent complaint. */
export function useSymptom(job: Job) {
  const [s, set] = useState("unknown");
  return [job.intermittent ? s : undefined, set] as const;
}

const words: [string, string][] = [
  ["present", "It showed the fault"],
  ["absent", "The fault was away"],
  ["unknown", "Cannot say"],
];

export function SymptomBar({ value, onChange }: { value?: string; onChange: (v: string) => void }) {
  return (
    <div className="symptom" role="group" aria-label="Was the fault there just now?">
      {words.map(([v, label]) => (
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
