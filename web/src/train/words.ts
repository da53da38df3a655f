import { plural } from "../shared/plural";

// attempt.ts
export const thisExerciseWasNot =
  "This exercise was not opened here before: it can be worked once the connection is back.";

// Drill.tsx
export const makingUpAMachine = "Making up a machine …";
export const ofRightSoFar = (right: number, of: number) => ` · ${right} of ${of} right so far`;
export const right = "Right.";
export const notThisTime = "Not this time.";
export const next = "Next";

// Training.tsx
export const trainer = "Trainer";
export const findTheFault = "Find the fault";
export const aMachineWithA =
  "A machine with a hidden fault, a meter, and minutes that count. Being wrong costs nothing here.";
export const workedSoFar = (done: number) => `${done} worked so far.`;
export const anyMachine = "Any machine";
export const circuit = "Circuit";
export const faults = "Faults";
export const oneFault = "one fault";
export const twoFaults = "two faults";
export const aFaultThatComes = "a fault that comes and goes";
export const numberOfTheMachine = "Number of the machine";
export const numberToShare = "number, to share";
export const start = "Start";
export const theSameCircuitAnd = "The same circuit and number give everybody the same machine.";
export const whatEverybodyWorked = "What everybody worked";
export const whatYouWorked = "What you worked";
export const notFinished = "not finished";
export const drill = "Drill";

// Debrief.tsx
export const score = (score: number) => `Score ${score}`;
export const stop = "Stop.";
export const found = "Found.";
export const theRightPart = "The right part.";
export const toTakeHome = "To take home:";
export const theSameAgain = "The same again";
export const anotherOne = "Another one";
export const moveByMove = "Move by move";
export const min = (max: number) => ` · ${max} min`;
export const toldTheTruePart = (bits: string, right: number) =>
  `told ${bits}; the true part is then at ${right} per cent`;
export const toldTruePart = (bits: string, right: number) => `told ${bits} · true part ${right} %`;
export const theAdviser = (better: string, why: string) => `The adviser: ${better}${why}`;
export const asTheAdviserWould = "✓ as the adviser would";
export const notRuledOutWhen = "Not ruled out when you decided:";
export const onThisMachineYou = (
  minutes: string,
  adviserminutes: string,
  adviserreadings: number,
  textbookminutes: string,
) =>
  `On this machine: you ${minutes} minutes, the adviser ${adviserminutes} with ${adviserreadings} readings and checks, the textbook’s order ${textbookminutes}.`;
export const lookingForTheShortest = "Looking for the shortest way there was …";
export const minute = "minute";
export const minutes = "minutes";
export const withHindsightWouldHave = (minutes: string, minutes2: string, moves: string) =>
  `With hindsight ${minutes} ${minutes2} would have done: ${moves}.`;
export const noShortWayWas = "No short way was found, even with hindsight.";

// Display.tsx
export const sinceSwitchingOnLeast = (least: string) => `since switching on: least ${least}, most`;
export const settling = "settling …";
export const itWorksJustNow = " It works just now.";
export const itFailsJustNow = " It fails just now.";
export const theCurrentOverMilliseconds = (seconds: string, mean: string) =>
  `The current over ${seconds} milliseconds, four turns of the motor, ${mean} amperes on average`;
export const msFourTurns = (seconds: string) => `${seconds} ms, four turns`;

// Attempt.tsx
export const vDc = "V DC";
export const aClamp = "A clamp";
export const aLeads = "A leads";
export const mv = (v: number) => `${v} mV`;
export const spent = (minutes: number) => plural(minutes, { one: "1 minute", other: `${minutes} minutes` });
export const inParts = (money: string) => `, ${money} in parts`;
export const hints = (hints: number) => plural(hints, { one: "hint", other: "hints" });
export const machine = (seed: number) => `· machine ${seed}`;
export const path = (label: string) => `${label} path`;
export const lead = (flag: string) => `, ${flag} lead`;
export const clampRoundItsWire = (label: string) => `${label}: clamp round its wire`;
export const whatToDo = "What to do";
export const measure = "Measure";
export const look = "Check";
export const replace = "Replace";
export const verdict = "Verdict";
export const whileYouDoIt = "While you do it";
export const asItStands = "as it stands";
export const wiggled = "wiggled";
export const hot = "hot";
export const cold = "cold";
export const afterATap = "after a tap";
export const dial = "Dial";
export const range = "Range";
export const autoRange = "auto range";
export const holdTheLeadsTogether = "Hold the leads together";
export const zeroTheClamp = "Zero the clamp";
export const clampRoundThe = "Clamp round the";
export const touchThePartWhose = "Touch the part whose wire the clamp goes round.";
export const redOnTheBlack = (red: string, black: string) => `Red on the ${red}, black on the ${black}.`;
export const nextTouchSets = (lead: string) => `next touch sets ${lead}`;
export const clipTheLeadsOn = "Clip the leads on, hands off";
export const read = "Read";
export const nothingToLookAt = "Nothing to check in this state: choose another.";
export const aNewPartCosts = "A new part costs its minutes and its money, as in life.";
export const partToReplace = "Part to replace";
export const whichPart = "which part";
export const replaceIt = "Replace it";
export const partAtFault = "Part at fault";
export const whichPartIsIt = "which part is it";
export const nothingIsWrong = "nothing is wrong";
export const whatIsWrongWith = "What is wrong with it";
export const whatIsWrongWithIt = "what is wrong with it";
export const repairOrReplace = "Repair or replace";
export const repairIt = "repair it";
export const attemptReplaceIt = "replace it";
export const thisIsMyVerdict = "This is my verdict";
export const aHintForSome = "A hint, for some points";
export const to = (from: string, label: string) => `${from} to ${label}`;
export const newWord = (label: string) => `new ${label}`;
export const whatIsDoneFirst = "What is done first?";
export const nothingJustDoIt = "Nothing, just do it";
export const notNow = "not now";
export const before = (state: string) => `Before “${state}”`;
