import type { AppState } from "./context";
import type { Target } from "./Going";

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
  { to: "/", label: "Board", also: "jobs open waiting", here: true },
  { to: "/machines", label: "Machines", also: "vehicles history" },
  { to: "/logbook", label: "Logbook", also: "closed jobs learned search export" },
  { to: "/training", label: "Trainer", also: "exercise drill learn", here: true },
  { to: "/circuits", label: "Circuits", also: "families own circuit" },
  { to: "/codes", label: "Blink codes", also: "controller flash fault codes" },
  { to: "/instruments", label: "Meters", also: "clamp scope instrument live" },
  { to: "/parts", label: "Parts and prices", also: "price list supplier" },
  { to: "/people", label: "People", also: "technician password role", manage: true },
  { to: "/settings", label: "Settings", also: "workshop currency units backup", manage: true },
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
  { key: "b", label: "Board", to: "/" },
  ...placesOf(app)
    .slice(1)
    .map((p, i) => ({ key: String(i + 1), label: p.label, to: p.to })),
];
