import { plural } from "../shared/plural";

// Symptom.tsx
export const itShowedTheFault = "It showed the fault";
export const theFaultWasAway = "The fault was away";
export const cannotSay = "Cannot say";
export const wasTheFaultThere = "Was the fault there just now?";

// own.ts
export const volts = "Volts";
export const amps = "Amps";
export const ohms = "Ohms";
export const acVolts = "AC volts";
export const hertz = "Hertz";
export const microfarads = "Microfarads";

// CurrentPath.tsx
export const bar = "bar";
export const voltsLostAgainstAllowed = "volts lost against allowed ·";
export const dots = "dots";
export const suspicionTenIsCertain = "suspicion, ten is certain ·";
export const dotted = "dotted";
export const aGoodCircuit = "a good circuit ·";
export const shaded = "shaded";
export const stillPossible = "still possible";
export const lost = (measured: string) => `${measured} lost`;
export const notMeasured = "not measured";
export const suspicion = (label: string, text: string, suspect: string) =>
  `${label}: ${text}, suspicion ${suspect}`;
export const currentPath = (label: string) => `Current path. ${label}`;
export const supplySideVoltsTo = "supply side, volts to battery −";
export const groundSideVoltsTo = "ground side, volts to battery −";
export const expected = (low: string) => `expected ${low}`;
export const probePoint = "Probe point";
export const putAProbeHere = (seen: string, value: string) => `${seen}. ${value}. Put a probe here`;
export const floating = "floating";
export const motorAcrossThe = (volts: string, label: string) => `Motor ${volts} across the ${label}`;
export const motorThe = (label: string) => `Motor: the ${label}`;
export const motor = "Motor";
export const suspicionWithShare = (share: string) => `suspicion ${share}`;
export const tooMuch = (times: string) => ` · ${times}× too much`;
export const atTheLimit = " · at the limit";
export const good = " · good";
export const ofV = (measured: string, allowed: string, text: string) => `${measured} of ${allowed} V${text}`;
export const allowedV = (allowed: string) => `allowed ${allowed} V`;
export const max = (allowed: string) => `max ${allowed}`;
export const whatItIsAnd = (text: string, written: string) =>
  `${text}${written}: what it is and what was read`;
export const path = (path: string) => `${path} path`;
export const open = " (open)";
export const whatItIsAndWhat = (label: string, openat: string) =>
  `${label}${openat}: what it is and what was read`;
export const putAProbeHereWithBoolean = (boolean: string) => `${boolean}. Put a probe here`;

// Keypad.tsx
export const keypad = "Keypad";

// live.ts
export const theServerDoesNot = "The server does not answer: the live reading comes back by itself.";
export const ohm = (leadsohm: number) => `${leadsohm} ohm`;

// NextReading.tsx
export const nextReading = "Next reading";
export const noReadingIsWorth = "No reading is worth its minutes now.";
export const whatStandsOnThe =
  "What stands on the right is what can be known with these means. Enter any other reading by touching two points on the path, or decide on what is known.";
