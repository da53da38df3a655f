import { plural } from "../shared/plural";

// Learned.tsx
export const circuit = "Circuit";
export const kindOfMachine = "Kind of machine";
export const allMachines = "all machines";
export const ageOfTheMachine = "Age of the machine";
export const ofAnyAge = "of any age";
export const under5YearsOld = "under 5 years old";
export const years5To11 = "5 to 11 years old";
export const years12AndMore = "12 years old or more";
export const learnFromAllJobs = "Learn from all jobs again";
export const learnAnewFromToday = "Learn anew from today";
export const noConfirmedJobOn = "No confirmed job on this circuit yet: the rates are as shipped.";
export const confirmedJobsOnThis = (of: number) =>
  `${of} confirmed ${plural(of, { one: "job", other: "jobs" })} on this circuit here.`;
export const asItShips = "as shipped";
export const asItIsTaken = "as counted here";
export const jobsBeforeDoNot = (since: string) => `Jobs before ${since} do not count.`;
export const hereOf = (n: number, of: number) => `here ${n} of ${of}`;
export const notYetHere = "not yet here";
export const takenAsOfThe = (text: string, here: number, shipped: number) =>
  `${text}: counted as ${here} % of the faults (as shipped: ${shipped} %)`;
export const perCentBetweenAnd = (here: number, low: number, high: number) =>
  `${here} per cent, between ${low} and ${high}`;
export const gettingThere = "Getting there";
export const takenAsMinInstead = (here: number, shipped: number, n: number) =>
  `counted as ${here} min instead of ${shipped}, from ${n} ${plural(n, { one: "job", other: "jobs" })} here`;
export const ownJobsShiftThe =
  "Our own jobs move the rates little by little: thirty of them weigh as much as the rates as shipped. A new job on this circuit starts from these shares; its Complaint page says what they moved.";

// Entry.tsx
export const oldList = "old list";
export const open = "open";
export const goingOn = "going on";

// ListImport.tsx
export const priceLists = "Price lists";
export const aCsvWhoseFirst =
  "A CSV whose first line names its columns: name and price, and kind, number, size, days, stock, supplier where known.";
export const anOldListOf = "An old list of jobs";
export const aCsvWhoseFirstLine =
  "A CSV whose first line names its columns: machine, date and complaint, and done, fault, circuit, price where known.";
export const days = (days: number) => `, ${plural(days, { one: "1 day", other: `${days} days` })}`;
export const whoseListItIs = "Whose list it is";
export const listImportWhoseListItIs = "whose list it is";
export const chooseTheCsv = "Choose the CSV";
export const csvOfParts = "CSV of parts";
export const csvOfOldJobs = "CSV of old jobs";
export const keepLines = (good: number) => plural(good, { one: "Keep 1 line", other: `Keep ${good} lines` });
export const linesKept = (kept: number) =>
  plural(kept, { one: "✓ 1 line kept.", other: `✓ ${kept} lines kept.` });
export const ofLinesAreWrong = (wrong: number, good: number) =>
  `${plural(wrong, { one: `1 line of ${good} is`, other: `${wrong} lines of ${good} are` })} wrong. Correct the file and choose it again: nothing was kept.`;
export const linesCanBeKept = (good: number) =>
  plural(good, { one: "1 line can be kept.", other: `${good} lines can be kept.` });
export const line = (n: number) => `line ${n}`;
export const findAPart = "Find a part";
export const brush7x11x16Bearing20x47x14 = "brush 7x11x16, bearing 20x47x14, starter";
export const there = (stock: number) => `${stock} in stock`;
export const outOfStock = "out of stock";
export const delivery = (days: number) => plural(days, { one: "1 day", other: `${days} days` });

// Reliability.tsx
export const counting = "Counting …";
export const noVerdictWasConfirmed =
  "No verdict was confirmed yet. What a job turned out to be is entered when its repair is proved.";
export const rightOfTimes = (right: number, claims: number) =>
  `Right in ${right} of ${plural(claims, { one: "1 job", other: `${claims} jobs` })}.`;
export const readingsAndLooksA = (readings: string) => `${readings} readings and checks a job`;
export const minutesOfThem = (minutes: string) => `, in ${minutes} minutes`;
export const claimedPerCentRight = (mean: number, right: number, n: number) =>
  `claimed ${mean} per cent, right ${right} of ${n}`;
export const claimed = "Claimed";
export const jobs = "Jobs";
export const right = "Right";
export const interval95 = "95 % interval";
export const to = (wlow: string, whigh: string) => `${wlow} to ${whigh} %`;
export const whatItGotWrong = "What it got wrong";
export const nothingYet = "Nothing yet.";
export const itWas = (fault: string) => `: it was ${fault}.`;

// Logbook.tsx
export const logbook = "Logbook";
export const whatWeLearned = "What we learned";
export const howRightItWas = "How right it was";
export const searchTheLogbook = "Search the logbook";
export const machinePartWordsOf = "Machine, part, words of the complaint, a reading: 9.87 V  ( / )";
export const allCircuits = "all circuits";
export const from = "From";
export const logbookTo = "To";
export const nothingMatchesFewerWords = (q: string) => `Nothing matches “${q}”. Fewer words, or another day.`;
export const noJobWasClosed = "No job was closed yet.";
export const more = "More";
export const takeAlong = "Download:";
export const caseFiles = "case files";
export const bringAnOldList = "Bring an old list in";

// Parts.tsx
export const partsAndPrices = "Parts and prices";

// ByKind.tsx
export const whatItWasByKind = "What it was, by kind of machine";
export const noKind = "Kind not said";
export const jobsOfKind = (n: number) => plural(n, { one: "1 job", other: `${n} jobs` });

// Times.tsx
export const timeSpent = "Time spent, against advised";
export const timeInAll = (spent: string, advised: string, n: number) =>
  `${plural(n, { one: "On the last job", other: `On the last ${n} jobs` })} finding out took ${spent} minutes; advised were ${advised}. Bar: minutes spent. Mark: minutes advised.`;
export const job = "Job";
export const minutesSpent = "Spent, min";
export const minutesAdvised = "Advised, min";
export const nothing = "nothing";
export const acrossHowSure =
  "Across: how sure the verdict was. Up: how often it was right. On the line, both are the same.";
