import { plural } from "../shared/plural";

// Machines.tsx
export const machines = "Machines";
export const searchMachines = "Search machines";
export const nameTypeOrPlace = "Name, type or place  ( / )";
export const noMachineIsCalled = (find: string) => `No machine is called “${find}”. Fewer letters find more.`;
export const noMachineWasHere = "No machine was here yet. It is entered with its first job.";
export const built = (built: number) => `built ${built}`;

// About.tsx
export const change = "Change";
export const sayWhenItWas = "Say when it was built";
export const name = "Name";
export const type = "Type";
export const whereItStands = "Where it stands";
export const note = "Note";
export const builtInYear = "Built in (year)";
export const keep = "Keep";
export const keepMineOverTheirs = "Keep mine over theirs";
export const cancel = "Cancel";

// MachinePage.tsx
export const startAJobOn = "Start a job on it";
export const toCome = "To come";
export const nothingIsDue = "Nothing is due.";
export const jobs = (n: number) => plural(n, { one: "1 job", other: `${n} jobs` });
export const itWasNeverHere = "It was never here.";
export const whatWasFittedAnd = "What was fitted and done";
export const noWorkWasEntered = "No work was entered as done.";
export const notProved = "not proved";
export const blinkCodesItShowed = "Blink codes it showed";
export const noneWasRead = "None was read.";
export const noDayYet = "no day yet";
export const open = "open";
export const itsValues = "Its values";
export const noneIsKnownThey = "None is known. They are given at Complaint, from the plate or the manual.";
export const wiringOfThisType = "Wiring of this type";
export const pin = (pin: string) => `pin ${pin}`;
export const photos = "Photos";
export const labelForTheMachine = "Label for the machine";
export const stickItOnThe = "Stick it on the machine: a phone that looks at it opens this page.";
export const printTheLabel = "Print the label";
