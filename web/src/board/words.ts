import { plural } from "../shared/plural";

// waits.ts
export const parts = "Parts";
export const aColdStart = "A cold start";
export const waitsAColdStart = "a cold start";
export const sealantToCure = "Sealant to cure";
export const waitsSealantToCure = "sealant to cure";
export const theCustomerSAnswer = "The customer’s answer";
export const waitsTheCustomerSAnswer = "the customer’s answer";
export const somethingElse = "Something else";

// Board.tsx
export const complaint = "Complaint";
export const quickChecks = "Quick checks";
export const measuring = "Measuring";
export const toDecide = "To decide";
export const decided = "Decided";
export const closed = "Closed";
export const overdue = "Overdue";
export const toDoNow = "To do now";
export const waiting = "Waiting";
export const nothingTakenYet = "nothing taken yet";
export const nothingWrong = "nothing wrong";
export const readingsClash = "readings clash";
export const perhaps = (station: string, probability: string) => `perhaps ${station}, ${probability}`;
export const notDecidedYet = "not decided yet";
export const jobs = (n: number) => plural(n, { one: "job", other: "jobs" });
export const board = "Board";
export const aJobCanBe = "A job can be started when the connection is back";
export const startAJob = "Start a job";
export const searchMachineComplaintPart = "Search machine, complaint, part  ( / )";
export const searchJobs = "Search jobs";
export const openJobsOnly = "Open jobs only";
export const showClosedToo = "Show closed too";
export const calendar = "Calendar";
export const importACase = "Import a case";
export const tryAgain = "Try again";
export const nothingMatches = (find: string) => `Nothing matches “${find}”.`;
export const noOpenJobsStart = "No open jobs. Start one when the next machine comes in.";
export const noComplaintNoted = "no complaint noted";
export const boardOverdue = "Overdue: ";
export const waitsFor = "Waits for ";
export const wasDue = "Was due";
export const due = "Due";
export const readings = (readings: number) =>
  plural(readings, { one: "1 reading", other: `${readings} readings` });
export const checks = (looks: number) => plural(looks, { one: "1 check", other: `${looks} checks` });
export const waitsAndBench = (machine: string) => `Waits and bench: ${machine}`;
