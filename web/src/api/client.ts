// The server, typed from its own OpenAPI document. Server state lives in one
// query cache; a write answers with the whole job, which replaces what is cached.
import createClient from "openapi-fetch";
import { inOurWriting } from "../shared/written";
import type { components, paths } from "./schema";

export const api = createClient<paths>({ baseUrl: "" });

type S = components["schemas"];
export type Job = S["JobView"];
/** What may be changed of a job. */
export type JobChange = S["JobChange"];
export type Row = S["Row"];
export type Me = S["Me"];
export type Preferences = S["Preferences"];
/** The workshop's settings. */
export type Workshop = S["Settings"];
export type PeopleView = S["PeopleView"];
export type Person = S["PersonView"];
export type Evidence = S["Evidence"];
export type NewEvidence = Omit<Evidence, "shown" | "by">;
export type Suggestion = S["Suggestion"];
export type Picture = S["Picture"];
export type PicturePath = S["PicturePath"];
export type PictureNode = S["PictureNode"];
export type PictureStation = S["PictureStation"];
export type Preview = S["Preview"];
export type Circuit = S["Circuit"];
export type OptionsView = S["OptionsView"];
export type Compare = S["Compare"];
/** A current trace as it is kept with a job. */
export type TraceIn = NonNullable<
  paths["/api/jobs/{id}/traces"]["put"]["requestBody"]
>["content"]["application/json"];
export type JobTerms = S["JobTerms"];
export type CalcView = S["CalcView"];
export type Option = S["Option"];
export type Part = S["Part"];
/** What a workshop's own jobs say of a circuit's faults. */
export type LearnView = S["LearnView"];
export type ReliabilityView = S["ReliabilityView"];
/** How far a job has come, and what is to be done next. */
export type PathView = S["PathView"];
/** How suspicion went, reading by reading. */
export type SuspicionView = S["SuspicionView"];
export type ProveView = S["ProveView"];
/** One repair of a job: what was found, chosen, done and proved. */
export type RepairView = S["RepairView"];
export type Wishes = S["Wishes"];
export type Paper = S["Paper"];
export type AttemptView = S["AttemptView"];
export type Move = S["Move"];
/** One question of the drill. */
export type Round = S["Round"];
export type Machine = S["Machine"];
/** All that is known of one machine. */
export type MachineView = S["MachineView"];
export type LogEntry = S["LogEntry"];
export type Terms = S["Terms"];
export type Figures = S["Figures"];
export type Mark = S["Mark"];
export type Edit = S["Edit"];
export type Station = S["Station"];
export type StripView = S["StripView"];
export type StripItem = S["StripItem"];
export type Calculator = S["Calculator"];
export type ScheduleView = S["ScheduleView"];
export type SettingsView = S["SettingsView"];
export type Instrument = S["InstrumentView"];

/** One thing that is entered into a job, in the form in which the core puts it there: one of its parts is there. */
export interface Write {
  at: string;
  by: string;
  evidence?: NewEvidence[];
  strike?: { evidence: string; out: boolean };
  patch?: JobChange;
  line?: S["NewLine"];
  change?: S["LineChange"] & { item: string };
  note?: { id: string; text: string; detail?: unknown };
  drop_note?: string;
  tick?: { tick: string; value: string };
  terms?: JobTerms;
  choice?: S["DecideIn"];
  work?: S["WorkIn"];
  reword?: { repair: string; what: string };
  sign?: S["ProofIn"];
}

/** A refusal, in the server's one clear sentence. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Unwraps an answer, or throws what the person should read. */
export async function must<T>(p: Promise<Answer<T>>): Promise<T> {
  let a: Answer<T>;
  try {
    a = await p;
  } catch {
    throw new Refused(0, "No connection to the workshop's server. Nothing was lost: try again.");
  }
  if (!a.response.ok) {
    const e = a.error as { detail?: string; errors?: { message?: string; location?: string }[] } | undefined;
    const first = e?.errors?.[0];
    const text =
      a.response.status === 422 && e?.detail === "validation failed" && first
        ? `${first.location?.replace(/^body\./, "") ?? "This"}: ${first.message ?? "is not right"}.`
        : e?.detail;
    throw new Refused(a.response.status, text ?? "The server did not answer as expected. Try again.");
  }
  return inOurWriting(a.data as T);
}
