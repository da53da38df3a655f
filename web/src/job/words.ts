// job.ts
export const throughThe = (label: string) => `through the ${label}`;
export const to = (nodeLabel: string, nodeLabel2: string) => `${nodeLabel} to ${nodeLabel2}`;
export const notSure = "not sure";
export const clampOnDcAmperes = (label: string) => `Clamp on DC amperes, zeroed, round the ${label}.`;
export const ohmsLeadsZeroedThe = (label: string) =>
  `Ohms, leads zeroed. The ${label} pulled out, leads across it.`;
export const ohmsLeadsZeroedOne = (from: string, to: string) =>
  `Ohms, leads zeroed. One lead on the ${from}, the other on the ${to}.`;
export const acVoltsOneLead = (from: string, to: string) =>
  `AC volts. One lead on ${from}, the other on ${to}.`;
export const hertzOneLeadOn = (from: string, to: string) => `Hertz. One lead on ${from}, the other on ${to}.`;
export const microfaradsCapacitorDischargedAnd = (from: string, to: string) =>
  `Microfarads, capacitor discharged and off its wires. One lead on the ${from}, the other on the ${to}.`;
export const dcVoltsRedOn = (from: string, to: string) => `DC volts. Red on the ${from}, black on the ${to}.`;
export const hz = "Hz";
export const closesThe = (contact: string) => `closes the ${contact}`;
export const liftsTheBrake = "lifts the brake";
export const swapTheForThe = (label: string) => `Swap the ${label} for the known good one: does it work now?`;

// stages.ts
export const complaint = "Complaint";
export const quickChecks = "Quick checks";
export const measure = "Measure";
export const trace = "Trace";
export const stripDown = "Strip-down";
export const decide = "Decide";
export const putBack = "Put back";
export const prove = "Prove";
export const report = "Report";

// repairs.ts
export const toDo = "To do";
export const leftAsItIs = "Left as it is";
export const takenBack = "Taken back";
export const doneNotProvedYet = "Done, not proved yet";
export const doneAndNotGood = "Done, and not good";
export const provedGood = "✓ Proved good";
export const acceptedWithARemark = "✓ Accepted with a remark";
export const theLastingRepairHas = "✓ The lasting repair has followed";

// RepairList.tsx
export const agreedAt = (price: string) => `agreed at ${price}`;
export const chosenByThe = (by: string, text: string, text2: string) => `chosen by the ${by}${text}${text2}`;
export const againstTheAdvice = (setaside: string) => `; against the advice: ${setaside}`;
export const until = (until: string) => `, until ${until}`;
export const temporary = (text: string, limit: string) => `⚠ Temporary${text}: ${limit}`;
export const done = (what: string) => `Done: ${what}`;
export const proveIt = "Prove it";
export const whatWasDone = "What was done";
export const theWorkIsDone = "The work is done";
export const readingsFromThenOn = "Readings from then on are taken after it.";
export const whatWasDoneAs = "What was done, as it goes on the papers";
export const whatWasDoneWithParts = (parts: string) => `What was done: ${parts}`;
export const keep = "Keep";

// JobFrame.tsx
export const jobFrameDone = "Done.";
export const hereItGoesOn = "Here it goes on.";
export const notNeededSoFar = "Not needed so far.";
export const backToTheBoard = "Back to the board";
export const waitsAndBench = "Waits and bench";
export const whatItWaitsFor = "What it waits for, where it is, who has it";
export const stage = "Stage";
export const stagesOfTheJob = "Stages of the job";
export const oneMoment = "One moment …";
export const readingTheJob = "Reading the job …";
export const next = "Next";
export const whereItGoesOn = "Where it goes on";