export const yourOwnReading = "Your own reading";
export const yourOwnReadingTouch = "Your own reading: touch the point for the black lead";
export const secondPerson = " · second person";
export const next = (minutes: string, people: string) => `Next · ${minutes}${people}`;
export const backToTheAdvised = "back to the advised one (Esc)";
export const showThePath = (label: string) => `show the path: ${label}`;
export const dcVolts = "DC volts";
export const readTheScopeS = "Read the scope’s file, or capture from it";
export const itAnswersByItself = ": it answers by itself. Or answer by eye:";
export const understood = "Understood";
export const anotherReading = "Another reading";
export const walkThePath = "Walk the path";
export const cannotReach = "Cannot reach";
export const notSure = "not sure";
export const goodWithGood = (good: string) => `Good: ${good}.`;
export const ifItIsThe = (ol: string, station: string) => `${ol} if it is the ${station}.`;
export const afterATap = "after a tap";
export const takenWhile = "Taken while";
export const bringItOutOn = "Bring it out; on a logged drive enter minimum and maximum as two readings.";
export const whatTheMeterShows = "What the meter shows";
export const exampleReading = "11.9  250m  OL";
export const typeWhatTheMeter = "Type what the meter shows, or what you read here before.";
export const asInAGood = ": as in a good circuit";
export const notWhatAGood = ": not what a good circuit shows";
export const record = "Record";
export const whatDoesTheDisplay = "What does the display show?";
export const whatStandsOnTheDisplay = "What stands on the display?";
export const zeroOhms = "“0.0” or “00.1”: the leads are joined, zero ohms";
export const ol1OrOpen = "“OL”, “1 .” or “- - -”: open, nothing joins them";
export const readWith = "Read with";
export const anOrdinaryClamp = "an ordinary clamp";
export const anOrdinaryMeter = "an ordinary meter";
export const liveReading = "Live reading";
export const takenWhenItRests = "taken when it rests";
export const atRest = "at rest";
export const moving = "moving";
export const leastMostMean = (armed: string, mintext: string, maxtext: string, meantext: string) =>
  `${armed} · least ${mintext}, most ${maxtext}, mean ${meantext}`;
export const take = "Take";
export const takeTheLeast = "Take the least";

// OwnChoice.tsx
export const whatIsSeenOr = "What is seen or heard";
export const close = "close";
export const looks = "Checks";
export const clampRound = "Clamp round";
export const ohmsOf = "Ohms of";
export const ownChoiceClampRound = "Clamp round …";
export const ofAPartPulled = "of a part, pulled out …";
export const or = "or";
export const redOn = "Red on";
export const blackOn = "Black on";

// OwnPicker.tsx
export const orTouchTwoPoints = "Or touch two points, or a part, on the path";
export const otherReading = "Other reading";
export const oneMoment = "One moment …";

// PathStrip.tsx
export const pathWithLabel = (label: string) => `${label} path`;
export const pathStripTooMuch = ", too much";
export const pathStripAtTheLimit = ", at the limit";
export const pathStripGood = ", good";
export const ofVWithMeasured = (measured: string, allowed: string, v: string) =>
  `${measured} of ${allowed} V${v}`;

// Suspicion.tsx
export const weighingEachReadingAgain = "Weighing each reading again …";
export const nothingWasReadYet = "Nothing was read yet: from the first reading on it stands here.";
export const leftBeforeAnythingWas = "Left: before anything was read. Right: now.";
export const picture = "Picture";
export const numbers = "Numbers";
export const oneReadingBack = "One reading back";
export const beforeAnythingWasRead = "Before anything was read";
export const oneReadingOn = "One reading on";
export const after = "After";
export const nothingYet = "nothing yet";

// Side.tsx
export const suspects = "Suspects";
export const whatIsKnown = "What is known";
export const readings = (n: number) => `Readings (${n})`;
export const howItWent = "How it went";
export const aloneOrWithOthers = (total: string) => `alone or with others ${total}`;
export const accusedBy = "accused by";
export const clearedBy = "cleared by";
export const nothingReadAccusesOr = "nothing read accuses or clears it yet";
export const nothingTakenYetThe = "Nothing taken yet. The card on the left says where to begin.";
export const by = (by: string) => `by ${by}`;
export const thePictureAndThe = "The picture and the verdict as they stood after this one";
export const then = "then";
export const takeBack = "take back";
export const strikeOut = "strike out";

// States.tsx
export const stateOfTheCircuit = "State of the circuit";

