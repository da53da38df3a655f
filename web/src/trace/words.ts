import { plural } from "../shared/plural";

// engine.ts
export const thisBrowserCannotRun = "This browser cannot run the analysis: update it.";
export const openBothTracesAgain = "open both traces again: one is held here and one by the server";

// export.ts

// Ring.tsx
export const noWeakOne = "no weak one";
export const low = (i: number, levels: number) => `${i}, ${levels} % low`;
export const oneRevolutionInHumps = (n: number, says: string) => `One revolution in ${n} humps, ${says}`;
export const aTurn = (n: number) => `${n} a turn`;
export const allAlike = "All alike";
export const copperArcsTheOther = "; copper arcs: the other motor";
export const ringTheMean = (charAt: string, other: string) => `${charAt}. Ring: the mean${other}.`;

// Chart.tsx
export const seconds = "seconds";
export const amperes = "amperes";
export const otherLeast = "other, least";
export const otherGreatest = "other, greatest";
export const currentOverTimePlus = "Current over time. Plus and minus zoom, the arrows move, Home shows all.";
export const zoomIn = "Zoom in";
export const zoomOut = "Zoom out";
export const all = "All";
export const touchTheTraceTo = "Touch the trace to set a cursor, again for a second";
export const cursorAtMs = (fixed: string) => `Cursor at ${fixed} ms`;
export const msApartHz = (abs: string, abs2: string) => `${abs} ms apart, ${abs2} Hz`;

// Trace.tsx
export const asTheFileSays = "as the file says";
export const notToBeTold = "not to be told";
export const anotherTrace = "Another trace";
export const openAScopeS = "Open a scope’s CSV";
export const trace = "Trace";
export const captureFrom = (scope: string) => `Capture from ${scope}`;
export const layAnotherOverIt = "Lay another over it";
export const traceToCompareWith = "Trace to compare with";
export const clamp = "Clamp";
export const clampScale = "Clamp scale";
export const channel = "Channel";
export const bars = "Bars";
export const barsOfTheCommutator = "Bars of the commutator";
export const brushes = "Brushes";
export const reading = "Reading";
export const readingWithBusy = (busy: number) => `Reading, ${busy} %`;
export const cancel = "Cancel";
export const clampRoundTheMotor =
  "Clamp round the motor’s feed, the scope on the clamp, the motor running for a second or more. What the scope writes as CSV is read here: comma, semicolon or tab, with or without a time column.";
export const drawingTheTrace = "Drawing the trace …";
export const mean = "Mean";
export const effectiveRms = "Effective (rms)";
export const peak = "Peak";
export const inrush = "Inrush";
export const noStartInThe = "no start in the trace";
export const ripple = "Ripple";
export const speed = "Speed";
export const sure = (confidence: number) => `, ${confidence} % sure`;
export const giveTheNumber = "give the number";
export const dropouts = "Dropouts";
export const chopped = "Chopped";
export const hz = "Hz";
export const save = "Save";
export const figuresJson = "figures, JSON";
export const figuresCsv = "figures, CSV";
export const traceCsv = "trace, CSV";
export const keepWithThisJob = "Keep with this job";
export const taken = "Taken";
export const stateItWasTaken = "State it was taken in";
export const countItAsEvidence = "Count it as evidence";
export const countedTheSuspectsOn = "✓ Counted: the suspects on Measure follow.";
export const giveTheNumberOf = "Give the number of bars first.";
export const keptWithThisJob = "Kept with this job";
export const rpm = (rpm: string) => `, ${rpm} rpm`;
export const barsAndHumps = (bars: number, humps: number) =>
  `${bars}, ${plural(humps, { one: "1 hump", other: `${humps} humps` })} a turn`;
export const countsAs = (word: string, amperes: string) => `As: ${word}, and ${amperes} A on the mean`;
