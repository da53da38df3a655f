import { plural } from "../shared/plural";

// Circuits.tsx
export const plugOrJoint = "plug or joint";
export const wire = "wire";
export const fuse = "fuse";
export const switchOrRelayContact = "switch or relay contact";
export const ourOwn = (title: string) => `${title}, our own`;
export const circuits = "Circuits";
export const nameOfTheCircuit = "Name of the circuit";
export const kept = "Kept";
export const keepThisCircuit = "Keep this circuit";
export const keepMineOverTheirs = "Keep mine over theirs";
export const copyAndChangeIt = "Copy and change it";
export const saveAsAFile = "Save as a file";
export const allCircuits = "All circuits";
export const touchAPartOn = (draft: string) => `Touch a part on the path to see and change it${draft}.`;
export const copyACircuitAnd = "Copy a circuit, and make it like the machine in front of you.";
export const importACircuitFile = "Import a circuit file";
export const mainsDeadTestsOnly = "mains, dead tests only";
export const parts = (n: number, mains: string) =>
  `${plural(n, { one: "1 part", other: `${n} parts` })}, ${mains}`;
export const open = "Open";
export const copy = "Copy";
export const name = "Name";
export const whereItSits = "Where it sits";
export const takeItOut = "Take it out";
export const putAPartBehind = "Put a part behind it";
export const itsName = "its name";
export const kindOfPart = "Kind of part";
export const putItIn = "Put it in";
export const siUnitsOhmVolt = "SI units: ohm, volt, ampere, N m, V s/rad. Each is taken as uncertain.";
