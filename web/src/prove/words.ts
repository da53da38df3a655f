import { plural } from "../shared/plural";

// Prove.tsx
export const readingTheProof = "Reading the proof …";
export const theWorkIsNot = "The work is not recorded yet";
export const nothingWasDoneYet = "Nothing was done yet";
export const whatWasChosenUnder = "What was chosen under";
export const decide = "Decide";
export const isProvedHereOn = "is proved here, on the same readings as before.";
export const leaveThisJobOut = "Leave this job out of what is learned";
export const needsTheConnection = "(needs the connection)";
export const at = (counter: string) => `At ${counter}. `;
export const theProofOfAgo = (age: string, remark: string) => `The proof of ${age} ago failed: ${remark}.`;
export const findWhatIsStill = "Find what is still wrong";
export const orTakeTheReadings = ", or take the readings again.";
export const printTheReport = "Print the report";
export const stillToBeDone = "Still to be done";
export const beforeAndAfter = "Before and after";
export const check = "Check";
export const before = "Before";
export const after = "After";
export const goodIs = "Good is";
export const currentTraces = "Current traces";
export const layOneOverThe = "Lay one over the other";
export const andBesides = "Also check";
export const ifItCanBe = "if it can be done";
export const thingsOfTheStrip = (left: number) =>
  plural(left, {
    one: "1 thing of the strip-down is neither back nor explained.",
    other: `${left} things of the strip-down are neither back nor explained.`,
  });
export const putThemBack = "Put them back";
export const sign = "Sign";
export const itWas = (text: string) => `It was${text}`;
export const whatItWas = (parts: string) => `What it was: ${parts}`;
export const nothingWasWrongWith = "nothing was wrong with it";
export const name = "Name";
export const hoursOrMileage = "Hours or mileage";
export const remark = "Remark";
export const neededToAcceptWith = "needed to accept with a remark, or to fail it";
export const passed = "✓ Passed";
export const acceptWithTheRemark = "Accept, with the remark";
export const failed = "✕ Failed";
export const stillMissing = (missing: string) => `Still missing: ${missing}.`;
export const acceptedWithARemark = (parts: string) => `✓ Accepted with a remark: ${parts}`;
export const provedGood = (parts: string) => `✓ Proved good: ${parts}`;
export const aCheckIsOut = (parts: string) => `A check is out of its band: the ${parts} is not proved`;
export const proveTheChecksTo = (parts: string, open: number) =>
  `Prove the ${parts}: ${open} ${plural(open, { one: "check", other: "checks" })} to take`;
export const allChecksAreGood = "All checks are good: tick and sign";
export const signedBefore = "Signed before";
export const goodIsWithLabel = (label: string, aftersays: string, goodsays: string) =>
  `✕ ${label}: ${aftersays}, good is ${goodsays}`;
export const hzWithoutLoadHz = (
  noload: string,
  noloadvolts: string,
  fullload: string,
  volts: string,
  droop: string,
  says: string,
) => `${noload} Hz${noloadvolts} without load; ${fullload} Hz${volts} with load; droop ${droop}. ${says}`;
export const nominal = "Nominal";
export const hz = "Hz";
export const withoutLoad = "Without load";
export const withoutLoadVolts = "Without load, volts";
export const withLoad = "With load";
export const withLoadVolts = "With load, volts";
export const take = "Take";
export const afterWithLabel = (label: string) => `After: ${label}`;
