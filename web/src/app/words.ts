import { plural } from "../shared/plural";

// Bar.tsx
export const whereYouAre = "Where you are";
export const whereTo = "Where to";
export const noConnection = "No connection.";
export const entriesAreKeptHere = (n: number) =>
  `${n} ${plural(n, { one: "entry is", other: "entries are" })} kept here and sent when it is back. `;
export const jobsAndExercisesThat = "Jobs and exercises that were opened here can be gone on with. ";
export const notTakenByThe = "Not taken by the server:";
export const forgetIt = "forget it";

// Boundary.tsx
export const thisViewFailedWhat = "This view failed. What you entered is kept: open it again.";
export const openItAgain = "Open it again";

// Going.tsx
export const goTo = "Go to …";

// places.ts
export const board = "Board";
export const jobsOpenWaiting = "jobs open waiting";
export const machines = "Machines";
export const vehiclesHistory = "vehicles history";
export const logbook = "Logbook";
export const closedJobsLearnedSearch = "closed jobs learned search export";
export const trainer = "Trainer";
export const exerciseDrillLearn = "exercise drill learn";
export const circuits = "Circuits";
export const familiesOwnCircuit = "families own circuit";
export const blinkCodes = "Blink codes";
export const controllerFlashFaultCodes = "controller flash fault codes";
export const meters = "Meters";
export const clampScopeInstrumentLive = "clamp scope instrument live";
export const partsAndPrices = "Parts and prices";
export const priceListSupplier = "price list supplier";
export const people = "People";
export const technicianPasswordRole = "technician password role";
export const settings = "Settings";
export const workshopCurrencyUnitsBackup = "workshop currency units backup";

// House.tsx
export const needsTheConnection = "needs the connection";
export const aJobAMachine = "A job, a machine, a page or an action";
export const find = "Find";
export const pages = "Pages";
export const lightView = "Light view";
export const darkView = "Dark view";
export const keys = "Keys";
export const nextPerson = "Next person";
export const signOut = "Sign out";

// App.tsx
export const openingTheWorkshop = "Opening the workshop …";
export const oneMoment = "One moment …";
export const signInAgain = "Sign in again";
export const product = "Corriente";

// The server's disk.
export const diskLow = (left: string) => `The server’s disk is nearly full: ${left} left. Make room soon.`;
export const diskFull = (left: string) =>
  `The server’s disk is full (${left} left): readings may wait here until there is room. Tell whoever looks after the server.`;
