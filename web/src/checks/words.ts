// BlinkCounter.tsx
export const tapWithEachFlash = "Tap with each flash";
export const tapWithTheLamp = "tap with the lamp, or space bar";
export const whenDoesItFlash = "When does it flash?";
export const fromKeyOn = "from key-on";
export const onlyAfterTheLever = "only after the lever is moved";
export const rounds = (rounds: string) => `Rounds: ${rounds}`;
export const codeSureRecord = (code: number, sure: string) => `Code ${code}, ${sure} sure: record`;
export const noCode = "No code";
export const orTypeTheCode = "Or type the code";
export const orTypeIt = "or type it";
export const codeRecord = (typed: string) => `Code ${typed}: record`;
export const beginAgain = "Begin again";

// Checks.tsx
export const leaning = "Leaning";
export const meterFirst = "meter first";
export const quickTricksFirst = "quick tricks first";
export const needsTheConnection = "needs the connection";
export const everyAnswerCountsAt = "Each answer counts at once.";
export const likeliestSoFar = "Likeliest so far:";
export const goOnToMeasuring = "Go on to measuring";
export const mostTellingNow = "· most telling now";
export const notSure = "not sure";
export const secondPerson = ", second person";
export const tellsNow = (minutes: string, people: string, bits: string) =>
  `${minutes}${people}; tells ${bits} now.`;
export const showMoreThatTell = (n: number) => `Show ${n} more that tell little now`;
