import { plural } from "../shared/plural";

// strip.ts
export const movedAside = "moved aside";
export const doNotDisturb = "do not disturb";
export const doneBesides = "done besides";
export const cameOff = "came off";
export const foundLikeThis = "found like this";
export const workDone = "work done";

// Bench.tsx
export const whatToFindOut = "What to find out";
export const whatDoYouWant = "What do you want to find out?";
export const keptWithThisJob = "Kept with this job";
export const takeAway = "take away";
export const good = "✓ Good";
export const nearItsLimit = "! Near its limit";
export const bad = "✕ Bad";
export const thisCannotTell = "? This cannot tell";
export const ofThe = "Of the";
export const part = "Part";
export const ifKnown = "if known";
export const next = "Next:";
export const twoSchools = "Two schools";
export const countItAsEvidence = "Count it as evidence";
export const keepAsANote = "Keep as a note";
export const counted = "✓ counted";

// Craft.tsx
export const searchTheNotes = "Search the notes";
export const bearingCirclipLongBolts = "bearing, circlip, long bolts …";
export const ours = (words: string) => `ours: ${words}`;
export const noNoteSaysThis = "No note says this. Add your own:";
export const aNoteCanBe = "A note can be added";
export const wordsItBelongsTo = "Words it belongs to";
export const standsBesideTailLift = "stands beside: tail lift, pump";
export const noteOfTheCraft = "Note of the craft";
export const whatTheNextOne = "what the next one should know";
export const addOurOwnNote = "Add our own note";

// Photos.tsx
export const takeThePhotoOf = (label: string) => `Take the photo of ${label} away`;
export const photoOf = (label: string) => `Photo of ${label}`;
export const photoFileOf = (label: string) => `Photo file of ${label}`;
export const sendingThePhoto = "Sending the photo";
export const waitsToBeSent = ", waits to be sent";
export const photoOfWithLabel = (label: string, at: string) => `Photo of ${label}${at}`;

// Strip.tsx
export const doNotTurn = "do not turn";
export const example8mm = "8 mm";
export const example10mm = "10 mm";
export const whatCameOff = "What came off";
export const whatCameOffNext = "What came off next? 2x 8 mm long bolt, thin";
export const change = "Change";
export const putDown = (n: number) => `Put down ${n}`;
export const words = "Words";
export const craft = "Craft";
export const oneLineEachEnter =
  "One line each, Enter after it: what it is, how many, what size, what to mind. A stack in its order: “washer, washer, large washer, nut”. Also “unplug blue plug”, “mark: cap to case”. What you find stands here too: “bearing rough”, “one brush missing”; and what you did besides: “cabin filter changed”.";
export const putBackInReverse = "Put back, in reverse";
export const besideTheRecord = "Beside the record";
export const inside = "Inside";
export const bench = "Bench";
export const countsAsEvidence = "counts as evidence";
export const whatIs = (text: string) => `What is “${text}”?`;
export const changeWithText = (text: string) => `Change ${text}`;
export const stripChange = "change";
export const takeInAgain = "Take in again";
export const strikeOut = "Strike out";
export const stripTakeInAgain = "take in again";
export const stripStrikeOut = "strike out";
export const whatCanBeSeen = "What can be seen inside";
export const likeliest = "Likeliest:";
export const onlyIn100That = (share: number) => `⚠ Only ${share} in 100 that it lies in here.`;
export const measureOn = "Measure on";
export const beforeItComesApart = "before it comes apart.";
export const nothingIsTakenApart = "Nothing is taken apart to be looked at on this circuit.";
export const mostTellingNow = "most telling now";
export const tellsMore = "tells more";
export const beforeItIsClosed = "before it is closed up";

// Back.tsx
export const readingTheStripDown = "Reading the strip-down …";
export const nothingCameOff = "Nothing came off";
export const whatIsPutDown = "What is put down under";
export const stripDown = "Strip-down";
export const standsHereInReverse = "stands here in reverse.";
export const allBackNothingLeft = "All back: nothing left over.";
export const ofStillToGo = (n: number, n2: number) => `${n} of ${n2} still to go back`;
export const isBack = (text: string) => `${text} is back`;
export const notBack = (explained: string) => `Not back: ${explained}`;
export const whyItDoesNot = "Why it does not go back";
export const replacedByANew = "replaced by a new one, left off …";
export const doesNotGoBack = "does not go back";
export const beforeItIsCalled = "Before it is called done";
export const thingsAreNeitherBack = (n: number) =>
  `${n} ${plural(n, { one: "thing is", other: "things are" })} neither back nor explained.`;
export const untilThenItCannot = "Until then it cannot be proved.";
export const everythingIsBackOr = "✓ Everything is back or explained.";
export const proveIt = "Prove it";
export const itWasOffThe = "It was off the supply";
export const always = "Always";
export const isBackWithStack = (stack: string) => `${stack} is back`;
