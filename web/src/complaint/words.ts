import { plural } from "../shared/plural";

// Known.tsx
export const whatIsKnownOf = "What is known of this machine";
export const thisCanBeChanged = "This can be changed";
export const whatIsNew = "What is new?";
export const newPartsFailLess = "new parts fail less";
export const whatWasApartBefore = "What was apart before?";
export const whatSomebodyHadTheir = "what somebody had their hands on";
export const knownGoodPartsOn = "Known good parts on the shelf";
export const forASwapTest = "for a swap test";
export const leaning = "Leaning";
export const noCurrentClampAt = (noClamp: string) => `${noClamp}No current clamp at hand`;
export const aScopeWithA = (scope: string) => `${scope}A scope with a clamp is at hand`;
export const whatThisShiftsBefore = "What this shifts before any reading";
export const timesLikelier = (factor: string) => `${factor} times likelier`;
export const timesLessLikely = (factor: string) => `${factor} times less likely`;
export const to = (from: string, to: string) => `${from} to ${to}`;
export const aRangeOfOhms = "A range of ohms from the manual";
export const coilMotorWinding = "coil, motor, winding";
export const from = "From";
export const knownTo = "To";
export const keep = "Keep";
export const to2 = "to";
export const takeBack = "take back";
export const theMotorSPlate = "The motor’s plate, what you can read of it";
export const power = "Power";
export const exampleKw = "0.8 kW";
export const voltage = "Voltage";
export const current = "Current";
export const speed = "Speed";
export const exampleRpm = "1500 rpm";
export const atItsWorkIt = (low: string) => `At its work it takes ${low} by its plate.`;
export const asJobsHereTook = (n: number) =>
  `, as ${n} ${plural(n, { one: "job", other: "jobs" })} here took`;
export const supply = "Supply";
export const anotherValueOfThis = "Another value of this vehicle (manual, measured good)";
export const fuseCableCoilCapacitor = "fuse, cable, coil, capacitor …";
export const value = "Value";
export const exampleSize = "35 mm² or AWG 4";
export const usually = (usual: string) => `usually ${usual}`;
export const cableLengthM = "Cable length, m";
export const bySizeLengthM = "by size: length, m";
export const gettingThereTakes = "Getting there takes";
export const chooseWhatToOpen = "choose what to open";
export const min = (accesslabels: string, access: number, learnedFrom: string) =>
  `${accesslabels}: ${access} min${learnedFrom}`;
export const minutes = "Minutes";
export const controllerWhoseLampIs = "Controller whose lamp is read";
export const wireColoursOfA = (kind: string) =>
  `. Wire colours of a ${kind} are kept at each point of the path`;
export const withoutAValueThe = (text: string) =>
  `Without a value the usual one stands in and is taken as uncertain${text}.`;

// Complaint.tsx
export const afterAKnock = "after a knock";
export const saving = "saving …";
export const leaveTheFieldTo = "leave the field to save";
export const whatDoesItDo = "What does it do, or not do?";
export const countsUntilSomebodyHas = (complaint: string) =>
  `Counts until somebody has looked: ${complaint}.`;
export const when = "When?";
export const itComesAndGoes = "It comes and goes";
export const aReadingTakenWhile =
  "A reading taken while the fault is away clears nothing: say with each one whether the fault was there.";
export const whoHadItApart = "Who had it apart before, and what is new?";
export const beforeYouTouchIt = "Before you touch it";
export const readAndUnderstood = "✓ Read and understood";
export const complaintReadAndUnderstood = "Read and understood";
export const quickChecks = "Quick checks";
export const measure = "Measure";
export const itCanBeSaved = "It can be saved as a case file when the connection is back.";
export const saveAsACase = "Save as a case file";