// VerdictCard.tsx
export const goodEnoughToDecide = "Good enough to decide";
export const theseReadingsClash = "These readings clash";
export const nothingWrongFound = "Nothing wrong found";
export const verdictSure = (probability: string) => `Verdict, ${probability} sure`;
export const verdict = "Verdict";
export const restsOn = (rests: string) => `Rests on ${rests}.`;
export const likeliestSlip = "Likeliest slip:";
export const strikeItOutAnd = (slip: string) => `${slip} Strike it out and enter it again.`;
export const verdictCardThen = "Then:";
export const repairOrReplace = "Repair or replace?";
export const oneMoreReadingFirst = "One more reading first";

// Walk.tsx
export const walkWalkThePath = "Walk the path ·";
export const endTheWalkEsc = "end the walk (Esc)";
export const blackStaysOnBattery = (circuit: string) =>
  `Black stays on battery minus. Red on the ${circuit}.`;
export const theWalkIsDone = "The walk is done.";
export const typeEnterMoveOn = "Type, Enter, move on";
export const nextPlace = "Next place";
export const seeWhatItSays = "See what it says";
export const skipThisPlace = "Skip this place";

// Marks.tsx
export const wireColour = "Wire colour";
export const connector = "Connector";
export const pin = "Pin";
export const fusePosition = "Fuse position";
export const place = "Place";
export const behindTheLeftKick = "behind the left kick panel";
export const nothingFromTheWiring = "Nothing from the wiring diagram yet.";
export const needsTheConnection = "needs the connection";
export const change = "change";
export const enter = "enter";
export const itCanBeKept = "It can be kept";
export const machineLikeThis = "machine like this";
export const keepForEvery = (kind: string) => `Keep for every ${kind}`;
export const anotherPhoto = "Another photo";
export const photoOfTheDiagram = "Photo of the diagram";
export const touchThePlaceTo = "Touch the place to mark it";
export const wiringDiagramAt = (label: string) => `Wiring diagram at ${label}`;

// StationCard.tsx
export const voltsAcrossIt = "Volts across it";
export const ampsThroughIt = "Amps through it";
export const itsOhms = "Its ohms";
export const where = "Where";
export const between = "Between";
export const and = (circuit: string, circuit2: string) => `${circuit} and ${circuit2}`;
export const mayLose = "May lose";
export const atNormalCurrentCommon = (alloweddrop: string) =>
  `${alloweddrop} at normal current (common practice; the vehicle’s own manual wins)`;
export const access = "Access";
export const aboutMinutes = (access: number) =>
  `, about ${plural(access, { one: "1 minute", other: `${access} minutes` })}`;
export const stationCardSuspicion = "Suspicion";
export const enterAReading = (label: string) => `Enter a reading, ${label}`;
export const whatItCouldBe = "What it could be";
export const thisWasPutRight = "This was put right: go on from here";
export const readingsSoFarKeep =
  "Readings so far keep their weight for everything else; the next ones are judged with it in order.";
export const fromTheWiringDiagram = "From the wiring diagram";
export const readingsThatTouchIt = "Readings that touch it";
export const noneYet = "None yet.";

// Measure.tsx
export const noCurrentExpected = "no current expected";
export const expectedWithHigh = (high: string) => `${high} expected`;
export const entries = (count: number) => plural(count, { one: "entry", other: "entries" });
export const spent = (spentminutes: string) => `${spentminutes} spent`;
export const aboutToGo = (togominutes: string) => `about ${togominutes} to go`;
export const before = "◀ before";
export const asItStoodAfter = (then: number, all: number) => `As it stood after ${then} of ${all}`;
export const measureAfter = "after ▶";
export const backToNowEsc = "back to now (Esc)";
export const measureNext = "Next";
export const weighingWhatToDo = "Weighing what to do next …";
export const redOnBlackOn = (dial: string, red: string) => `${dial}. Red on the ${red}, black on …`;
export const whatIsReadIn = (state: string) => `What is read: ${state}`;

// Heard.tsx
export const recorded = (what: string, answer: string) => `Recorded. ${what}: ${answer}.`;
export const leads = (suspect: string, share: string) => `Likeliest now: ${suspect}, ${share}.`;
