// The repairs of a job, in words.
import type { RepairView } from "../api/client";
import * as words from "./words";

/** How far a repair is, as one says it. */
export const statusWords: Record<RepairView["status"], string> = {
  chosen: words.toDo,
  left: words.leftAsItIs,
  changed: words.takenBack,
  done: words.doneNotProvedYet,
  failed: words.doneAndNotGood,
  proved: words.provedGood,
  accepted: words.acceptedWithARemark,
  succeeded: words.theLastingRepairHas,
};

/** The last repair that is chosen and not done. */
export const toDo = (work: RepairView[]) => work.findLast((w) => w.status === "chosen");

/** Whether some repair is done and waits for its proof. */
const toProve = (work: RepairView[]) => work.some((w) => w.status === "done" || w.status === "failed");

/** Whether everything that was chosen is done and proved, or left. */
export const settled = (work: RepairView[]) =>
  work.some((w) => w.status !== "changed") && !toDo(work) && !toProve(work);
