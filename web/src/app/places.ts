import type { AppState } from "./context";
import type { Target } from "./Going";
import * as words from "./words";

/** A page of the house: what it is called, where it is, who has it. */
export interface Place {
  to: string;
  label: string;
  /** What else is looked for when it is meant. */
  also?: string;
  /** It can be opened without a connection. */
  here?: boolean;
  manage?: boolean;
}

const all: Place[] = [
  { to: "/", label: words.board, also: words.jobsOpenWaiting, here: true },
  { to: "/machines", label: words.machines, also: words.vehiclesHistory },
  { to: "/logbook", label: words.logbook, also: words.closedJobsLearnedSearch },
  { to: "/training", label: words.trainer, also: words.exerciseDrillLearn, here: true },
  { to: "/circuits", label: words.circuits, also: words.familiesOwnCircuit },
  { to: "/codes", label: words.blinkCodes, also: words.controllerFlashFaultCodes },
  { to: "/instruments", label: words.meters, also: words.clampScopeInstrumentLive },
  { to: "/parts", label: words.partsAndPrices, also: words.priceListSupplier },
  { to: "/people", label: words.people, also: words.technicianPasswordRole, manage: true },
  { to: "/settings", label: words.settings, also: words.workshopCurrencyUnitsBackup, manage: true },
];

/** The pages that a person has, in the order of the frame. */
export const placesOf = (app: Pick<AppState, "mayManage">) => all.filter((p) => !p.manage || app.mayManage);

/** Whether an address is this page or stands under it. */
export const isAt = (p: Place, pathname: string) =>
  p.to === "/"
    ? pathname === "/" || pathname.startsWith("/jobs/") || pathname === "/start"
    : pathname === p.to || pathname.startsWith(p.to + "/");

/** The pages by the keys after G: numbers in the order of the frame, and B for the board. */
export const placeTargets = (app: Pick<AppState, "mayManage">): Target[] => [
  { key: "b", label: words.board, to: "/" },
  ...placesOf(app)
    .slice(1)
    .map((p, i) => ({ key: String(i + 1), label: p.label, to: p.to })),
];
